import { Worker } from 'node:worker_threads';
import { RuddleError, fromErrorData } from '#core/errors';
import type { Plan } from '#core/shot';
import { allowThreads, cancelBy, newControl } from '#kernels';
import type { ComputeMessage, ComputeStart } from '#protocol';
import computeUrl from './compute.node.ts?nodeworker';

export type FrameMessage = Extract<ComputeMessage, { kind: 'frame' }>;

export interface ComputeOptions {
  readonly plan: Plan;
  /** Which of the plan's bounds. */
  readonly bounds: number;
  readonly key: string;
  readonly geometry: Readonly<Record<string, string>>;
  readonly threads: number;
  readonly arenaBytes?: number;
  readonly writeFrom?: number;
  readonly have?: readonly number[];
  readonly until?: number | null;
  readonly from?: Uint8Array<ArrayBuffer> | null;
  readonly states?: boolean;
  /** Takes a frame over; the worker runs at most two frames ahead of it. Throwing ends the run. */
  readonly onFrame: (frame: FrameMessage) => Promise<void>;
  readonly onProgress?: (frame: number, part: number) => void;
}

export interface Compute {
  /** Settles when the last frame has been taken over; rejects with a tagged error. */
  readonly finished: Promise<void>;
  cancel(): void;
  /** Threads that may work from now on. */
  allow(threads: number): void;
}

/** Runs one of a plan's bounds in a worker thread. */
export function startCompute(options: ComputeOptions): Compute {
  const control = newControl(options.threads);
  const written = new SharedArrayBuffer(4);
  const count = new Int32Array(written);
  const start: ComputeStart = {
    plan: options.plan,
    bounds: options.bounds,
    key: options.key,
    geometry: options.geometry,
    threads: options.threads,
    arenaBytes: options.arenaBytes ?? null,
    writeFrom: options.writeFrom ?? null,
    have: options.have ?? [],
    until: options.until ?? null,
    from: options.from ?? null,
    states: options.states ?? false,
    control,
    written,
  };
  const worker = new Worker(new URL(computeUrl), { workerData: start });
  const finished = new Promise<void>((resolve, reject) => {
    let chain = Promise.resolve();
    let failure: Error | null = null;
    worker.on('message', (message: ComputeMessage) => {
      switch (message.kind) {
        case 'progress':
          options.onProgress?.(message.frame, message.part);
          return;
        case 'frame':
          chain = chain.then(async () => {
            if (failure === null) {
              try {
                await options.onFrame(message);
              } catch (error) {
                failure = error instanceof Error ? error : new Error(String(error));
                cancelBy(control);
              }
            }
            Atomics.add(count, 0, 1);
            Atomics.notify(count, 0);
          });
          return;
        case 'done':
          void chain.then(() => {
            if (failure === null) resolve();
            else reject(failure);
          });
          return;
        case 'failed':
          // Frames handed over before the failure are kept.
          void chain.then(() => {
            reject(failure ?? fromErrorData(message.error));
          });
          return;
      }
    });
    worker.on('error', (cause) => {
      reject(new RuddleError('internal', `The compute thread failed: ${cause.message}`, { where: 'compute' }, cause));
    });
    worker.on('exit', (code) => {
      if (code !== 0) reject(new RuddleError('internal', `The compute thread ended with code ${String(code)}.`, { where: 'compute' }));
    });
  });
  return {
    finished,
    cancel: () => {
      cancelBy(control);
    },
    allow: (threads) => {
      allowThreads(control, threads);
    },
  };
}

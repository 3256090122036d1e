import { Worker } from 'node:worker_threads';
import { fromErrorData } from '#core/errors';
import type { Plan } from '#core/shot';
import { allowThreads, cancelBy, newControl } from '#kernels';
import type { ComputeMessage, ComputeStart } from '#protocol';
import computeUrl from './compute.node.ts?nodeworker';
import { type Watch, watch } from './watch';

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
  /** Computes this frame next, where frames need no others; else nothing changes. */
  first?(frame: number): void;
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
  let watched: Watch | null = null;
  const finished = new Promise<void>((resolve, reject) => {
    let chain = Promise.resolve();
    let failure: Error | null = null;
    const own = watch(worker, (error) => {
      // Frames handed over before are kept.
      void chain.then(() => {
        reject(failure ?? error);
      });
    });
    watched = own;
    worker.on('message', (message: ComputeMessage) => {
      own.heard();
      switch (message.kind) {
        case 'alive':
          return;
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
            own.heard();
            Atomics.add(count, 0, 1);
            Atomics.notify(count, 0);
          });
          return;
        case 'done':
          own.done();
          void chain.then(() => {
            if (failure === null) resolve();
            else reject(failure);
          });
          return;
        case 'failed':
          own.done();
          // Frames handed over before the failure are kept.
          void chain.then(() => {
            reject(failure ?? fromErrorData(message.error));
          });
          return;
      }
    });
  });
  return {
    finished,
    cancel: () => {
      cancelBy(control);
      watched?.giveUp();
    },
    allow: (threads) => {
      allowThreads(control, threads);
    },
  };
}

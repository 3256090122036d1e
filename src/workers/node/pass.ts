import { Worker } from 'node:worker_threads';
import { RuddleError, fromErrorData } from '#core/errors';
import { listFrames } from '#core/pass';
import { type FollowerPlan, definitionOf } from '#core/passes';
import { allowThreads, cancelBy, newControl } from '#kernels';
import type { PassAnswer, PassAside, PassAsk, PassInputs, PassStart } from '#protocol';
import type { Compute } from './compute';
import { answerFetch } from './fetched';
import passUrl from './pass.node.ts?nodeworker';
import { Reading } from './reading';
import { type Watch, watch } from './watch';

export type PassFrameMessage = Extract<PassAnswer, { kind: 'frame' }>;

export interface PassOptions {
  readonly plan: FollowerPlan;
  readonly key: string;
  readonly inputs: PassInputs;
  readonly geometry: Readonly<Record<string, string>>;
  readonly threads: number;
  /** Frames that are stored. */
  readonly have: readonly number[];
  /** State after a frame, of a pass whose frames follow each other. */
  readonly from: { readonly frame: number; readonly bytes: Uint8Array<ArrayBuffer> } | null;
  readonly states: boolean;
  readonly statesEvery?: number;
  /** Takes a frame over, one at a time; throwing ends the run. */
  readonly onFrame: (frame: PassFrameMessage) => Promise<void>;
  /** Takes over a state after a frame of the pre-roll. */
  readonly onState: (frame: number, bytes: Uint8Array<ArrayBuffer>) => Promise<void>;
  /** A worker that says nothing for so long is taken down, milliseconds. */
  readonly patience?: number;
}

/**
 * Computes a pass: frames that need no others on all cores, the others on one worker whose kernels use them. A worker is given its next frame when the last
 * one is stored, so that nobody runs ahead of the disk, and a number of threads that is lowered is kept to with the next frame.
 */
export function startPass({ plan, have, from, onFrame, onState, patience, threads, ...rest }: PassOptions): Compute {
  const stored = new Set(have);
  const all = listFrames(plan.frames);
  const any = definitionOf(plan.pass).order === 'any';
  const lastMissing = all.findLast((f) => !stored.has(f));
  // On the way to what is missing lie frames that are stored.
  const queue = any
    ? all.filter((f) => !stored.has(f))
    : all.filter((f) => lastMissing !== undefined && f <= lastMissing && f > (from?.frame ?? -Infinity));
  const last = any ? undefined : queue[queue.length - 1];
  const control = newControl(threads);
  const count = Math.min(any ? threads : 1, queue.length);
  let allowed = threads;
  let cancelled = false;
  let failure: unknown = null;
  let chain = Promise.resolve();
  // Starts its process with the first file from outside.
  const reading = new Reading();
  const wake = new Set<() => void>();
  const workers = new Set<Worker>();
  /** Lets those look that wait for a thread. */
  const rouse = (): void => {
    for (const w of wake) w();
    wake.clear();
  };
  const stopped = (): boolean => cancelled || failure !== null;

  const work = async (index: number): Promise<void> => {
    // Whoever begins it can still say which frame is wanted first.
    await Promise.resolve();
    // Frames that need no others have a thread each.
    const start: PassStart = { ...rest, plan, threads: any ? 1 : threads, from: from?.bytes ?? null, control };
    const worker = new Worker(new URL(passUrl), { workerData: start });
    workers.add(worker);
    let fail: (error: Error) => void = () => undefined;
    const lost = new Promise<never>((_resolve, reject) => {
      fail = reject;
    });
    lost.catch(() => undefined);
    const watched = watch(worker, fail, patience);
    worker.on('message', (message: PassAnswer | PassAside) => {
      watched.heard();
      if (message.kind === 'fetch') void answerFetch(reading, message);
      if (message.kind === 'state')
        chain = chain.then(() => onState(message.frame, message.bytes)).catch((error: unknown) => void (failure ??= error));
    });
    try {
      for (;;) {
        while (index >= Math.max(1, allowed) && !stopped() && queue.length > 0) await new Promise<void>((resolve) => wake.add(resolve));
        const frame = queue.shift();
        if (frame === undefined || stopped()) return;
        const answer = await ask(worker, watched, lost, { frame, wanted: !stored.has(frame), last: frame === last });
        if (answer.kind === 'failed') throw fromErrorData(answer.error);
        if (stopped()) return;
        if (!answer.wanted) continue;
        const taken = chain.then(() => onFrame(answer));
        chain = taken.catch(() => undefined);
        await taken;
      }
    } catch (error) {
      failure ??= error;
      cancelBy(control);
    } finally {
      workers.delete(worker);
      watched.done();
      rouse();
      await worker.terminate();
    }
  };

  const working = Promise.all(Array.from({ length: count }, (_v, n) => work(n))).finally(() => {
    reading.close();
  });
  const finished = working.then(() => {
    if (cancelled) throw new RuddleError('cancelled', 'The run was cancelled.', {});
    if (failure !== null) throw failure instanceof Error ? failure : new Error('a pass failed');
  });
  // Whoever waits for it comes later.
  finished.catch(() => undefined);
  return {
    finished,
    cancel: () => {
      cancelled = true;
      cancelBy(control);
      rouse();
      reading.close();
      // In the middle of a frame too: what is stored is whole.
      for (const worker of workers) void worker.terminate();
    },
    first: (frame) => {
      const at = any ? queue.indexOf(frame) : -1;
      if (at > 0) queue.unshift(...queue.splice(at, 1));
    },
    allow: (now) => {
      allowed = now;
      allowThreads(control, now);
      rouse();
    },
  };
}

/** A frame of one worker; `lost` rejects when its thread is. */
async function ask(worker: Worker, watched: Watch, lost: Promise<never>, question: PassAsk): Promise<PassAnswer> {
  watched.heard();
  let hear: (message: PassAnswer | PassAside) => void = () => undefined;
  const answer = new Promise<PassAnswer>((resolve) => {
    hear = (message) => {
      if (message.kind === 'frame' || message.kind === 'failed') resolve(message);
    };
  });
  worker.on('message', hear);
  try {
    worker.postMessage(question);
    return await Promise.race([answer, lost]);
  } finally {
    worker.off('message', hear);
    watched.rest();
  }
}

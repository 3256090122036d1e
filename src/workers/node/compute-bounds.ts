import { isRuddleError } from '#core/errors';
import { optionsOf } from '#core/shot';
import { type Compute, type ComputeOptions, type FrameMessage, startCompute } from './compute';

export interface BoundsOptions extends Omit<ComputeOptions, 'bounds' | 'onFrame' | 'from'> {
  /** State that each bounds begins with; null: the start. They need not be of one frame. */
  readonly from?: readonly (Uint8Array<ArrayBuffer> | null)[];
  /** Takes a frame of every bounds over, in their order. Throwing ends the run. */
  readonly onFrame: (frames: readonly FrameMessage[]) => Promise<void>;
}

/** Threads that each of several bounds has of all: side by side as far as there are threads, never less than one. */
const shareOf = (threads: number, count: number): number => Math.max(1, Math.floor(threads / count));

/** A frame that not every bounds has yet. */
interface Slot {
  readonly parts: (FrameMessage | undefined)[];
  readonly done: Promise<void>;
  readonly settle: (by: Promise<void>) => void;
}

/**
 * Runs all bounds of a plan, each in a worker thread of its own. A frame is handed over when every one has it; none runs more than two frames ahead. When
 * one fails, the others end too.
 */
export function startBounds({ onFrame, onProgress, threads, from = [], have = [], ...options }: BoundsOptions): Compute {
  const count = optionsOf(options.plan).length;
  const waiting = new Map<number, Slot>();
  const slotOf = (frame: number): Slot => {
    let slot = waiting.get(frame);
    if (!slot) {
      let settle: Slot['settle'] = () => undefined;
      const done = new Promise<void>((resolve) => {
        settle = resolve;
      });
      slot = { parts: new Array<FrameMessage | undefined>(count).fill(undefined), done, settle };
      waiting.set(frame, slot);
    }
    return slot;
  };
  const stored = new Set(have);
  let ended = false;
  const reached = new Array<number>(count).fill(-Infinity);
  const runs = Array.from({ length: count }, (_v, bounds) =>
    startCompute({
      ...options,
      bounds,
      have,
      from: from[bounds] ?? null,
      threads: shareOf(threads, count),
      onFrame: (message) => {
        const { frame } = message.report;
        // On the way to what is wanted: one of them may have begun later than another.
        if (ended || stored.has(frame)) return Promise.resolve();
        const slot = slotOf(frame);
        slot.parts[bounds] = message;
        const whole = slot.parts.filter((p) => p !== undefined);
        if (whole.length === count) {
          waiting.delete(frame);
          slot.settle(onFrame(whole));
        }
        return slot.done;
      },
      onProgress: (frame, part) => {
        // The one that is furthest behind says how far the frame is.
        reached[bounds] = frame + part;
        if (reached[bounds] === Math.min(...reached)) onProgress?.(frame, part);
      },
    }),
  );
  const cancel = (): void => {
    ended = true;
    for (const run of runs) run.cancel();
    // A frame that not every bounds will have is waited for no longer.
    for (const slot of waiting.values()) slot.settle(Promise.resolve());
  };
  const each = runs.map((run) =>
    run.finished.catch((error: unknown) => {
      cancel();
      throw error;
    }),
  );
  return {
    // Told when all have ended: the folder is quiet then.
    finished: Promise.allSettled(each).then((ends) => {
      const errors = ends.flatMap((e) => (e.status === 'rejected' ? [e.reason as unknown] : []));
      // What the others were ended by, not that they were ended.
      if (errors.length > 0) throw errors.find((e) => !isRuddleError(e, 'cancelled')) ?? errors[0];
    }),
    cancel,
    allow: (allowed) => {
      for (const run of runs) run.allow(shareOf(allowed, count));
    },
  };
}

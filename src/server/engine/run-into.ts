import { join } from 'node:path';
import { type ErrorData, RuddleError, isRuddleError, toErrorData } from '#core/errors';
import { type DiskGuard, type StoredReport, isDiskFull, writeWhole } from '#server/cache';
import {
  type FrameToStore,
  type Kept,
  type Output,
  RunFolder,
  type RunHead,
  type StateToStore,
  type StoredFrame,
  type StoredState,
  diskFull,
} from './run-folder';

/** What computes: a solve's bounds, or a pass. */
export interface Computing {
  /** Settles when the last frame has been taken over; rejects with a tagged error. */
  readonly finished: Promise<void>;
  cancel(): void;
  /** Threads that may work from now on. */
  allow(threads: number): void;
  first?(frame: number): void;
}

export interface RunOutcome {
  readonly state: 'done' | 'cancelled' | 'failed';
  readonly error: ErrorData | null;
  readonly frames: number;
  /** States that are kept of a run that is done: what is added to its range goes on from them. */
  readonly states: readonly StoredState[];
}

export interface RunningRun {
  readonly outcome: Promise<RunOutcome>;
  cancel(): void;
  allow(threads: number): void;
  /** Computes this frame before the rest, where frames need no others. */
  first(frame: number): void;
}

interface Input<R extends StoredReport> {
  readonly head: RunHead;
  readonly folder: string;
  /** Its inputs' folders, its frames, and the folders that may be overwritten. */
  readonly output: Output;
  readonly disk: DiskGuard;
  readonly threads: number;
  /** What an interrupted run left, and is there. */
  readonly kept?: Kept | undefined;
  /** Whether its last state stays when it is done. */
  readonly keepStates?: boolean | undefined;
  readonly onFrame?: ((frame: StoredFrame<R>) => Promise<void> | void) | undefined;
  readonly onState?: ((state: StoredState) => Promise<void> | void) | undefined;
  /** A file that lies beside the frames from the beginning. */
  readonly index?: { readonly file: string; readonly text: string } | undefined;
  /** Begins to compute; `store` takes a frame over, `keep` a state of a frame that is not stored. null: nothing is missing. */
  readonly begin: (
    store: (frame: FrameToStore<R>) => Promise<void>,
    keep: (state: StateToStore, frame: number) => Promise<void>,
  ) => Computing | null;
}

/**
 * Computes into a folder: frames, previews, run.json; whatever kind of pass it is. Never rejects: what went wrong is in the outcome, and frames that are in
 * the folder are whole.
 */
export function runInto<R extends StoredReport>({
  head,
  folder: path,
  output,
  disk,
  threads,
  kept,
  keepStates = true,
  onFrame,
  onState,
  index,
  begin,
}: Input<R>): RunningRun {
  const folder = new RunFolder(path, head, disk, kept);
  let cancelled = false;
  let computing: Computing | null = null;
  let allowed = threads;
  let wanted: number | null = null;

  const body = async (): Promise<RunOutcome> => {
    try {
      await folder.begin(output);
      if (index) await writeWhole(join(path, index.file), index.text);
      if (cancelled) throw new RuddleError('cancelled', 'The run was cancelled.', {});
      computing = begin(
        async (frame) => {
          const stored = await folder.store(frame);
          await onFrame?.(stored);
          // First written down, then the older ones removed: a kill in between leaves one that is known.
          await folder.recordNowAndThen(stored.states.length > 0);
          await folder.dropOldStates();
        },
        async (state, frame) => {
          const stored = await folder.storeState(state, frame);
          if (!stored) return;
          await onState?.(stored);
          await folder.dropOldStates();
        },
      );
      computing?.allow(allowed);
      if (wanted !== null) computing?.first?.(wanted);
      await computing?.finished;
      const states = await folder.settleStates(keepStates);
      await folder.record('done', null);
      return { state: 'done', error: null, frames: folder.frames, states };
    } catch (thrown) {
      const error = isDiskFull(thrown) ? diskFull(thrown) : thrown;
      const stopped = isRuddleError(error, 'cancelled');
      const state = stopped ? 'cancelled' : 'failed';
      const data = stopped ? null : toErrorData(error);
      // A full disk must not hide the reason: the record is then as old as its last writing.
      await folder.record(state, data).catch(() => undefined);
      return { state, error: data, frames: folder.frames, states: [] };
    }
  };

  return {
    outcome: body(),
    cancel: () => {
      cancelled = true;
      computing?.cancel();
    },
    first: (frame) => {
      wanted = frame;
      computing?.first?.(frame);
    },
    allow: (now) => {
      allowed = now;
      computing?.allow(now);
    },
  };
}

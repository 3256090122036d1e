import { type ErrorData, RuddleError, isRuddleError, toErrorData } from '#core/errors';
import { type Plan, type Settings, geometryOf, runKey } from '#core/shot';
import { kernelsVersion } from '#kernels';
import { type DiskGuard, geometryPath, isDiskFull } from '#server/cache';
import { startBounds } from '#workers/node';
import { codeVersion, machine } from './provenance';
import { type Kept, RunFolder, type StoredFrame, type StoredState, diskFull } from './run-folder';

export interface RunInput {
  readonly shot: string;
  readonly variant: string;
  readonly settings: Settings;
  readonly plan: Plan;
  readonly folder: string;
  /** Where imported geometry lies. */
  readonly geometryFolder: string;
  readonly threads: number;
  readonly arenaBytes?: number;
  /** First frame whose file is wanted. */
  readonly writeFrom?: number;
  readonly disk: DiskGuard;
  /** Whether states are kept on the way, so that it can go on when it is interrupted. */
  readonly states?: boolean;
  /** Goes on from what an interrupted run left. */
  readonly resume?: Resume;
  readonly onFrame?: (frame: StoredFrame) => Promise<void> | void;
  readonly onProgress?: (frame: number, part: number) => void;
}

export interface Resume extends Kept {
  /** State that each bounds begins with; null: the start. */
  readonly from: readonly (Uint8Array<ArrayBuffer> | null)[];
  /** Last frame that is missing; null: none is. */
  readonly until: number | null;
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
}

/**
 * Computes a plan into a folder: frames, previews, run.json. The server and the command line both run exactly this. Never rejects: what went
 * wrong is in the outcome, and frames that are in the folder are whole.
 */
export function startRun(input: RunInput): RunningRun {
  const { plan, threads } = input;
  const key = runKey(plan, kernelsVersion);
  const head = {
    shot: input.shot,
    variant: input.variant,
    key,
    codeVersion,
    machine: machine(),
    threads,
    startedAt: new Date().toISOString(),
    settings: input.settings,
    plan,
  };
  const { resume } = input;
  const folder = new RunFolder(input.folder, plan, head, input.disk, resume);
  let cancelled = false;
  let compute: ReturnType<typeof startBounds> | null = null;
  let allowed = threads;

  const body = async (): Promise<RunOutcome> => {
    try {
      await folder.begin();
      if (cancelled) throw new RuddleError('cancelled', 'The run was cancelled.', {});
      if (!resume || resume.until !== null) {
        compute = startBounds({
          plan,
          key,
          geometry: Object.fromEntries(geometryOf(plan).map((hash) => [hash, geometryPath(input.geometryFolder, hash)])),
          threads,
          ...(input.arenaBytes === undefined ? {} : { arenaBytes: input.arenaBytes }),
          ...(input.writeFrom === undefined ? {} : { writeFrom: input.writeFrom }),
          states: input.states ?? false,
          ...(resume ? { from: resume.from, have: resume.frames.map((f) => f.frame), until: resume.until } : {}),
          onFrame: async (messages) => {
            const frame = await folder.store(messages);
            await input.onFrame?.(frame);
            await folder.dropOldStates();
            await folder.recordNowAndThen();
          },
          ...(input.onProgress ? { onProgress: input.onProgress } : {}),
        });
        compute.allow(allowed);
        await compute.finished;
      }
      const states = await folder.settleStates();
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
      compute?.cancel();
    },
    allow: (threads) => {
      allowed = threads;
      compute?.allow(threads);
    },
  };
}

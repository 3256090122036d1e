import type { Prediction } from './prediction';

/** A run as its shot's list has it. */
export interface RunInList {
  readonly state: string;
  readonly frameCount: number;
  readonly framesDone: number;
  readonly seconds: number;
  readonly bytes: number;
  readonly prediction: Prediction | null;
}

export interface Ahead {
  readonly seconds: number;
  readonly bytes: number;
}

const UNFINISHED: ReadonlySet<string> = new Set(['queued', 'running', 'paused']);

/**
 * Time and disk that an unfinished run will still take: its prediction less its cost until now. Without a prediction, or beyond it, each frame that is left costs as much as
 * the frames until now. A run that is over takes nothing more.
 */
export function aheadOf({ state, frameCount, framesDone, seconds, bytes, prediction }: RunInList): Ahead {
  if (!UNFINISHED.has(state)) return { seconds: 0, bytes: 0 };
  const left = Math.max(0, frameCount - framesDone);
  const more = (took: number, predicted: number | undefined): number => {
    if (left === 0) return 0;
    if (predicted !== undefined && predicted > took) return predicted - took;
    return framesDone > 0 ? (took / framesDone) * left : 0;
  };
  return { seconds: more(seconds, prediction?.time?.likely), bytes: more(bytes, prediction?.disk.likely) };
}

/** The same of all runs of a shot. */
export function allAhead(runs: readonly RunInList[]): Ahead & { readonly runs: number } {
  let [seconds, bytes, count] = [0, 0, 0];
  for (const run of runs) {
    if (!UNFINISHED.has(run.state)) continue;
    const own = aheadOf(run);
    seconds += own.seconds;
    bytes += own.bytes;
    count++;
  }
  return { seconds, bytes, runs: count };
}

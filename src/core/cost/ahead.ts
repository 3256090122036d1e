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
 * What a run that is queued, computes or is paused will still take: what was predicted less what it took. Where it was not predicted, or takes more than that, each frame
 * that is left takes what its frames took until now. Nothing of a run that is over.
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

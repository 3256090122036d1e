import type { DetailedPrediction } from '#core/cost';

/** Predicted seconds until a run has a frame; null: not known. */
export function secondsUntil(predicted: DetailedPrediction | null, frame: number | null): number | null {
  if (!predicted || frame === null) return null;
  let seconds = 0;
  for (const f of predicted.frames) {
    if (f.frame > frame) break;
    if (f.seconds === null) return null;
    seconds += f.seconds;
  }
  return seconds > 0 ? seconds : null;
}

/** The part of the seconds that a run still takes until it has a frame, by what its missing frames were predicted to take; null: not known. */
export function partUntil(
  left: number | null,
  predicted: ReadonlyMap<number, number>,
  stored: ReadonlySet<number>,
  frame: number | null,
): number | null {
  if (left === null || frame === null) return null;
  const missing = [...predicted].filter(([f]) => !stored.has(f));
  const sum = (list: typeof missing): number => list.reduce((n, [, seconds]) => n + seconds, 0);
  const all = sum(missing);
  return all > 0 ? (left * sum(missing.filter(([f]) => f <= frame))) / all : null;
}

/** The same by what its newest frames took. */
export function paceUntil(
  done: readonly { readonly report: { readonly totalSeconds: number } }[],
  frames: readonly number[],
  stored: ReadonlySet<number>,
  frame: number | null,
): number | null {
  const newest = done.slice(-5);
  if (newest.length === 0 || frame === null) return null;
  const each = newest.reduce((n, f) => n + f.report.totalSeconds, 0) / newest.length;
  return each * frames.filter((f) => f <= frame && !stored.has(f)).length;
}

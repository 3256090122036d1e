/** How a curve goes on from a key to the next one. */
export type Onward = 'smooth' | 'straight' | 'hold';

/** A value at a frame. Slopes are a frame's worth of change; null: chosen so that the curve never overshoots its keys. */
export interface Key {
  readonly frame: number;
  readonly value: number;
  readonly then: Onward;
  readonly arrive: number | null;
  readonly leave: number | null;
}

/** Slope at a key that keeps the curve between its keys (Fritsch, Carlson 1980: the harmonic mean of what lies before and after, 0 at a peak). */
export function smoothSlope(keys: readonly Key[], n: number): number {
  const [before, at, after] = [keys[n - 1], keys[n], keys[n + 1]];
  if (!at || !before || !after) return 0;
  const left = (at.value - before.value) / (at.frame - before.frame);
  const right = (after.value - at.value) / (after.frame - at.frame);
  return left * right <= 0 ? 0 : (2 * left * right) / (left + right);
}

/** Value of a curve at a frame (cubic Hermite between keys; the first and last values hold outside). Keys in the order of their frames. */
export function valueOfKeys(keys: readonly Key[], frame: number): number {
  const first = keys[0];
  if (!first) return NaN;
  if (frame <= first.frame) return first.value;
  let n = 0;
  while (n + 1 < keys.length && (keys[n + 1]?.frame ?? Infinity) <= frame) n++;
  const a = keys[n] ?? first;
  const b = keys[n + 1];
  if (!b || a.then === 'hold') return a.value;
  const span = b.frame - a.frame;
  const t = (frame - a.frame) / span;
  if (a.then === 'straight') return a.value + (b.value - a.value) * t;
  const leave = (a.leave ?? smoothSlope(keys, n)) * span;
  const arrive = (b.arrive ?? smoothSlope(keys, n + 1)) * span;
  const [t2, t3] = [t * t, t * t * t];
  return (2 * t3 - 3 * t2 + 1) * a.value + (t3 - 2 * t2 + t) * leave + (3 * t2 - 2 * t3) * b.value + (t3 - t2) * arrive;
}

import type { Vec3 } from '#core/math';

/** Parts of a frame that a moving wind is added up over. */
const PARTS = 4;

/**
 * How far a wind has carried the air since time 0, metres: what a pattern that goes with the air is shifted by. Added up (trapezoids) over fixed places of
 * time, so that it is the same however the substeps fall.
 */
export function driftOf(windAt: (time: number) => Vec3, framesPerSecond: number): (time: number) => Vec3 {
  const step = 1 / (PARTS * framesPerSecond);
  /** Sums at the multiples of the step, after and before 0. */
  const sums: readonly [Vec3[], Vec3[]] = [[[0, 0, 0]], [[0, 0, 0]]];
  const between = (from: number, to: number, start: Vec3): Vec3 => {
    const [a, b] = [windAt(from), windAt(to)];
    const half = (to - from) / 2;
    return [start[0] + half * (a[0] + b[0]), start[1] + half * (a[1] + b[1]), start[2] + half * (a[2] + b[2])];
  };
  return (time) => {
    const way = time < 0 ? 1 : 0;
    const sign = way === 1 ? -step : step;
    const whole = Math.floor(Math.abs(time) / step);
    const list = sums[way];
    for (let n = list.length; n <= whole; n++) list.push(between((n - 1) * sign, n * sign, list[n - 1] ?? [0, 0, 0]));
    return between(whole * sign, time, list[whole] ?? [0, 0, 0]);
  };
}

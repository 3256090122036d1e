import { type KernelTeam, type Level, RECORD_WORDS } from '#core/grid';
import { PLACES_WORD, STATISTICS_WORDS } from './statistics';

/** Tiles that are looked at, about: an average over so many is as good as over all, and looking at all took 4 % of a step. */
const ENOUGH = 128;
/** Pairs of voxels a voxel apart and four voxels apart are compared. */
const FAR = 4;

/**
 * How rough the motion is at the grid, in tiles with matter: its mean squared difference over one voxel by that over four, the second-order structure
 * function at two distances. A stand-in for a spectrum that costs no transform: with Kolmogorov's 2/3 law it is 4^(-2/3) = 0.40, where the motion is
 * smooth it is 4^-2 = 0.06.
 */
export function roughness(team: KernelTeam, level: Level, velocity: readonly number[], size: number, places: Int32Array): number {
  const records = team.pointers(level.records, level.count * RECORD_WORDS);
  const fields = velocity.map((p) => team.floats(p, size));
  const steps = [1, level.sx, level.sp] as const;
  let [near, nears, far, fars, held] = [0, 0, 0, 0, 0];
  let all = 0;
  for (let t = 0; t < level.count; t++) if ((places[STATISTICS_WORDS * t + PLACES_WORD] ?? 0) !== 0) all++;
  const every = Math.max(1, Math.floor(all / ENOUGH));
  for (let t = 0; t < level.count; t++) {
    if ((places[STATISTICS_WORDS * t + PLACES_WORD] ?? 0) === 0 || held++ % every !== 0) continue;
    const base = records[t * RECORD_WORDS] ?? 0;
    for (const f of fields) {
      for (let row = 0; row < 64; row++) {
        const [a, b] = [row & 7, row >> 3];
        for (let axis = 0; axis < 3; axis++) {
          const step = steps[axis] ?? 1;
          // A row along the axis, at (a, b) of the other two.
          const o = base + a * (axis === 0 ? level.sx : 1) + b * (axis === 2 ? level.sx : level.sp);
          for (let n = 0; n < 7; n++) {
            const d = (f[o + (n + 1) * step] ?? 0) - (f[o + n * step] ?? 0);
            near += d * d;
          }
          for (let n = 0; n < 8 - FAR; n++) {
            const d = (f[o + (n + FAR) * step] ?? 0) - (f[o + n * step] ?? 0);
            far += d * d;
          }
        }
      }
      nears += 64 * 3 * 7;
      fars += 64 * 3 * (8 - FAR);
    }
  }
  return far > 0 ? near / nears / (far / fars) : 0;
}

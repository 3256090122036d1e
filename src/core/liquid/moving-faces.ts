import { nearestMoving } from '#core/flow';
import { type GeometryCache, type KernelTeam, type MovingSolid, RECORD_WORDS, TILE } from '#core/grid';
import type { LiquidGrid } from './grid';

/** Closed faces of one component near a moving solid, and the solid's velocity there, m/s: x, y, z each. */
export interface ClosedFaces {
  readonly index: Int32Array;
  readonly velocity: Float32Array;
}

/** Faces that moving solids close, by component. Those nearer to what stands still are not among them. */
export function closedByMoving(
  team: KernelTeam,
  grid: LiquidGrid,
  geometry: GeometryCache,
  moving: readonly MovingSolid[],
  h: number,
): readonly [ClosedFaces, ClosedFaces, ClosedFaces] {
  const { window: w, slots } = grid;
  const { sx, sp } = grid.level;
  const records = team.pointers(team.pointers(grid.context, 8)[5] ?? 0, slots * RECORD_WORDS);
  const found = [0, 1, 2].map(() => ({ index: [] as number[], velocity: [] as number[] }));
  for (let r = 0; r < records.length; r += RECORD_WORDS) {
    const cut = records[r + 4] ?? 0;
    if (cut === 0) continue;
    const [x0, y0, z0] = [(records[r + 1] ?? 0) + w.ox, (records[r + 2] ?? 0) + w.oy, (records[r + 3] ?? 0) + w.oz];
    if (!geometry.isNear(0, x0 / TILE, y0 / TILE, z0 / TILE)) continue;
    const fractions = team.floats(cut, 6 * 512);
    const base = records[r] ?? 0;
    for (let c = 0; c < 512; c++) {
      const [i, j, k] = [c & 7, (c >> 3) & 7, c >> 6];
      for (const axis of [0, 1, 2] as const) {
        if ((fractions[2 * axis * 512 + c] ?? 1) > 0) continue;
        const x = (x0 + i + (axis === 0 ? 0 : 0.5)) * h;
        const y = (y0 + j + (axis === 1 ? 0 : 0.5)) * h;
        const z = (z0 + k + (axis === 2 ? 0 : 0.5)) * h;
        const solid = nearestMoving(geometry, moving, x, y, z);
        if (!solid) continue;
        found[axis]?.index.push(base + k * sp + j * sx + i);
        found[axis]?.velocity.push(...solid.velocity(x, y, z));
      }
    }
  }
  return found.map(({ index, velocity }) => ({
    index: Int32Array.from(index),
    velocity: Float32Array.from(velocity),
  })) as unknown as readonly [ClosedFaces, ClosedFaces, ClosedFaces];
}

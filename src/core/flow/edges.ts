import type { Box3 } from '#core/geometry';
import { type GeometryCache, type KernelTeam, type Level, RECORD_WORDS, TILE } from '#core/grid';

/**
 * The faces between unknown cells and open ones (sleeping tiles, the window's edge, beyond an open wall).
 * `owned[axis]`: those that lie on the low side of a cell outside the active tiles, so that no tile kernel updates them:
 * records of index, i, j, k. `fluxes`: all of them, records of face index, unknown cell index, code; code = axis, + 4 when the open
 * cell is on the low side, + 8 (wall + 1) when that is a wall of the limit box.
 */
export interface EdgeFaces {
  readonly owned: readonly [Int32Array, Int32Array, Int32Array];
  readonly fluxes: Int32Array;
}

export function findEdges(team: KernelTeam, level: Level, geometry: GeometryCache, limit: Box3, h: number): EdgeFaces {
  const w = level.window;
  const records = team.pointers(level.records, level.count * RECORD_WORDS);
  const status = team.bytes(level.status, (w.nz + 2) * level.sp + 16);
  const [tilesX, tilesY, tilesZ] = [w.nx / TILE, w.ny / TILE, w.nz / TILE];
  const active = new Uint8Array(tilesX * tilesY * tilesZ);
  // 2: reaches beyond an open wall, so that open cells may lie right behind its face.
  for (let n = 5; n < records.length; n += RECORD_WORDS) active[records[n] ?? 0] = ((records[n + 2] ?? 0) & 1) + 1;
  const owned: [number[], number[], number[]] = [[], [], []];
  const fluxes: number[] = [];
  const steps = [1, level.sx, level.sp] as const;
  const origin = [w.ox, w.oy, w.oz] as const;
  const counts = [tilesX, tilesY, tilesZ] as const;
  const tileSteps = [1, tilesX, tilesX * tilesY] as const;

  const face = (axis: 0 | 1 | 2, low: boolean, cell: number, i: number, j: number, k: number, outside: boolean): void => {
    const step = steps[axis];
    if (status[low ? cell - step : cell + step] !== 2) return;
    const index = low ? cell : cell + step;
    if (!low && outside) {
      owned[axis].push(index, i + (axis === 0 ? 1 : 0), j + (axis === 1 ? 1 : 0), k + (axis === 2 ? 1 : 0));
    }
    const centre = ([i, j, k][axis]! + origin[axis] + (low ? -0.5 : 1.5)) * h;
    const beyond = low ? centre < limit.min[axis] : centre > limit.max[axis];
    fluxes.push(index, cell, axis + (low ? 4 : 0) + (beyond ? 8 * (2 * axis + (low ? 0 : 1) + 1) : 0));
  };

  for (let r = 0; r < records.length; r += RECORD_WORDS) {
    const [base, i0, j0, k0] = [records[r] ?? 0, records[r + 1] ?? 0, records[r + 2] ?? 0, records[r + 3] ?? 0];
    const cut = records[r + 4] ?? 0;
    const fractions = cut === 0 ? null : team.floats(cut, 6 * 512);
    const inside = ((records[r + 7] ?? 0) & 1) !== 0;
    const at = [i0 / TILE, j0 / TILE, k0 / TILE] as const;
    for (let side = 0; side < 6; side++) {
      const axis = (side >> 1) as 0 | 1 | 2;
      const low = (side & 1) === 0;
      const next = at[axis] + (low ? -1 : 1);
      const neighbour = next >= 0 && next < counts[axis] ? (active[(records[r + 5] ?? 0) + (low ? -1 : 1) * tileSteps[axis]] ?? 0) : 0;
      const there = neighbour !== 0;
      if (neighbour === 1 && !inside) continue;
      const edge = low ? 0 : 7;
      const shift = 3 * axis;
      // Inside a tile only those that reach beyond an open wall have such faces: of the others the 64 cells at this side are looked at.
      const count = inside ? 512 : 64;
      for (let m = 0; m < count; m++) {
        const below = m & ((1 << shift) - 1);
        const n = inside ? m : below | (edge << shift) | ((m >> shift) << (shift + 3));
        const [x, y, z] = [n & 7, (n >> 3) & 7, n >> 6];
        const cell = base + z * level.sp + y * level.sx + x;
        if (status[cell] !== 1) continue;
        if (fractions && fractions[side * 512 + n] === 0) continue;
        face(axis, low, cell, i0 + x, j0 + y, k0 + z, ((n >> shift) & 7) === edge && !there);
      }
    }
  }
  return { owned: owned.map((o) => Int32Array.from(o)) as [Int32Array, Int32Array, Int32Array], fluxes: Int32Array.from(fluxes) };
}

import { type GeometryCache, type KernelTeam, type Level, type MovingSolid, RECORD_WORDS, TILE } from '#core/grid';

/** Faces of one component: indices in the field, and the velocity of the solid there, m/s. */
interface WallFaces {
  readonly index: Int32Array;
  readonly velocity: Float32Array;
}

/** What moving solids impose on the flow, for one placement of theirs. */
export interface MovingWalls {
  /** Fully closed low faces: they move with the solid. */
  readonly closed: readonly [WallFaces, WallFaces, WallFaces];
  /** Cells that a moving solid cuts: what it pushes into them through the closed part of their faces, m/s x face area 1 (Batty, Bertails, Bridson 2007). */
  readonly cells: Int32Array;
  readonly flux: Float32Array;
}

const NONE: WallFaces = { index: new Int32Array(0), velocity: new Float32Array(0) };
export const NO_WALLS: MovingWalls = { closed: [NONE, NONE, NONE], cells: new Int32Array(0), flux: new Float32Array(0) };

export function movingWalls(
  team: KernelTeam,
  level: Level,
  geometry: GeometryCache,
  moving: readonly MovingSolid[],
  h: number,
): MovingWalls {
  const { window: w, sx, sp } = level;
  const records = team.pointers(level.records, level.count * RECORD_WORDS);
  const status = team.bytes(level.status, (w.nz + 2) * sp + 16);
  const closed = [0, 1, 2].map(() => ({ index: [] as number[], velocity: [] as number[] }));
  const cells: number[] = [];
  const flux: number[] = [];
  for (let r = 0; r < records.length; r += RECORD_WORDS) {
    const cut = records[r + 4] ?? 0;
    if (cut === 0) continue;
    const [x0, y0, z0] = [(records[r + 1] ?? 0) + w.ox, (records[r + 2] ?? 0) + w.oy, (records[r + 3] ?? 0) + w.oz];
    const [tx, ty, tz] = [x0 / TILE, y0 / TILE, z0 / TILE];
    if (!geometry.isNear(0, tx, ty, tz)) continue;
    const only = moving.length === 1 && geometry.standsFar(0, tx, ty, tz) ? moving[0] : undefined;
    const fractions = team.floats(cut, 6 * 512);
    const base = records[r] ?? 0;
    for (let c = 0; c < 512; c++) {
      const [i, j, k] = [c & 7, (c >> 3) & 7, c >> 6];
      const at = base + k * sp + j * sx + i;
      const fluid = status[at] === 1;
      let pushed = 0;
      for (let face = 0; face < 6; face++) {
        const open = fractions[face * 512 + c] ?? 1;
        const side = face & 1;
        if (open === 1 || (!fluid && (side === 1 || open > 0))) continue;
        const axis = (face >> 1) as 0 | 1 | 2;
        // The middle of the face.
        const x = (x0 + i + (axis === 0 ? side : 0.5)) * h;
        const y = (y0 + j + (axis === 1 ? side : 0.5)) * h;
        const z = (z0 + k + (axis === 2 ? side : 0.5)) * h;
        const solid = only ?? nearestMoving(geometry, moving, x, y, z);
        const v = solid ? solid.velocity(x, y, z)[axis] : 0;
        if (fluid) pushed += (side === 0 ? 1 : -1) * (1 - open) * v;
        if (side === 0 && open === 0) {
          closed[axis]?.index.push(at);
          closed[axis]?.velocity.push(v);
        }
      }
      if (pushed !== 0) {
        cells.push(at);
        flux.push(pushed);
      }
    }
  }
  const typed = (n: number): WallFaces => ({
    index: Int32Array.from(closed[n]?.index ?? []),
    velocity: Float32Array.from(closed[n]?.velocity ?? []),
  });
  return { closed: [typed(0), typed(1), typed(2)], cells: Int32Array.from(cells), flux: Float32Array.from(flux) };
}

/** The moving solid that a point is nearest to; null: what stands still is nearer. */
export function nearestMoving(
  geometry: GeometryCache,
  moving: readonly MovingSolid[],
  x: number,
  y: number,
  z: number,
): MovingSolid | null {
  let least = geometry.stillDistance(x, y, z);
  let found: MovingSolid | null = null;
  for (const m of moving) {
    const d = m.distance(x, y, z);
    if (d < least) {
      least = d;
      found = m;
    }
  }
  return found;
}

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
  const records = team.words(level.records, level.count * RECORD_WORDS);
  const status = team.bytes(level.status, (w.nz + 2) * sp + 16);
  const origin = [w.ox, w.oy, w.oz] as const;
  const closed = [0, 1, 2].map(() => ({ index: [] as number[], velocity: [] as number[] }));
  const cells: number[] = [];
  const flux: number[] = [];
  const place: [number, number, number] = [0, 0, 0];
  /** One component of the nearest solid's velocity at the middle of a face; what stands still has none. */
  const velocityAt = (axis: 0 | 1 | 2): number => {
    let nearest = geometry.stillDistance(...place);
    let found: MovingSolid | null = null;
    for (const m of moving) {
      const d = m.distance(...place);
      if (d < nearest) {
        nearest = d;
        found = m;
      }
    }
    return found ? found.velocity(...place)[axis] : 0;
  };
  for (let r = 0; r < records.length; r += RECORD_WORDS) {
    const cut = records[r + 4] ?? 0;
    if (cut === 0) continue;
    const corner = [1, 2, 3].map((n) => (records[r + n] ?? 0) + (origin[n - 1] ?? 0)) as [number, number, number];
    if (!geometry.isNear(0, corner[0] / TILE, corner[1] / TILE, corner[2] / TILE)) continue;
    const fractions = team.floats(cut, 6 * 512);
    for (let c = 0; c < 512; c++) {
      const at = (records[r] ?? 0) + (c >> 6) * sp + ((c >> 3) & 7) * sx + (c & 7);
      const cell = [corner[0] + (c & 7), corner[1] + ((c >> 3) & 7), corner[2] + (c >> 6)] as const;
      const fluid = status[at] === 1;
      let pushed = 0;
      for (const axis of [0, 1, 2] as const) {
        for (const side of [0, 1] as const) {
          const open = fractions[(2 * axis + side) * 512 + c] ?? 1;
          if (open === 1 || (!fluid && (side === 1 || open > 0))) continue;
          for (const a of [0, 1, 2] as const) place[a] = (cell[a] + (a === axis ? side : 0.5)) * h;
          const v = velocityAt(axis);
          if (fluid) pushed += (side === 0 ? 1 : -1) * (1 - open) * v;
          if (side === 0 && open === 0) {
            closed[axis]?.index.push(at);
            closed[axis]?.velocity.push(v);
          }
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

import type { Motion } from '#core/flow';
import { type Distance, union } from '#core/geometry';
import { type GeometryCache, type KernelTeam, type MovingSolid, RECORD_WORDS, TILE } from '#core/grid';
import type { LiquidGrid } from './grid';
import type { LiquidMatter, LiquidOptions, LiquidSource } from './options';
import type { Particles } from './particles';
import type { Sorter } from './sorter';

/** Looks along a particle's way in a substep, at least and at most. */
const LEAST_LOOKS = 4;
const MOST_LOOKS = 48;
/** Part of the thinnest wall (or of a voxel) that a look may step over. */
const STRIDE = 0.4;
/** Metres of a voxel that a particle is left in front of a wall. */
const CLEAR = 0.05;
const TRIES = 8;

/** Voxels from which on the distances at the corners of cells show a solid, so that what stands is met as still solids are. */
const SHOWN = 2;

/** Whether solids that have a motion need the sweep while they stand, too: they are thinner than the grid shows, or it cannot be told. */
export const needSweep = ({ solids, voxelSize: h }: Pick<LiquidOptions, 'solids' | 'voxelSize'>): boolean =>
  solids.some(({ shape, body, moves }) => {
    const paths = Object.keys(moves);
    if (paths.length === 0 && shape.kind !== 'mesh') return false;
    const grows = !paths.every((path) => /^shape\.(centre|rotation)/.test(path));
    const least =
      shape.kind === 'box'
        ? Math.min(...shape.size)
        : shape.kind === 'ball'
          ? 2 * shape.radius
          : shape.kind === 'cylinder'
            ? Math.min(2 * shape.radius, shape.height)
            : 0;
    // A wall from .55 to .65 m is two voxels of .05 m thick; rounding makes it thinner.
    return grows || body !== 'filled' || least < (SHOWN - 1e-6) * h;
  });

/** Particles near moving solids, as they were before they moved. */
export interface Before {
  readonly slots: readonly { readonly first: number; readonly places: Float32Array }[];
}

/** Remembers where the particles of the tiles near moving solids are. */
export function beforeMoving(team: KernelTeam, grid: LiquidGrid, geometry: GeometryCache, sorter: Sorter, particles: Particles): Before {
  const { window: w, slots } = grid;
  const records = team.pointers(team.pointers(grid.context, 8)[5] ?? 0, slots * RECORD_WORDS);
  const starts = team.words(sorter.tileStart, slots + 1);
  const kept: { first: number; places: Float32Array }[] = [];
  for (let s = 0; s < slots; s++) {
    const [first, last] = [starts[s] ?? 0, starts[s + 1] ?? 0];
    const r = s * RECORD_WORDS;
    const tile = [(records[r + 1] ?? 0) + w.ox, (records[r + 2] ?? 0) + w.oy, (records[r + 3] ?? 0) + w.oz].map((v) => v / TILE);
    if (first === last) continue;
    // What moves a few voxels comes from the tile beside, too.
    let near = false;
    for (let n = 0; n < 27 && !near; n++) {
      near = geometry.isNear(
        0,
        (tile[0] ?? 0) + (n % 3) - 1,
        (tile[1] ?? 0) + (Math.floor(n / 3) % 3) - 1,
        (tile[2] ?? 0) + Math.floor(n / 9) - 1,
      );
    }
    if (near) kept.push({ first, places: team.floats(particles.places + first * 16, 4 * (last - first)).slice() });
  }
  return { slots: kept };
}

/** Smallest that a look may step over, metres: walls of solids that move. */
function stride({ solids, voxelSize: h }: LiquidOptions): number {
  const thin = solids.filter((s) => s.body !== 'filled').map((s) => s.thickness);
  return STRIDE * Math.min(h, ...thin);
}

/** Direction in which a distance grows, by differences. */
function outwards(d: Distance, x: number, y: number, z: number, e: number): [number, number, number] {
  const g: [number, number, number] = [d(x + e, y, z) - d(x - e, y, z), d(x, y + e, z) - d(x, y - e, z), d(x, y, z + e) - d(x, y, z - e)];
  const length = Math.hypot(...g);
  return length > 1e-12 ? [g[0] / length, g[1] / length, g[2] / length] : [0, 1, 0];
}

/**
 * No particle passes a solid that moves, however thin or fast: its way and the solid's are gone through together, and where they meet the particle stays before
 * the wall, is taken along, and keeps of its velocity what does not lead into the wall. Returns how many were stopped, and how many lie inside all the same.
 */
export function sweepMoving(
  { slots }: Before,
  particles: Particles,
  motion: Motion<LiquidSource, LiquidMatter>,
  moving: readonly MovingSolid[],
  options: LiquidOptions,
  still: Distance,
  time: number,
  dt: number,
): { readonly stopped: number; readonly inside: number } {
  const h = options.voxelSize;
  const places = particles.placeFloats;
  const motions = particles.motionFloats;
  let way = motion.solidSpeed(time, dt) * dt;
  for (const { first, places: before } of slots) {
    for (let n = 0; n < before.length; n += 4) {
      const o = 4 * first + n;
      way = Math.max(
        way,
        h *
          Math.hypot(
            (places[o] ?? 0) - (before[n] ?? 0),
            (places[o + 1] ?? 0) - (before[n + 1] ?? 0),
            (places[o + 2] ?? 0) - (before[n + 2] ?? 0),
          ),
      );
    }
  }
  const looks = Math.min(MOST_LOOKS, Math.max(LEAST_LOOKS, Math.ceil((2 * way) / stride(options))));
  const at = Array.from({ length: looks + 1 }, (_v, n) => union(motion.movedSolids(time + (dt * n) / looks)));
  const end = at[looks] as Distance;
  const all = union([end, still]);
  let [stopped, inside] = [0, 0];
  for (const { first, places: before } of slots) {
    for (let n = 0; n < before.length; n += 4) {
      const o = 4 * first + n;
      if ((motions[o + 3] ?? 0) <= 0) continue;
      const from = [(before[n] ?? 0) * h, (before[n + 1] ?? 0) * h, (before[n + 2] ?? 0) * h] as const;
      const to = [(places[o] ?? 0) * h, (places[o + 1] ?? 0) * h, (places[o + 2] ?? 0) * h] as const;
      // Further from every solid than both ways together: nothing meets.
      if ((at[0] as Distance)(...from) > 2 * way + h && end(...to) > CLEAR * h) continue;
      let free = 0;
      for (let s = 1; s <= looks; s++) {
        const part = s / looks;
        const d = at[s]?.(from[0] + (to[0] - from[0]) * part, from[1] + (to[1] - from[1]) * part, from[2] + (to[2] - from[2]) * part) ?? 1;
        if (d < 0) break;
        free = s;
      }
      if (free === looks && end(...to) >= 0) continue;
      stopped++;
      const part = free / looks;
      const p: [number, number, number] = [
        from[0] + (to[0] - from[0]) * part,
        from[1] + (to[1] - from[1]) * part,
        from[2] + (to[2] - from[2]) * part,
      ];
      const solid = nearest(moving, p);
      const v = solid?.velocity(...p) ?? ([0, 0, 0] as const);
      // Taken along for the rest of the substep, as it lies before the wall.
      const keep = Math.max((at[free] as Distance)(...p), CLEAR * h);
      for (const a of [0, 1, 2] as const) p[a] += v[a] * dt * (1 - part);
      for (let n2 = 0; n2 < TRIES; n2++) {
        const d = all(...p);
        if (d >= Math.min(keep, CLEAR * h)) break;
        const g = outwards(all, ...p, 0.1 * h);
        for (const a of [0, 1, 2] as const) p[a] += g[a] * (Math.min(keep, CLEAR * h) - d + 1e-3 * h);
      }
      const g = outwards(end, ...p, 0.1 * h);
      const into = ([0, 1, 2] as const).reduce<number>((sum, a) => sum + ((motions[o + a] ?? 0) - v[a]) * g[a], 0);
      if (into < 0) for (const a of [0, 1, 2] as const) motions[o + a] = (motions[o + a] ?? 0) - into * g[a];
      for (const a of [0, 1, 2] as const) places[o + a] = p[a] / h;
      if (all(...p) < 0) inside++;
    }
  }
  return { stopped, inside };
}

function nearest(moving: readonly MovingSolid[], p: readonly [number, number, number]): MovingSolid | null {
  let least = Infinity;
  let found: MovingSolid | null = null;
  for (const m of moving) {
    const d = m.distance(...p);
    if (d >= least) continue;
    least = d;
    found = m;
  }
  return found;
}

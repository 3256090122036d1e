import { type Hierarchy, TILE, type Window, windowOf } from '#core/grid';
import type { FlowOptions } from './options';

/** Which tiles of the limit box are active; tiles numbered x fastest over the limit's window. */
export interface ActiveSet {
  readonly limit: Window;
  readonly flags: Uint8Array;
  /** World tile coordinates x, y, z of the active tiles, in the order z, y, x. */
  readonly tiles: Int32Array;
}

/** What the last measurement found: boxes of world voxels, six numbers each (lowest and highest voxel, both included). */
export interface Census {
  /** Around the matter of each tile that has some, and around emitting sources. */
  readonly matter: readonly number[];
  /** Tiles without matter in which the air moves. */
  readonly motion: readonly number[];
  /** Around moving solids. */
  readonly solids: readonly number[];
  /** Voxels that the fastest matter crosses in the coming substep. */
  readonly travel: number;
}

/** Voxel window of the limit box: every voxel that it touches. */
export function limitWindow(options: Pick<FlowOptions, 'voxelSize' | 'bounds'>): Window {
  const h = options.voxelSize;
  const { min, max } = options.bounds.limit;
  const low = (v: number): number => Math.floor(v / h + 1e-6);
  const high = (v: number): number => Math.ceil(v / h - 1e-6);
  return windowOf([low(min[0]), low(min[1]), low(min[2])], [high(max[0]), high(max[1]), high(max[2])]);
}

/** Voxels that stencils look ahead. */
const STENCIL = 2;

/** Marks every tile of the limit's window that a box, grown by some voxels, touches. */
function mark(flags: Uint8Array, limit: Window, boxes: readonly number[], grow: number): void {
  const origin = [limit.ox, limit.oy, limit.oz] as const;
  const count = [limit.nx / TILE, limit.ny / TILE, limit.nz / TILE] as const;
  for (let n = 0; n < boxes.length; n += 6) {
    const low = [0, 0, 0];
    const high = [0, 0, 0];
    for (const a of [0, 1, 2] as const) {
      low[a] = Math.max(0, Math.floor(((boxes[n + a] ?? 0) - grow - origin[a]) / TILE));
      high[a] = Math.min(count[a] - 1, Math.floor(((boxes[n + 3 + a] ?? 0) + grow - origin[a]) / TILE));
    }
    for (let z = low[2] ?? 0; z <= (high[2] ?? 0); z++) {
      for (let y = low[1] ?? 0; y <= (high[1] ?? 0); y++) {
        for (let x = low[0] ?? 0; x <= (high[0] ?? 0); x++) flags[(z * count[1] + y) * count[0] + x] = 1;
      }
    }
  }
}

/**
 * The active set. Adaptive: tiles within the reach of matter (never less than a substep's travel and the stencils). Fixed: tiles within that travel
 * of matter, and beside air that moves. Dense: all.
 *
 * Rejected: adaptive bounds that need motion too, within the reach. The active set then grows by a tile a substep, and what the pressure does at once
 * is missing in the first frames: the difference from dense bounds fell by a third only as the reach went from 1 to 20 voxels.
 */
export function chooseActive(limit: Window, census: Census, mode: FlowOptions['bounds']['mode'], reachVoxels: number): ActiveSet {
  const [nx, ny, nz] = [limit.nx / TILE, limit.ny / TILE, limit.nz / TILE];
  const flags = new Uint8Array(nx * ny * nz);
  if (mode === 'dense') flags.fill(1);
  else {
    if (mode === 'fixed') mark(flags, limit, census.motion, STENCIL);
    const ahead = census.travel + STENCIL;
    mark(flags, limit, census.solids, ahead);
    mark(flags, limit, census.matter, mode === 'adaptive' ? Math.max(ahead, reachVoxels) : ahead);
  }
  const tiles: number[] = [];
  let t = 0;
  for (let z = 0; z < nz; z++) {
    for (let y = 0; y < ny; y++) {
      for (let x = 0; x < nx; x++) {
        if (flags[t++]) tiles.push(x + limit.ox / TILE, y + limit.oy / TILE, z + limit.oz / TILE);
      }
    }
  }
  return { limit, flags, tiles: Int32Array.from(tiles) };
}

/** The set of given tiles. */
export function activeOf(limit: Window, tiles: Int32Array): ActiveSet {
  const [nx, ny, nz] = [limit.nx / TILE, limit.ny / TILE, limit.nz / TILE];
  const flags = new Uint8Array(nx * ny * nz);
  for (let n = 0; n < tiles.length; n += 3) {
    const [x, y, z] = [limit.ox, limit.oy, limit.oz].map((o, a) => (tiles[n + a] ?? 0) - o / TILE) as [number, number, number];
    flags[(z * ny + y) * nx + x] = 1;
  }
  return { limit, flags, tiles };
}

/**
 * Tiles that would be active for the same matter on voxels of half the size: what a coarse run, whose tiles are as large as what is in them, knows of a
 * finer one.
 */
export function tilesAtHalf(options: Pick<FlowOptions, 'voxelSize' | 'bounds'>, census: Census): number {
  const h = options.voxelSize / 2;
  const halved = (boxes: readonly number[]): number[] => boxes.map((v, n) => 2 * v + (n % 6 < 3 ? 0 : 1));
  const finer: Census = {
    matter: halved(census.matter),
    motion: halved(census.motion),
    solids: halved(census.solids),
    travel: census.travel,
  };
  const { mode, reach } = options.bounds;
  return chooseActive(limitWindow({ ...options, voxelSize: h }), finer, mode, Math.ceil(reach / h)).tiles.length / 3;
}

/** Smallest window around the active tiles; null when there are none. */
export function windowAround(set: ActiveSet): Window | null {
  if (set.tiles.length === 0) return null;
  const min: [number, number, number] = [Infinity, Infinity, Infinity];
  const max: [number, number, number] = [-Infinity, -Infinity, -Infinity];
  for (let n = 0; n < set.tiles.length; n++) {
    const a = (n % 3) as 0 | 1 | 2;
    const v = (set.tiles[n] ?? 0) * TILE;
    min[a] = Math.min(min[a], v);
    max[a] = Math.max(max[a], v + TILE);
  }
  return windowOf(min, max);
}

const grown = (w: Window, margin: number, limit: Window): Window => {
  const low = (o: number, lo: number): number => Math.max(o - margin, lo);
  const high = (o: number, n: number, lo: number, ln: number): number => Math.min(o + n + margin, lo + ln);
  return windowOf(
    [low(w.ox, limit.ox), low(w.oy, limit.oy), low(w.oz, limit.oz)],
    [high(w.ox, w.nx, limit.ox, limit.nx), high(w.oy, w.ny, limit.oy, limit.ny), high(w.oz, w.nz, limit.oz, limit.nz)],
  );
};

/** The window to take for what must lie in it: with a tile to spare where the memory holds that. Throws `arena-too-small` before anything is moved. */
export function windowInto(
  hierarchy: Pick<Hierarchy, 'holds' | 'mustHold'>,
  around: Window,
  current: Window | null,
  limit: Window,
): Window {
  const roomy = fitWindow(around, current, limit);
  if (hierarchy.holds(roomy)) return roomy;
  hierarchy.mustHold(around);
  return around;
}

/**
 * Window for what must lie in it: the present one while it holds it and is not more than twice what is wanted, else one with a tile to spare on each
 * side. The cost model replays this from a coarser run, so that it predicts the same jumps.
 */
export function fitWindow(around: Window, current: Window | null, limit: Window): Window {
  const roomy = grown(around, TILE, limit);
  if (!current) return roomy;
  const inside =
    around.ox >= current.ox &&
    around.oy >= current.oy &&
    around.oz >= current.oz &&
    around.ox + around.nx <= current.ox + current.nx &&
    around.oy + around.ny <= current.oy + current.ny &&
    around.oz + around.nz <= current.oz + current.nz;
  const wasteful = current.nx * current.ny * current.nz > 2 * roomy.nx * roomy.ny * roomy.nz;
  return inside && !wasteful ? current : roomy;
}

/** Metres around all that is awake in a census: matter, sources, moving solids; lowest and highest corner; null when there is nothing. */
export function matterBox(census: Census, h: number): [number, number, number, number, number, number] | null {
  const matter = [...census.matter, ...census.solids];
  if (census.matter.length === 0) return null;
  const box: [number, number, number, number, number, number] = [Infinity, Infinity, Infinity, -Infinity, -Infinity, -Infinity];
  for (let n = 0; n < matter.length; n += 6) {
    for (const a of [0, 1, 2] as const) {
      box[a] = Math.min(box[a], (matter[n + a] ?? 0) * h);
      const high = (a + 3) as 3 | 4 | 5;
      box[high] = Math.max(box[high], ((matter[n + high] ?? 0) + 1) * h);
    }
  }
  return box;
}

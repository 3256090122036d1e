import type { Box3 } from '#core/geometry';
import { TILE, TileBuilder, type TileGrid, TileLookup } from '#core/grid';

export interface ResampleOptions {
  /** Voxel size of the result in voxel sizes of the input. */
  readonly factor: number;
  /** Metres; null: everything. Voxels whose middle lies outside are left out. */
  readonly crop: Box3 | null;
  /** Density below it is dropped, with the other channels there. */
  readonly cutOff: number;
  readonly channels: readonly string[];
}

/** What became of the density x m^3 of the input: kept + cropped + cut + remainder. The remainder is rounding, and interpolation where it is finer. */
export interface ResampleMass {
  readonly input: number;
  readonly kept: number;
  readonly cropped: number;
  readonly cut: number;
}

export interface Resampled {
  readonly voxelSize: number;
  readonly grids: readonly TileGrid[];
  readonly inputVoxels: number;
  readonly activeVoxels: number;
  readonly mass: ResampleMass;
  /** Bytes of the grids while it was made. */
  readonly memoryBytes: number;
}

/**
 * A frame's channels at another voxel size. Coarser (factor >= 1): each input voxel is spread over the one to eight voxels that it overlaps, by the share of
 * the overlap, so that integrals (mass, heat) stay what they were; a result voxel that is covered in part takes the background for the rest. Finer:
 * trilinear between voxel middles. Voxel i covers [i, i + 1] h in both; the origin stays.
 */
export function resample(grids: readonly TileGrid[], voxelSize: number, o: ResampleOptions): Resampled {
  const wanted = grids.filter((g) => o.channels.includes(g.name));
  const density = grids.find((g) => g.name === 'density');
  const made = wanted.map((g) => (o.factor >= 1 ? coarser(g, voxelSize, o) : finer(g, voxelSize, o)));
  const size = voxelSize * o.factor;
  const mass = density ? total(density) * voxelSize ** 3 : 0;
  const cropped = density && o.crop ? outside(density, voxelSize, o.crop) * voxelSize ** 3 : 0;
  const own = made.find((g) => g.name === 'density');
  const before = own ? total(own) * size ** 3 : 0;
  if (own && o.cutOff > 0) cut(made, own, o.cutOff);
  const kept = own ? total(own) * size ** 3 : 0;
  return {
    voxelSize: size,
    grids: made,
    inputVoxels: Math.max(0, ...grids.map(activeOf)),
    activeVoxels: Math.max(0, ...made.map(activeOf)),
    mass: { input: mass, kept, cropped, cut: before - kept },
    memoryBytes: [...grids, ...made].reduce((n, g) => n + g.values.byteLength + g.masks.byteLength, 0),
  };
}

const bits = Uint8Array.from({ length: 256 }, (_v, b) => {
  let n = 0;
  for (let rest = b; rest; rest &= rest - 1) n++;
  return n;
});

/** Active voxels of a grid. */
export function activeOf(grid: TileGrid): number {
  let n = 0;
  for (const byte of grid.masks) n += bits[byte] ?? 0;
  return n;
}

/** Sum over the active voxels. */
function total({ masks, values }: TileGrid): number {
  let sum = 0;
  for (let n = 0; n < masks.length; n++) {
    const mask = masks[n] ?? 0;
    if (mask !== 0) for (let b = 0; b < 8; b++) if (mask & (1 << b)) sum += values[8 * n + b] ?? 0;
  }
  return sum;
}

/** Whether the middle of a voxel lies in a box. */
const within = (box: Box3, x: number, y: number, z: number, h: number): boolean => {
  const [px, py, pz] = [(x + 0.5) * h, (y + 0.5) * h, (z + 0.5) * h];
  return px >= box.min[0] && px < box.max[0] && py >= box.min[1] && py < box.max[1] && pz >= box.min[2] && pz < box.max[2];
};

function outside({ origins, masks, values }: TileGrid, h: number, box: Box3): number {
  let sum = 0;
  each(origins, masks, (x, y, z, n) => {
    if (!within(box, x, y, z, h)) sum += values[n] ?? 0;
  });
  return sum;
}

/** Visits the active voxels: world voxel coordinates, and the number of the voxel among all. */
function each(origins: Int32Array, masks: Uint8Array, visit: (x: number, y: number, z: number, n: number) => void): void {
  for (let row = 0; row < masks.length; row++) {
    const mask = masks[row] ?? 0;
    if (mask === 0) continue;
    const t = 3 * (row >> 6);
    const x = (origins[t] ?? 0) + ((row >> 3) & 7);
    const y = (origins[t + 1] ?? 0) + (row & 7);
    const z = origins[t + 2] ?? 0;
    for (let b = 0; b < 8; b++) if (mask & (1 << b)) visit(x, y, z + b, 8 * row + b);
  }
}

function coarser(grid: TileGrid, h: number, { factor, crop }: ResampleOptions): TileGrid {
  const { components: c, background, values } = grid;
  const out = new TileBuilder(c);
  const share = 1 / factor;
  const volume = share ** 3;
  // Of each axis: the first voxel that is overlapped, and the part of this voxel that lies in it; the rest is in the next one.
  const at = new Int32Array(3);
  const part = new Float64Array(3);
  each(grid.origins, grid.masks, (x, y, z, n) => {
    if (crop && !within(crop, x, y, z, h)) return;
    for (let a = 0; a < 3; a++) {
      const low = (a === 0 ? x : a === 1 ? y : z) * share;
      // A voxel that ends where another begins lies in one only, whatever rounding makes of it.
      const first = Math.floor(low + 1e-9);
      at[a] = first;
      const inside = Math.min(1, (first + 1 - low) / share);
      part[a] = inside > 1 - 1e-6 ? 1 : inside;
    }
    for (let corner = 0; corner < 8; corner++) {
      const wx = corner & 1 ? 1 - (part[0] ?? 0) : (part[0] ?? 0);
      const wy = corner & 2 ? 1 - (part[1] ?? 0) : (part[1] ?? 0);
      const wz = corner & 4 ? 1 - (part[2] ?? 0) : (part[2] ?? 0);
      const w = wx * wy * wz;
      if (w <= 0) continue;
      const i = (at[0] ?? 0) + (corner & 1);
      const j = (at[1] ?? 0) + ((corner >> 1) & 1);
      const k = (at[2] ?? 0) + (corner >> 2);
      const t = out.tile(i >> 3, j >> 3, k >> 3);
      const to = t * 512 + ((i & 7) << 6) + ((j & 7) << 3) + (k & 7);
      out.masks[to >> 3] = (out.masks[to >> 3] ?? 0) | (1 << (to & 7));
      for (let m = 0; m < c; m++) {
        out.values[to * c + m] = (out.values[to * c + m] ?? 0) + w * volume * ((values[n * c + m] ?? 0) - (background[m] ?? 0));
      }
    }
  });
  const made = out.finish(grid.name, background);
  if (background.some((b) => b !== 0)) {
    each(made.origins, made.masks, (_x, _y, _z, n) => {
      for (let m = 0; m < c; m++) made.values[n * c + m] = (made.values[n * c + m] ?? 0) + (background[m] ?? 0);
    });
    fillInactive(made, background);
  }
  return made;
}

/** Inactive voxels hold the background. */
function fillInactive({ masks, values, components: c }: TileGrid, background: readonly number[]): void {
  for (let n = 0; n < masks.length * 8; n++) {
    if ((masks[n >> 3] ?? 0) & (1 << (n & 7))) continue;
    for (let m = 0; m < c; m++) values[n * c + m] = background[m] ?? 0;
  }
}

function finer(grid: TileGrid, h: number, { factor, crop }: ResampleOptions): TileGrid {
  const { components: c, background, values, masks } = grid;
  const lookup = new TileLookup(grid.origins);
  const out = new TileBuilder(c);
  const size = h * factor;
  /** Number of an input voxel among all, -1 where none is active. */
  const voxel = (x: number, y: number, z: number): number => {
    const t = lookup.at(x >> 3, y >> 3, z >> 3);
    if (t < 0) return -1;
    const n = t * 512 + ((x & 7) << 6) + ((y & 7) << 3) + (z & 7);
    return (masks[n >> 3] ?? 0) & (1 << (n & 7)) ? n : -1;
  };
  // What an active voxel covers, and half a voxel around it: there interpolation finds something of it.
  const range = (v: number): readonly [number, number] => [Math.floor((v - 0.5) / factor - 0.5), Math.ceil((v + 1.5) / factor - 0.5)];
  const done = new Set<number>();
  each(grid.origins, masks, (x, y, z) => {
    const [i0, i1] = range(x);
    const [j0, j1] = range(y);
    const [k0, k1] = range(z);
    for (let i = i0; i <= i1; i++) for (let j = j0; j <= j1; j++) for (let k = k0; k <= k1; k++) tileOf(i >> 3, j >> 3, k >> 3);
  });
  function tileOf(i: number, j: number, k: number): void {
    const t = out.tile(i, j, k);
    if (done.has(t)) return;
    done.add(t);
    for (let n = 0; n < 512; n++) fill(t, n, i * TILE + (n >> 6), j * TILE + ((n >> 3) & 7), k * TILE + (n & 7));
  }
  function fill(t: number, n: number, i: number, j: number, k: number): void {
    const to = t * 512 + n;
    for (let m = 0; m < c; m++) out.values[to * c + m] = background[m] ?? 0;
    if (crop && !within(crop, i, j, k, size)) return;
    const [px, py, pz] = [(i + 0.5) * factor - 0.5, (j + 0.5) * factor - 0.5, (k + 0.5) * factor - 0.5];
    const [x, y, z] = [Math.floor(px), Math.floor(py), Math.floor(pz)];
    const [fx, fy, fz] = [px - x, py - y, pz - z];
    let covered = false;
    for (let corner = 0; corner < 8; corner++) {
      const w = (corner & 1 ? fx : 1 - fx) * (corner & 2 ? fy : 1 - fy) * (corner & 4 ? fz : 1 - fz);
      if (w <= 0) continue;
      const from = voxel(x + (corner & 1), y + ((corner >> 1) & 1), z + (corner >> 2));
      if (from < 0) continue;
      covered = true;
      for (let m = 0; m < c; m++)
        out.values[to * c + m] = (out.values[to * c + m] ?? 0) + w * ((values[from * c + m] ?? 0) - (background[m] ?? 0));
    }
    if (covered) out.masks[to >> 3] = (out.masks[to >> 3] ?? 0) | (1 << (to & 7));
  }
  return out.finish(grid.name, background);
}

/** Takes voxels of too little density out of all channels, and what lies where density has none. */
function cut(grids: readonly TileGrid[], density: TileGrid, least: number): void {
  const lookup = new TileLookup(density.origins);
  each(density.origins, density.masks.slice(), (_x, _y, _z, n) => {
    if ((density.values[n] ?? 0) >= least) return;
    density.masks[n >> 3] = (density.masks[n >> 3] ?? 0) & ~(1 << (n & 7));
    density.values[n] = density.background[0] ?? 0;
  });
  for (const grid of grids) {
    if (grid === density) continue;
    each(grid.origins, grid.masks.slice(), (x, y, z, n) => {
      const t = lookup.at(x >> 3, y >> 3, z >> 3);
      const d = t * 512 + ((x & 7) << 6) + ((y & 7) << 3) + (z & 7);
      if (t >= 0 && (density.masks[d >> 3] ?? 0) & (1 << (d & 7))) return;
      grid.masks[n >> 3] = (grid.masks[n >> 3] ?? 0) & ~(1 << (n & 7));
      for (let m = 0; m < grid.components; m++) grid.values[n * grid.components + m] = grid.background[m] ?? 0;
    });
  }
}

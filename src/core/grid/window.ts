/**
 * A window: the box of voxels that is held in memory. World voxel indices, anchored at the world's origin (voxel i covers
 * [i, i + 1] h); origin and size are multiples of 8.
 *
 * Memory layout of every field: see src/kernels/assembly/layout.ts (x fastest, with a halo).
 */
export interface Window {
  readonly ox: number;
  readonly oy: number;
  readonly oz: number;
  readonly nx: number;
  readonly ny: number;
  readonly nz: number;
}

/** Voxels along a tile's edge. */
export const TILE = 8;

const floor8 = (v: number): number => Math.floor(v / TILE) * TILE;
const ceil8 = (v: number): number => Math.ceil(v / TILE) * TILE;

/** Smallest window that covers world voxels [min, max). */
export function windowOf(min: readonly [number, number, number], max: readonly [number, number, number]): Window {
  const ox = floor8(min[0]);
  const oy = floor8(min[1]);
  const oz = floor8(min[2]);
  return {
    ox,
    oy,
    oz,
    nx: Math.max(TILE, ceil8(max[0]) - ox),
    ny: Math.max(TILE, ceil8(max[1]) - oy),
    nz: Math.max(TILE, ceil8(max[2]) - oz),
  };
}

export const rowStride = (nx: number): number => nx + 8;
export const planeStride = (nx: number, ny: number): number => rowStride(nx) * (ny + 2);

/** Entries of a field's array, halo included, plus room for vector loads to over-read. */
export const entries = (nx: number, ny: number, nz: number): number => planeStride(nx, ny) * (nz + 2) + 16;

/** Index, in a field's array, of a voxel given relative to the window's origin. */
export const indexOf = (nx: number, ny: number, i: number, j: number, k: number): number =>
  (k + 1) * planeStride(nx, ny) + (j + 1) * rowStride(nx) + i + 4;

export const sameWindow = (a: Window, b: Window): boolean =>
  a.ox === b.ox && a.oy === b.oy && a.oz === b.oz && a.nx === b.nx && a.ny === b.ny && a.nz === b.nz;

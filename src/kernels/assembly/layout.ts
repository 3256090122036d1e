// How a grid level lies in memory; the TypeScript twin of this file is src/core/grid/level.ts.
//
// Dense float32 (or byte) array of a window of nx x ny x nz voxels, x fastest, with a halo: 4 entries before and after
// each row (so that rows stay 16-byte aligned), one row before and after each plane, one plane before and after the
// whole. index(i, j, k) = ((k + 1) * (ny + 2) + (j + 1)) * sx + i + 4.
//
// Context: one block of i32 words a level.
export const SX: usize = 0; // row stride, entries
export const SP: usize = 4; // plane stride, entries
export const NX: usize = 8;
export const NY: usize = 12;
export const NZ: usize = 16;
export const TILES: usize = 20; // pointer to the tile records
export const STATUS: usize = 24; // pointer to the status bytes
export const DIAG: usize = 28; // pointer to the diagonal bytes
export const ORIGIN: usize = 32; // index of voxel (0, 0, 0)
export const END: usize = 36; // three float32: nx, ny, nz less a thousandth, as far as points are sampled

// Tile record: 8 i32 words. One record an active tile of 8 x 8 x 8 voxels.
export const TILE_SHIFT: i32 = 5;
export const T_BASE: usize = 0; // index of its first voxel
export const T_I: usize = 4;
export const T_J: usize = 8;
export const T_K: usize = 12;
export const T_CUT: usize = 16; // pointer to its cut block, 0 when all its faces are fully open
export const T_ID: usize = 20; // tile number in the window
export const T_COARSE: usize = 24; // index, on the next coarser level, of the cell over its first voxel
export const T_FLAGS: usize = 28; // bit 0: holds cells beyond an open wall; bit 1: as good as uncut for the pressure (poisson.ts)

// Cut block: 7 x 512 float32. Open face fractions -x +x -y +y -z +z, then the matrix diagonal.
export const CUT_STRIDE: usize = 2048; // bytes from one of the seven arrays to the next

// Status byte: 0 solid, 1 unknown (fluid in an active tile), 2 open (pressure is zero there).

/**
 * A sparse grid as it leaves a solver: tiles of 8^3 voxels in the order that .vdb files use, so that writing needs no reordering.
 * Voxel (x, y, z) of a tile is number (x << 6) | (y << 3) | z: z fastest.
 */
export interface TileGrid {
  readonly name: string;
  readonly components: 1 | 3;
  /** What every voxel without a tile, or inactive, holds. */
  readonly background: readonly number[];
  /** World voxel coordinates of each tile's first voxel: x, y, z, x, y, z ... */
  readonly origins: Int32Array;
  /** tiles x 512 x components. */
  readonly values: Float32Array;
  /** tiles x 64 bytes: voxel n is bit (n & 7) of byte (n >> 3). */
  readonly masks: Uint8Array;
}

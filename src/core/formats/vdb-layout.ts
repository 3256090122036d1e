// Constants of the .vdb layout, file format version 224, tree 5_4_3. See docs/methods/vdb.md.
export const MAGIC = 0x56444220;
export const FILE_VERSION = 224;
export const OLDEST_VERSION = 222;

export const COMPRESS_ZIP = 1;
export const COMPRESS_MASK = 2;
export const COMPRESS_BLOSC = 4;

export const LEAF = 512;
export const INNER4 = 4096;
export const INNER5 = 32768;

/** Slot numbers inside inner nodes, z fastest; two's complement, so negative coordinates work. */
export const slot4 = (x: number, y: number, z: number): number => (((x >> 3) & 15) << 8) | (((y >> 3) & 15) << 4) | ((z >> 3) & 15);
export const slot5 = (x: number, y: number, z: number): number => (((x >> 7) & 31) << 10) | (((y >> 7) & 31) << 5) | ((z >> 7) & 31);

export type VdbClass = 'fog volume' | 'level set' | 'staggered' | 'unknown';

/** world = index x scale + translation, index naming voxel centres. */
export interface VdbTransform {
  readonly scale: readonly [number, number, number];
  readonly translation: readonly [number, number, number];
}

// A band of tiles around a surface: only tiles that it is near are there, in no order that matters.
//
// A tile: 512 float32 (x fastest), the distance to the surface in voxels at the middles of its voxels, negative inside, from -band to band. Of each slot 27 words:
// the slots of the tiles around it, -1 where everything is outside, -2 where everything is inside (and a window's table of tiles says the same). A record of a
// slot, 16 bytes: the world voxel of its first (3 x i32), and a word of its own.

/** Words of a slot's neighbours, bytes. */
export const AROUND: usize = 108;
/** A block of a tile and up to four voxels around it: rows of 16 float32 (4 before, 8 of the tile, 4 behind), 16 rows a plane, 16 planes. */
export const ROW: usize = 64;
export const PLANE: usize = 1024;
export const BLOCK: usize = 16384;
/** Its first voxel that is the tile's own. */
export const FIRST: usize = 4 * 1024 + 4 * 64 + 16;

@inline
export function four(field: usize, slot: i32, at: usize, band: f32): v128 {
  return slot >= 0 ? v128.load(field + (<usize>slot << 11) + at) : f32x4.splat(slot == -1 ? band : -band);
}

/** Fills the block with a tile and `reach` voxels around it (up to 4; along x always 4). */
export function gatherBlock(block: usize, around: usize, t: i32, field: usize, reach: i32, band: f32): void {
  const own = around + <usize>t * AROUND;
  for (let k = -reach; k < 8 + reach; ++k) {
    const tz = k < 0 ? 0 : k > 7 ? 2 : 1;
    for (let j = -reach; j < 8 + reach; ++j) {
      const ty = j < 0 ? 0 : j > 7 ? 2 : 1;
      const at = own + (<usize>(tz * 9 + ty * 3) << 2);
      const row = <usize>(((k & 7) << 6) | ((j & 7) << 3)) << 2;
      const to = block + <usize>(k + 4) * PLANE + <usize>(j + 4) * ROW;
      const middle = load<i32>(at, 4);
      v128.store(to, four(field, load<i32>(at), row + 16, band));
      v128.store(to, four(field, middle, row, band), 16);
      v128.store(to, four(field, middle, row + 16, band), 32);
      v128.store(to, four(field, load<i32>(at, 8), row, band), 48);
    }
  }
}

/** The value of a voxel of the window's tiles, `table` of nx x ny x nz of them from the tile (tx, ty, tz). */
@inline
export function voxelAt(field: usize, table: usize, i: i32, j: i32, k: i32, tx: i32, ty: i32, tz: i32, nx: i32, ny: i32, nz: i32, band: f32): f32 {
  const x = (i >> 3) - tx;
  const y = (j >> 3) - ty;
  const z = (k >> 3) - tz;
  if (<u32>x >= <u32>nx || <u32>y >= <u32>ny || <u32>z >= <u32>nz) return band;
  const slot = load<i32>(table + (<usize>((z * ny + y) * nx + x) << 2));
  if (slot < 0) return slot == -1 ? band : -band;
  return load<f32>(field + (<usize>slot << 11) + (<usize>(((k & 7) << 6) | ((j & 7) << 3) | (i & 7)) << 2));
}

/** Each item: 256 places (16 bytes, in units of `scale` voxels). Of each the field, trilinear. */
export function sampleTiles(
  begin: i32,
  end: i32,
  field: usize,
  table: usize,
  tx: i32,
  ty: i32,
  tz: i32,
  nx: i32,
  ny: i32,
  nz: i32,
  band: f32,
  places: usize,
  count: i32,
  scale: f32,
  out: usize,
): void {
  const last = min(count, end << 8);
  for (let n = begin << 8; n < last; ++n) {
    const at = places + (<usize>n << 4);
    const x = load<f32>(at) * scale - 0.5;
    const y = load<f32>(at, 4) * scale - 0.5;
    const z = load<f32>(at, 8) * scale - 0.5;
    const i = <i32>floor(x);
    const j = <i32>floor(y);
    const k = <i32>floor(z);
    const u: f32 = x - <f32>i;
    const v: f32 = y - <f32>j;
    const w: f32 = z - <f32>k;
    let sum: f32 = 0;
    for (let c = 0; c < 8; ++c) {
      const value = voxelAt(field, table, i + (c & 1), j + ((c >> 1) & 1), k + (c >> 2), tx, ty, tz, nx, ny, nz, band);
      sum += value * (c & 1 ? u : 1 - u) * (c & 2 ? v : 1 - v) * (c & 4 ? w : 1 - w);
    }
    store<f32>(out + (<usize>n << 2), sum);
  }
}

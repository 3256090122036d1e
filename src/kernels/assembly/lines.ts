// Lines of voxels through runs of tiles: four lines side by side, one in each lane, so that whatever works along an axis is written once for all three.
// Along y and z the lanes are neighbours in x; along x they are neighbours in y, turned over in blocks of four by four.
//
// A run: tiles that follow each other along an axis without a gap. `order` holds the numbers of the tile records of all runs, `runs` two words a run: where
// it begins in `order`, and how many tiles it has. A tile's cross-section of 64 lines is 16 bundles of four.
import { SX, SP, TILES, STATUS, TILE_SHIFT, T_BASE, T_I, T_CUT, T_FLAGS, CUT_STRIDE } from './layout';

export const BUNDLES: i32 = 16;

/** Of the bundle at hand; thread-local, as each thread has its own instance. */
let sx: usize = 0;
let sp: usize = 0;
let stride: usize = 0;
let across: usize = 0;
let blockAcross: usize = 0;
let blockStride: usize = 0;
let axisNow: i32 = 0;
let tiles: usize = 0;
let status: usize = 0;
let first: usize = 0;
let length: i32 = 0;

/** Chooses a bundle of a run. Strides are entries; `across`: from a tile's first voxel to the bundle's. */
export function chooseBundle(ctx: usize, axis: i32, order: usize, start: i32, count: i32, bundle: i32): void {
  sx = <usize>load<i32>(ctx, SX);
  sp = <usize>load<i32>(ctx, SP);
  tiles = <usize>load<u32>(ctx, TILES);
  status = <usize>load<u32>(ctx, STATUS);
  axisNow = axis;
  first = order + (<usize>start << 2);
  length = count;
  const half = <usize>(bundle & 1);
  const other = <usize>(bundle >> 1);
  if (axis == 0) {
    stride = 1;
    across = other * sp + half * 4 * sx;
    blockAcross = other * 64 + half * 32;
    blockStride = 1;
  } else if (axis == 1) {
    stride = sx;
    across = other * sp + half * 4;
    blockAcross = other * 64 + half * 4;
    blockStride = 8;
  } else {
    stride = sp;
    across = other * sx + half * 4;
    blockAcross = other * 8 + half * 4;
    blockStride = 64;
  }
}

@inline
function record(t: i32): usize {
  return tiles + (<usize>load<i32>(first + (<usize>t << 2)) << TILE_SHIFT);
}

/** Window coordinate, along the axis, of the run's first voxel. */
export function firstVoxel(): i32 {
  return load<i32>(record(0) + (<usize>axisNow << 2), T_I);
}

/** Whether every cell of the run's tiles is unknown and every face open, as it is nearly everywhere. */
export function isPlain(): bool {
  for (let t = 0; t < length; ++t) {
    const rec = record(t);
    if (load<u32>(rec, T_CUT) != 0 || (load<i32>(rec, T_FLAGS) & 1) != 0) return false;
  }
  return true;
}

let t0: v128 = f32x4.splat(0);
let t1: v128 = f32x4.splat(0);
let t2: v128 = f32x4.splat(0);
let t3: v128 = f32x4.splat(0);

@inline
function turn(a: v128, b: v128, c: v128, d: v128): void {
  const ab0 = v128.shuffle<u32>(a, b, 0, 4, 1, 5);
  const ab1 = v128.shuffle<u32>(a, b, 2, 6, 3, 7);
  const cd0 = v128.shuffle<u32>(c, d, 0, 4, 1, 5);
  const cd1 = v128.shuffle<u32>(c, d, 2, 6, 3, 7);
  t0 = v128.shuffle<u64>(ab0, cd0, 0, 2);
  t1 = v128.shuffle<u64>(ab0, cd0, 1, 3);
  t2 = v128.shuffle<u64>(ab1, cd1, 0, 2);
  t3 = v128.shuffle<u64>(ab1, cd1, 1, 3);
}

@inline
function keepTurned(to: usize): void {
  v128.store(to, t0);
  v128.store(to, t1, 16);
  v128.store(to, t2, 32);
  v128.store(to, t3, 48);
}

/** One value a cell, or the low face of each cell, of the bundle. Returns whether any differs from `rest`. */
export function loadLines(field: usize, to: usize, rest: f32): bool {
  const usual = f32x4.splat(rest);
  let some = i32x4.splat(0);
  let p = to;
  for (let t = 0; t < length; ++t) {
    const from = field + ((<usize>load<i32>(record(t), T_BASE) + across) << 2);
    if (axisNow == 0) {
      const row = sx << 2;
      for (let h: usize = 0; h < 32; h += 16) {
        const a = v128.load(from + h);
        const b = v128.load(from + row + h);
        const c = v128.load(from + 2 * row + h);
        const d = v128.load(from + 3 * row + h);
        some = v128.or(some, v128.or(v128.or(f32x4.ne(a, usual), f32x4.ne(b, usual)), v128.or(f32x4.ne(c, usual), f32x4.ne(d, usual))));
        turn(a, b, c, d);
        keepTurned(p);
        p += 64;
      }
    } else {
      const step = stride << 2;
      for (let n: usize = 0; n < 8; ++n) {
        const v = v128.load(from + n * step);
        some = v128.or(some, f32x4.ne(v, usual));
        v128.store(p, v);
        p += 16;
      }
    }
  }
  return v128.any_true(some);
}

@inline
function four(at: usize, step: usize): v128 {
  const v = v128.load32_lane(at + step, v128.load32_zero(at), 1);
  return v128.load32_lane(at + 3 * step, v128.load32_lane(at + 2 * step, v, 2), 3);
}

/** The faces behind the last cells of the bundle. */
export function loadLast(field: usize): v128 {
  const from = field + ((<usize>load<i32>(record(length - 1), T_BASE) + across + 8 * stride) << 2);
  if (axisNow != 0) return v128.load(from);
  const row = sx << 2;
  return four(from, row);
}

export function storeLines(from: usize, field: usize): void {
  let p = from;
  for (let t = 0; t < length; ++t) {
    const to = field + ((<usize>load<i32>(record(t), T_BASE) + across) << 2);
    if (axisNow == 0) {
      const row = sx << 2;
      for (let h: usize = 0; h < 32; h += 16) {
        turn(v128.load(p), v128.load(p, 16), v128.load(p, 32), v128.load(p, 48));
        v128.store(to + h, t0);
        v128.store(to + row + h, t1);
        v128.store(to + 2 * row + h, t2);
        v128.store(to + 3 * row + h, t3);
        p += 64;
      }
    } else {
      const step = stride << 2;
      for (let n: usize = 0; n < 8; ++n) {
        v128.store(to + n * step, v128.load(p));
        p += 16;
      }
    }
  }
}

@inline
function unknown(at: usize): v128 {
  return i32x4.eq(i32x4.extend_low_i16x8_u(i16x8.extend_low_i8x16_u(v128.load32_zero(at))), i32x4.splat(1));
}

/** All bits where a cell is unknown. */
export function loadUnknown(to: usize): void {
  let p = to;
  for (let t = 0; t < length; ++t) {
    const from = status + <usize>load<i32>(record(t), T_BASE) + across;
    if (axisNow == 0) {
      for (let h: usize = 0; h < 8; h += 4) {
        turn(unknown(from + h), unknown(from + sx + h), unknown(from + 2 * sx + h), unknown(from + 3 * sx + h));
        keepTurned(p);
        p += 64;
      }
    } else {
      for (let n: usize = 0; n < 8; ++n) {
        v128.store(p, unknown(from + n * stride));
        p += 16;
      }
    }
  }
}

/** Multiplies the low faces' values of the bundle by how much of each face is open; the one behind the last cells too. */
export function narrowFaces(values: usize): void {
  let p = values;
  for (let t = 0; t < length; ++t) {
    const cut = <usize>load<u32>(record(t), T_CUT);
    if (cut == 0) {
      p += 128;
      continue;
    }
    const from = cut + <usize>(2 * axisNow) * CUT_STRIDE + (blockAcross << 2);
    if (axisNow == 0) {
      for (let h: usize = 0; h < 32; h += 16) {
        turn(v128.load(from + h), v128.load(from + 32 + h), v128.load(from + 64 + h), v128.load(from + 96 + h));
        v128.store(p, f32x4.mul(v128.load(p), t0));
        v128.store(p, f32x4.mul(v128.load(p, 16), t1), 16);
        v128.store(p, f32x4.mul(v128.load(p, 32), t2), 32);
        v128.store(p, f32x4.mul(v128.load(p, 48), t3), 48);
        p += 64;
      }
    } else {
      for (let n: usize = 0; n < 8; ++n) {
        v128.store(p, f32x4.mul(v128.load(p), v128.load(from + n * (blockStride << 2))));
        p += 16;
      }
    }
  }
  const cut = <usize>load<u32>(record(length - 1), T_CUT);
  if (cut == 0) return;
  const from = cut + <usize>(2 * axisNow + 1) * CUT_STRIDE + ((blockAcross + 7 * blockStride) << 2);
  const open = axisNow != 0 ? v128.load(from) : four(from, 32);
  v128.store(p, f32x4.mul(v128.load(p), open));
}

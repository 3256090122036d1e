// Trilinear sampling of four points at once. Wasm has no gather: each lane loads its eight corners as four pairs.
import { SX, SP, ORIGIN, END } from './layout';

/** Smallest and largest corner of the last call of sampleWithRange; thread-local, as each thread has its own instance. */
export let rangeLow: v128 = f32x4.splat(0);
export let rangeHigh: v128 = f32x4.splat(0);

@inline
function pairs(a: usize, b: usize): v128 {
  return v128.load64_lane(b, v128.load64_zero(a), 1);
}

@inline
function lerp(a: v128, b: v128, f: v128): v128 {
  return f32x4.add(a, f32x4.mul(f, f32x4.sub(b, a)));
}

/**
 * Index coordinates kept where the eight corners lie inside the halo. The order of the arguments makes a NaN the lower end. pmin and pmax are one
 * instruction each; min and max, which must pass NaNs on, are six.
 */
@inline
export function inside(ctx: usize, x: v128, axis: usize): v128 {
  return f32x4.pmin(v128.load32_splat(ctx + (axis << 2), END), f32x4.pmax(f32x4.splat(-1), x));
}

/** Whole numbers from -1 to 2^22 as integers: the low bits of x + 1.5 x 2^23. The saturating conversion takes three times as many instructions. */
@inline
function whole(x: v128): v128 {
  return i32x4.sub(f32x4.add(x, f32x4.splat(12582912)), i32x4.splat(0x4b400000));
}

@inline
function cornerOffsets(ctx: usize, fx: v128, fy: v128, fz: v128): v128 {
  const i = whole(fx);
  const j = whole(fy);
  const k = whole(fz);
  return i32x4.shl(
    i32x4.add(
      i32x4.add(i32x4.mul(k, v128.load32_splat(ctx, SP)), i32x4.mul(j, v128.load32_splat(ctx, SX))),
      i32x4.add(i, v128.load32_splat(ctx, ORIGIN)),
    ),
    2,
  );
}

/** Offsets, in bytes, that whole coordinates along an axis add; along x with that of voxel (0, 0, 0). */
@inline
export function alongX(ctx: usize, bx: v128): v128 {
  return i32x4.shl(i32x4.add(whole(bx), v128.load32_splat(ctx, ORIGIN)), 2);
}
@inline
export function alongY(ctx: usize, by: v128): v128 {
  return i32x4.shl(i32x4.mul(whole(by), v128.load32_splat(ctx, SX)), 2);
}
@inline
export function alongZ(ctx: usize, bz: v128): v128 {
  return i32x4.shl(i32x4.mul(whole(bz), v128.load32_splat(ctx, SP)), 2);
}

/** Field at four points, given in index coordinates of that field. */
@inline
export function sample(ctx: usize, field: usize, x0: v128, y0: v128, z0: v128): v128 {
  const x = inside(ctx, x0, 0);
  const y = inside(ctx, y0, 1);
  const z = inside(ctx, z0, 2);
  const bx = f32x4.floor(x);
  const by = f32x4.floor(y);
  const bz = f32x4.floor(z);
  return blend(
    ctx,
    field,
    i32x4.add(alongX(ctx, bx), i32x4.add(alongY(ctx, by), alongZ(ctx, bz))),
    f32x4.sub(x, bx),
    f32x4.sub(y, by),
    f32x4.sub(z, bz),
  );
}

/** Field between the eight corners from byte offsets `o`, by the parts of a voxel from them. */
@inline
export function blend(ctx: usize, field: usize, o: v128, fx: v128, fy: v128, fz: v128): v128 {
  const sx = <usize>load<i32>(ctx, SX) << 2;
  const sp = <usize>load<i32>(ctx, SP) << 2;
  const p0 = field + <usize>(<u32>i32x4.extract_lane(o, 0));
  const p1 = field + <usize>(<u32>i32x4.extract_lane(o, 1));
  const p2 = field + <usize>(<u32>i32x4.extract_lane(o, 2));
  const p3 = field + <usize>(<u32>i32x4.extract_lane(o, 3));
  let a = pairs(p0, p1);
  let b = pairs(p2, p3);
  const c00 = lerp(v128.shuffle<f32>(a, b, 0, 2, 4, 6), v128.shuffle<f32>(a, b, 1, 3, 5, 7), fx);
  a = pairs(p0 + sx, p1 + sx);
  b = pairs(p2 + sx, p3 + sx);
  const c10 = lerp(v128.shuffle<f32>(a, b, 0, 2, 4, 6), v128.shuffle<f32>(a, b, 1, 3, 5, 7), fx);
  a = pairs(p0 + sp, p1 + sp);
  b = pairs(p2 + sp, p3 + sp);
  const c01 = lerp(v128.shuffle<f32>(a, b, 0, 2, 4, 6), v128.shuffle<f32>(a, b, 1, 3, 5, 7), fx);
  a = pairs(p0 + sp + sx, p1 + sp + sx);
  b = pairs(p2 + sp + sx, p3 + sp + sx);
  const c11 = lerp(v128.shuffle<f32>(a, b, 0, 2, 4, 6), v128.shuffle<f32>(a, b, 1, 3, 5, 7), fx);
  return lerp(lerp(c00, c10, fy), lerp(c01, c11, fy), fz);
}

/** Leaves the smallest and largest of the eight corners around four points in rangeLow and rangeHigh. */
@inline
export function cornerRange(ctx: usize, field: usize, x0: v128, y0: v128, z0: v128): void {
  const bx = f32x4.floor(inside(ctx, x0, 0));
  const by = f32x4.floor(inside(ctx, y0, 1));
  const bz = f32x4.floor(inside(ctx, z0, 2));
  const o = cornerOffsets(ctx, bx, by, bz);
  const sx = <usize>load<i32>(ctx, SX) << 2;
  const sp = <usize>load<i32>(ctx, SP) << 2;
  const p0 = field + <usize>(<u32>i32x4.extract_lane(o, 0));
  const p1 = field + <usize>(<u32>i32x4.extract_lane(o, 1));
  const p2 = field + <usize>(<u32>i32x4.extract_lane(o, 2));
  const p3 = field + <usize>(<u32>i32x4.extract_lane(o, 3));
  let a = pairs(p0, p1);
  let b = pairs(p2, p3);
  let lowA = a;
  let lowB = b;
  let highA = a;
  let highB = b;
  a = pairs(p0 + sx, p1 + sx);
  b = pairs(p2 + sx, p3 + sx);
  lowA = f32x4.pmin(lowA, a);
  lowB = f32x4.pmin(lowB, b);
  highA = f32x4.pmax(highA, a);
  highB = f32x4.pmax(highB, b);
  a = pairs(p0 + sp, p1 + sp);
  b = pairs(p2 + sp, p3 + sp);
  lowA = f32x4.pmin(lowA, a);
  lowB = f32x4.pmin(lowB, b);
  highA = f32x4.pmax(highA, a);
  highB = f32x4.pmax(highB, b);
  a = pairs(p0 + sp + sx, p1 + sp + sx);
  b = pairs(p2 + sp + sx, p3 + sp + sx);
  lowA = f32x4.pmin(lowA, a);
  lowB = f32x4.pmin(lowB, b);
  highA = f32x4.pmax(highA, a);
  highB = f32x4.pmax(highB, b);
  rangeLow = f32x4.pmin(
    v128.shuffle<f32>(lowA, lowB, 0, 2, 4, 6),
    v128.shuffle<f32>(lowA, lowB, 1, 3, 5, 7),
  );
  rangeHigh = f32x4.pmax(
    v128.shuffle<f32>(highA, highB, 0, 2, 4, 6),
    v128.shuffle<f32>(highA, highB, 1, 3, 5, 7),
  );
}

@inline
function lane(status: usize, o: i32, sx: usize, sp: usize): i32 {
  const p = status + <usize>(<u32>o >> 2);
  return (
    <i32>(load<u16>(p) == 0x0101) &
    <i32>(load<u16>(p + sx) == 0x0101) &
    <i32>(load<u16>(p + sp) == 0x0101) &
    <i32>(load<u16>(p + sp + sx) == 0x0101)
  );
}

/** Mask of the points that lie inside the window and all of whose eight corner cells are unknown. */
@inline
export function allUnknown(ctx: usize, status: usize, x0: v128, y0: v128, z0: v128): v128 {
  const x = inside(ctx, x0, 0);
  const y = inside(ctx, y0, 1);
  const z = inside(ctx, z0, 2);
  const o = cornerOffsets(ctx, f32x4.floor(x), f32x4.floor(y), f32x4.floor(z));
  const sx = <usize>load<i32>(ctx, SX);
  const sp = <usize>load<i32>(ctx, SP);
  const m = i32x4(
    0 - lane(status, i32x4.extract_lane(o, 0), sx, sp),
    0 - lane(status, i32x4.extract_lane(o, 1), sx, sp),
    0 - lane(status, i32x4.extract_lane(o, 2), sx, sp),
    0 - lane(status, i32x4.extract_lane(o, 3), sx, sp),
  );
  const within = v128.and(v128.and(f32x4.eq(x, x0), f32x4.eq(y, y0)), f32x4.eq(z, z0));
  return v128.and(m, within);
}

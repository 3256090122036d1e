// (pmin and pmax are one instruction where min and max are five: nothing here is no number.)
//
// Signed distance from a level set's zero line: beside it from the value and its slope, further out by the upwind equation |grad d| = 1, to the band's width.
import { threadNumber } from './carry';
import { BLOCK, FIRST, PLANE, ROW, gatherBlock } from './surface-tiles';

/** 1 in the lanes whose sign differs from one of the six beside. */
@inline
function changes(at: usize): v128 {
  const zero = f32x4.splat(0);
  const own = f32x4.lt(v128.load(at), zero);
  let any = v128.xor(own, f32x4.lt(v128.load(at - 4), zero));
  any = v128.or(any, v128.xor(own, f32x4.lt(v128.load(at + 4), zero)));
  any = v128.or(any, v128.xor(own, f32x4.lt(v128.load(at - ROW), zero)));
  any = v128.or(any, v128.xor(own, f32x4.lt(v128.load(at + ROW), zero)));
  any = v128.or(any, v128.xor(own, f32x4.lt(v128.load(at - PLANE), zero)));
  return v128.or(any, v128.xor(own, f32x4.lt(v128.load(at + PLANE), zero)));
}

/** Each item: a tile. Where its voxels beside the zero line lie: least and most i, j, k (6 bytes), and whether there are any (the seventh). */
export function findNear(begin: i32, end: i32, around: usize, field: usize, band: f32, out: usize, scratch: usize): void {
  const block = scratch + threadNumber() * BLOCK;
  for (let t = begin; t < end; ++t) {
    gatherBlock(block, around, t, field, 1, band);
    let i0 = 8;
    let j0 = 8;
    let k0 = 8;
    let i1 = -1;
    let j1 = -1;
    let k1 = -1;
    for (let k = 0; k < 8; ++k) {
      for (let j = 0; j < 8; ++j) {
        const at = block + FIRST + <usize>k * PLANE + <usize>j * ROW;
        const bits = i32x4.bitmask(changes(at)) | (i32x4.bitmask(changes(at + 16)) << 4);
        if (bits == 0) continue;
        i0 = min(i0, ctz(bits));
        i1 = max(i1, 31 - clz(bits));
        j0 = min(j0, j);
        j1 = max(j1, j);
        k0 = min(k0, k);
        k1 = max(k1, k);
      }
    }
    const to = out + (<usize>t << 3);
    store<u8>(to, <u8>i0);
    store<u8>(to, <u8>j0, 1);
    store<u8>(to, <u8>k0, 2);
    store<u8>(to, <u8>i1, 3);
    store<u8>(to, <u8>j1, 4);
    store<u8>(to, <u8>k1, 5);
    store<u8>(to, i1 >= 0 ? 1 : 0, 6);
  }
}

/** Whether the zero line runs on both sides along an axis: the voxel lies on the ridge of something thin. */
@inline
function isRidge(v: f32, a: f32, b: f32): bool {
  return v < 0 != a < 0 && v < 0 != b < 0;
}

/** The difference that counts towards the slope along an axis: across the zero line, where it runs between; else the mean of both. */
@inline
function slope(v: f32, a: f32, b: f32): f32 {
  const before = v < 0 != a < 0;
  const behind = v < 0 != b < 0;
  if (before && behind) return max<f32>(abs<f32>(v - a), abs<f32>(b - v));
  if (before) return abs<f32>(v - a);
  if (behind) return abs<f32>(b - v);
  return <f32>0.5 * abs<f32>(b - a);
}

/**
 * Each item: a tile. What is known (`near` 1): beside the zero line the distance by value and slope; elsewhere the band's width with its sign. `moved`: the surface was moved
 * outwards by so many voxels (inwards: negative). On the side that it moved to all that was a distance still is one; behind it, parts of it may have vanished.
 */
export function startDistance(begin: i32, end: i32, around: usize, field: usize, out: usize, near: usize, band: f32, moved: f32, scratch: usize): void {
  const block = scratch + threadNumber() * BLOCK;
  const zero = f32x4.splat(0);
  const to0 = f32x4.splat(moved);
  for (let t = begin; t < end; ++t) {
    gatherBlock(block, around, t, field, 1, band);
    for (let r = 0; r < 128; ++r) {
      const at = block + FIRST + <usize>(r >> 4) * PLANE + <usize>((r >> 1) & 7) * ROW + (<usize>(r & 1) << 4);
      const to = out + (<usize>t << 11) + (<usize>r << 4);
      const mark = near + (<usize>t << 9) + (<usize>r << 2);
      const own = v128.load(at);
      // Where nothing was moved, nothing is known but what lies beside.
      const side = moved > 0 ? f32x4.ge(own, zero) : moved < 0 ? f32x4.lt(own, zero) : zero;
      const known = v128.and(side, f32x4.lt(f32x4.abs(f32x4.add(own, to0)), f32x4.splat(band - <f32>0.001)));
      v128.store(to, v128.bitselect(own, v128.bitselect(f32x4.splat(-band), f32x4.splat(band), f32x4.lt(own, zero)), known));
      const marks = i32x4.bitmask(known);
      const bits = i32x4.bitmask(changes(at)) & ~marks;
      for (let lane: usize = 0; lane < 4; ++lane) {
        store<u8>(mark + lane, <u8>(((marks | bits) >> <i32>lane) & 1));
        if ((bits & (1 << <i32>lane)) == 0) continue;
        const o = at + (lane << 2);
        const v = load<f32>(o);
        const x = slope(v, load<f32>(o - 4), load<f32>(o + 4));
        const y = slope(v, load<f32>(o - ROW), load<f32>(o + ROW));
        const z = slope(v, load<f32>(o - PLANE), load<f32>(o + PLANE));
        // On a ridge the nearest side counts: added up, a drop would lose a third of its depth each time.
        const rx: f32 = isRidge(v, load<f32>(o - 4), load<f32>(o + 4)) ? x : 0;
        const ry: f32 = isRidge(v, load<f32>(o - ROW), load<f32>(o + ROW)) ? y : 0;
        const rz: f32 = isRidge(v, load<f32>(o - PLANE), load<f32>(o + PLANE)) ? z : 0;
        const ridge: f32 = max<f32>(rx, max<f32>(ry, rz));
        const sum: f32 = (rx > 0 ? 0 : x * x) + (ry > 0 ? 0 : y * y) + (rz > 0 ? 0 : z * z);
        const steep: f32 = sqrt<f32>(sum + ridge * ridge);
        store<f32>(to + (lane << 2), steep > 0 ? max<f32>(<f32>-1.75, min<f32>(<f32>1.75, v / steep)) : v);
      }
    }
  }
}

/** Each item: a tile. One step outwards from `field` to `out`: what is not beside the zero line is a voxel's way further than what is nearer. */
export function stepDistance(begin: i32, end: i32, around: usize, field: usize, out: usize, near: usize, band: f32, scratch: usize): void {
  const block = scratch + threadNumber() * BLOCK;
  const one = f32x4.splat(1);
  const two = f32x4.splat(2);
  const zero = f32x4.splat(0);
  const widest = f32x4.splat(band);
  for (let t = begin; t < end; ++t) {
    gatherBlock(block, around, t, field, 1, band);
    for (let r = 0; r < 128; ++r) {
      const at = block + FIRST + <usize>(r >> 4) * PLANE + <usize>((r >> 1) & 7) * ROW + (<usize>(r & 1) << 4);
      const own = v128.load(at);
      const x = f32x4.pmin(f32x4.abs(v128.load(at - 4)), f32x4.abs(v128.load(at + 4)));
      const y = f32x4.pmin(f32x4.abs(v128.load(at - ROW)), f32x4.abs(v128.load(at + ROW)));
      const z = f32x4.pmin(f32x4.abs(v128.load(at - PLANE)), f32x4.abs(v128.load(at + PLANE)));
      const low = f32x4.pmin(x, y);
      const a = f32x4.pmin(low, z);
      const to = out + (<usize>t << 11) + (<usize>r << 4);
      const marks = load<u32>(near + (<usize>t << 9) + (<usize>r << 2));
      // Nothing near enough beside it, or all known.
      if (marks == 0x01010101 || !v128.any_true(f32x4.lt(a, f32x4.splat(band - <f32>0.57)))) {
        v128.store(to, own);
        continue;
      }
      const high = f32x4.pmax(x, y);
      const rest = f32x4.pmax(low, z);
      const b = f32x4.pmin(high, rest);
      const c = f32x4.pmax(high, rest);
      let d = f32x4.add(a, one);
      const ab = f32x4.sub(a, b);
      const d2 = f32x4.mul(f32x4.splat(0.5), f32x4.add(f32x4.add(a, b), f32x4.sqrt(f32x4.pmax(zero, f32x4.sub(two, f32x4.mul(ab, ab))))));
      d = v128.bitselect(d2, d, f32x4.gt(d, b));
      const sum = f32x4.add(f32x4.add(a, b), c);
      const squares = f32x4.add(f32x4.add(f32x4.mul(a, a), f32x4.mul(b, b)), f32x4.mul(c, c));
      const root = f32x4.sqrt(f32x4.pmax(zero, f32x4.sub(f32x4.mul(sum, sum), f32x4.mul(f32x4.splat(3), f32x4.sub(squares, one)))));
      const d3 = f32x4.mul(f32x4.add(sum, root), f32x4.splat(<f32>(1.0 / 3)));
      d = v128.bitselect(d3, d, f32x4.gt(d, c));
      d = f32x4.pmin(f32x4.pmin(d, f32x4.abs(own)), widest);
      const signed = v128.bitselect(f32x4.neg(d), d, f32x4.lt(own, zero));
      const known = i32x4.ne(i32x4.extend_low_i16x8_u(i16x8.extend_low_i8x16_u(i32x4.splat(marks))), i32x4.splat(0));
      v128.store(to, v128.bitselect(own, signed, known));
    }
  }
}

/** A distance that was found anew may differ from what was there by so much of it. */
const SAME: f32 = 0.2;

/** Each item: a tile. Puts back what was there before, where it was as good as a distance: the upwind equation of first order is a tenth off beside what is curved. */
export function settleDistance(begin: i32, end: i32, before: usize, after: usize, band: f32, moved: f32): void {
  const zero = f32x4.splat(0);
  for (let at = <usize>begin << 11; at < <usize>end << 11; at += 16) {
    const was = v128.load(before + at);
    const now = v128.load(after + at);
    const size = f32x4.abs(now);
    const close = f32x4.lt(f32x4.abs(f32x4.sub(was, now)), f32x4.mul(size, f32x4.splat(SAME)));
    // What was at the band's end before the surface was moved says nothing.
    const ends = f32x4.lt(f32x4.abs(f32x4.add(was, f32x4.splat(moved))), f32x4.splat(band - <f32>0.001));
    const within = v128.and(ends, f32x4.lt(f32x4.pmax(size, f32x4.abs(was)), f32x4.splat(band - 1)));
    const same = v128.andnot(v128.and(close, within), v128.xor(f32x4.lt(was, zero), f32x4.lt(now, zero)));
    v128.store(after + at, v128.bitselect(was, now, same));
  }
}

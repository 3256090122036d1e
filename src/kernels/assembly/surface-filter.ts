// Filters of a band of tiles (surface-tiles.ts): each reads `field` and writes `out`.
import { threadNumber } from './carry';
import { BLOCK, FIRST, PLANE, ROW, gatherBlock } from './surface-tiles';

/** Bytes of a thread: a block, and one that is filtered along x, then y. */
export const FILTERED: usize = 2 * 16384;

/** Nine voxels around one, `step` bytes apart, weighted: the middle, and pairs beside it. */
@inline
function weighted(at: usize, step: usize, w0: v128, w1: v128, w2: v128, w3: v128, w4: v128): v128 {
  let sum = f32x4.mul(w0, v128.load(at));
  sum = f32x4.add(sum, f32x4.mul(w1, f32x4.add(v128.load(at - step), v128.load(at + step))));
  sum = f32x4.add(sum, f32x4.mul(w2, f32x4.add(v128.load(at - 2 * step), v128.load(at + 2 * step))));
  sum = f32x4.add(sum, f32x4.mul(w3, f32x4.add(v128.load(at - 3 * step), v128.load(at + 3 * step))));
  return f32x4.add(sum, f32x4.mul(w4, f32x4.add(v128.load(at - 4 * step), v128.load(at + 4 * step))));
}

/** Each item: a tile. A Gaussian whose five weights (of 0 to 4 voxels away) lie at `weights`. */
export function gaussianTiles(begin: i32, end: i32, around: usize, field: usize, out: usize, band: f32, weights: usize, scratch: usize): void {
  const block = scratch + threadNumber() * FILTERED;
  const along = block + BLOCK;
  const w0 = v128.load32_splat(weights);
  const w1 = v128.load32_splat(weights, 4);
  const w2 = v128.load32_splat(weights, 8);
  const w3 = v128.load32_splat(weights, 12);
  const w4 = v128.load32_splat(weights, 16);
  for (let t = begin; t < end; ++t) {
    gatherBlock(block, around, t, field, 4, band);
    for (let at: usize = 0; at < BLOCK; at += ROW) {
      v128.store(along + at, weighted(block + at + 16, 4, w0, w1, w2, w3, w4), 16);
      v128.store(along + at, weighted(block + at + 32, 4, w0, w1, w2, w3, w4), 32);
    }
    for (let k: usize = 0; k < BLOCK; k += PLANE) {
      for (let j: usize = 4 * ROW; j < 12 * ROW; j += ROW) {
        v128.store(block + k + j, weighted(along + k + j + 16, ROW, w0, w1, w2, w3, w4), 16);
        v128.store(block + k + j, weighted(along + k + j + 32, ROW, w0, w1, w2, w3, w4), 32);
      }
    }
    for (let r: usize = 0; r < 128; ++r) {
      const at = block + FIRST + (r >> 4) * PLANE + ((r >> 1) & 7) * ROW + ((r & 1) << 4);
      v128.store(out + (<usize>t << 11) + (r << 4), weighted(at, PLANE, w0, w1, w2, w3, w4));
    }
  }
}

@inline
function sorted(a: usize, b: usize): void {
  const x = v128.load(a);
  const y = v128.load(b);
  v128.store(a, f32x4.pmin(x, y));
  v128.store(b, f32x4.pmax(x, y));
}

/**
 * Each item: a tile. The median of the 27 voxels around each: of fifteen of them the least and the greatest are neither; one of the rest comes in for them, until
 * the middle of three is left.
 */
export function medianTiles(begin: i32, end: i32, around: usize, field: usize, out: usize, band: f32, strength: f32, scratch: usize): void {
  const block = scratch + threadNumber() * FILTERED;
  const kept = block + BLOCK;
  const part = f32x4.splat(strength);
  for (let t = begin; t < end; ++t) {
    gatherBlock(block, around, t, field, 1, band);
    for (let r: usize = 0; r < 128; ++r) {
      const at = block + FIRST + (r >> 4) * PLANE + ((r >> 1) & 7) * ROW + ((r & 1) << 4);
      const own = v128.load(at);
      const to = out + (<usize>t << 11) + (r << 4);
      // Far from the zero line there is nothing to be evened out.
      if (!v128.any_true(f32x4.lt(f32x4.abs(own), f32x4.splat(band)))) {
        v128.store(to, own);
        continue;
      }
      for (let n: usize = 0; n < 15; ++n) v128.store(kept + (n << 4), v128.load(at + (n / 9) * PLANE - PLANE + ((n / 3) % 3) * ROW - ROW + ((n % 3) << 2) - 4));
      let count: usize = 15;
      for (let next: usize = 15; ; ++next) {
        for (let n: usize = 1; n < count; ++n) sorted(kept, kept + (n << 4));
        for (let n: usize = 1; n + 1 < count; ++n) sorted(kept + (n << 4), kept + ((count - 1) << 4));
        if (next >= 27) break;
        // The least goes for the next, the greatest for the one before the last.
        v128.store(kept, v128.load(at + (next / 9) * PLANE - PLANE + ((next / 3) % 3) * ROW - ROW + ((next % 3) << 2) - 4));
        --count;
      }
      const middle = v128.load(kept + 16);
      v128.store(to, f32x4.add(own, f32x4.mul(part, f32x4.sub(middle, own))));
    }
  }
}

/** Each item: a tile. A step of motion by curvature: the sum of the principal curvatures, times the slope. `step` in squared voxels; at most 1/6. */
export function curvatureTiles(begin: i32, end: i32, around: usize, field: usize, out: usize, band: f32, step: f32, scratch: usize): void {
  const block = scratch + threadNumber() * FILTERED;
  const half = f32x4.splat(0.5);
  const quarter = f32x4.splat(0.25);
  const two = f32x4.splat(2);
  const by = f32x4.splat(step);
  for (let t = begin; t < end; ++t) {
    gatherBlock(block, around, t, field, 1, band);
    for (let r: usize = 0; r < 128; ++r) {
      const at = block + FIRST + (r >> 4) * PLANE + ((r >> 1) & 7) * ROW + ((r & 1) << 4);
      const own = v128.load(at);
      const to = out + (<usize>t << 11) + (r << 4);
      if (!v128.any_true(f32x4.lt(f32x4.abs(own), f32x4.splat(band - 1)))) {
        v128.store(to, own);
        continue;
      }
      const xa = v128.load(at - 4);
      const xb = v128.load(at + 4);
      const ya = v128.load(at - ROW);
      const yb = v128.load(at + ROW);
      const za = v128.load(at - PLANE);
      const zb = v128.load(at + PLANE);
      const x = f32x4.mul(half, f32x4.sub(xb, xa));
      const y = f32x4.mul(half, f32x4.sub(yb, ya));
      const z = f32x4.mul(half, f32x4.sub(zb, za));
      const twice = f32x4.mul(two, own);
      const xx = f32x4.sub(f32x4.add(xa, xb), twice);
      const yy = f32x4.sub(f32x4.add(ya, yb), twice);
      const zz = f32x4.sub(f32x4.add(za, zb), twice);
      const xy = f32x4.mul(quarter, f32x4.sub(f32x4.add(v128.load(at + ROW + 4), v128.load(at - ROW - 4)), f32x4.add(v128.load(at + ROW - 4), v128.load(at - ROW + 4))));
      const xz = f32x4.mul(quarter, f32x4.sub(f32x4.add(v128.load(at + PLANE + 4), v128.load(at - PLANE - 4)), f32x4.add(v128.load(at + PLANE - 4), v128.load(at - PLANE + 4))));
      const yz = f32x4.mul(
        quarter,
        f32x4.sub(f32x4.add(v128.load(at + PLANE + ROW), v128.load(at - PLANE - ROW)), f32x4.add(v128.load(at + PLANE - ROW), v128.load(at - PLANE + ROW))),
      );
      const x2 = f32x4.mul(x, x);
      const y2 = f32x4.mul(y, y);
      const z2 = f32x4.mul(z, z);
      // (grad . grad) laplacian - grad . hessian grad, over grad . grad.
      let bend = f32x4.mul(xx, f32x4.add(y2, z2));
      bend = f32x4.add(bend, f32x4.mul(yy, f32x4.add(x2, z2)));
      bend = f32x4.add(bend, f32x4.mul(zz, f32x4.add(x2, y2)));
      const mixed = f32x4.add(f32x4.mul(xy, f32x4.mul(x, y)), f32x4.add(f32x4.mul(xz, f32x4.mul(x, z)), f32x4.mul(yz, f32x4.mul(y, z))));
      bend = f32x4.sub(bend, f32x4.mul(two, mixed));
      const square = f32x4.add(f32x4.add(x2, y2), f32x4.add(z2, f32x4.splat(<f32>1e-6)));
      v128.store(to, f32x4.add(own, f32x4.mul(by, f32x4.div(bend, square))));
    }
  }
}

/** Each item: a tile. `out` + (field - out) x mask, in the band; without a mask all of `field`. What is left out of a filter stays as it was. */
export function blendTiles(begin: i32, end: i32, before: usize, after: usize, mask: usize, out: usize): void {
  for (let at = <usize>begin << 11; at < <usize>end << 11; at += 16) {
    const a = v128.load(before + at);
    v128.store(out + at, f32x4.add(a, f32x4.mul(f32x4.sub(v128.load(after + at), a), v128.load(mask + at))));
  }
}

/** Each item: a tile. Adds `by` voxels, within the band. */
export function shiftTiles(begin: i32, end: i32, field: usize, by: f32, band: f32): void {
  const add = f32x4.splat(by);
  for (let at = field + (<usize>begin << 11); at < field + (<usize>end << 11); at += 16) {
    v128.store(at, f32x4.pmax(f32x4.splat(-band), f32x4.pmin(f32x4.splat(band), f32x4.add(v128.load(at), add))));
  }
}

/**
 * Each item: a tile. Voxels that are inside when the surface is moved out by `shift` (where `mask` is 1, less where it is less; 0: everywhere), one beside it by its part; of
 * those that solids (`walls`: their distance, voxels, positive outside; 0: none) leave open. A f64 a tile.
 */
export function volumeTiles(begin: i32, end: i32, field: usize, walls: usize, mask: usize, shift: f32, out: usize): void {
  const one = f32x4.splat(1);
  const zero = f32x4.splat(0);
  const half = f32x4.splat(0.5);
  const by = f32x4.splat(shift);
  for (let t = begin; t < end; ++t) {
    let sum = f32x4.splat(0);
    for (let at = <usize>t << 11; at < <usize>(t + 1) << 11; at += 16) {
      const moved = mask == 0 ? by : f32x4.mul(by, v128.load(mask + at));
      let part = f32x4.pmax(zero, f32x4.pmin(one, f32x4.add(f32x4.sub(half, v128.load(field + at)), moved)));
      if (walls != 0) part = f32x4.mul(part, f32x4.pmax(zero, f32x4.pmin(one, f32x4.add(half, v128.load(walls + at)))));
      sum = f32x4.add(sum, part);
    }
    store<f64>(
      out + (<usize>t << 3),
      <f64>f32x4.extract_lane(sum, 0) + <f64>f32x4.extract_lane(sum, 1) + <f64>f32x4.extract_lane(sum, 2) + <f64>f32x4.extract_lane(sum, 3),
    );
  }
}

/** Each item: a tile. Cuts what lies further inside a wall than `depth` voxels. */
export function clipTiles(begin: i32, end: i32, field: usize, walls: usize, depth: f32): void {
  const deep = f32x4.splat(depth);
  for (let at = <usize>begin << 11; at < <usize>end << 11; at += 16) {
    v128.store(field + at, f32x4.pmax(v128.load(field + at), f32x4.neg(f32x4.add(v128.load(walls + at), deep))));
  }
}

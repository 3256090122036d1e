// Anisotropic kernels (Yu & Turk 2013): the sum of every particle's ellipsoid, whose level of a half is the surface; what is thinner than so many neighbours is a ball.
import { threadNumber } from './carry';
import { cellsOf, from, isDeep, until } from './surface-cells';
import { NEAR, SUMS, addBall } from './surface-distance';
import { BLOCK, FIRST, PLANE, ROW, gatherBlock } from './surface-tiles';

/**
 * Each item: a tile of cells. Of each particle in it, from those within `reach` cells: 16 floats (middle of its kernel in cells, how far it reaches in voxels; the
 * matrix of its ellipsoid, xx yy zz xy xz yz, 1 / voxel^2; the weight at its middle; how many there are around it), and how thick the liquid is around it, in voxels.
 * Yu & Turk 2013: weights 1 - (r / R)^3, lambda 0.9, axes are the variances over that of a full ball (0.15 R^2), the shortest at least a quarter of the longest.
 */
export function neighbourhoods(
  begin: i32,
  end: i32,
  slots: usize,
  slotOf: usize,
  cx: i32,
  cy: i32,
  cz: i32,
  nx: i32,
  ny: i32,
  nz: i32,
  cellStart: usize,
  deep: usize,
  places: usize,
  motions: usize,
  ratio: f32,
  reach: f32,
  kernel: f32,
  spacing: f32,
  shapes: usize,
  thickness: usize,
  scratch: usize,
): void {
  const own = scratch + threadNumber() * SOLVED;
  const square = reach * reach;
  const far = <i32>ceil(reach);
  for (let t = begin; t < end; ++t) {
    const i0 = (load<i32>(slots + <usize>t * 12) + cx) << 3;
    const j0 = (load<i32>(slots + <usize>t * 12, 4) + cy) << 3;
    const k0 = (load<i32>(slots + <usize>t * 12, 8) + cz) << 3;
    for (let n = 0; n < 512; ++n) {
      const i = i0 + (n & 7);
      const j = j0 + ((n >> 3) & 7);
      const k = k0 + (n >> 6);
      if (!cellsOf(i, i, j, k, slotOf, cx, cy, cz, nx, ny, nz, cellStart)) continue;
      const first = from;
      const last = until;
      const whole = load<u8>(deep + (<usize>t << 9) + <usize>n) == 2;
      for (let p = first; p < last; ++p) {
        const at = places + (<usize>p << 4);
        const volume = load<f32>(motions + (<usize>p << 4), 12);
        const to = shapes == 0 ? <usize>0 : shapes + (<usize>p << 6);
        if (whole) {
          // As deep as this a kernel is a ball, and nothing is thin.
          store<f32>(thickness + (<usize>p << 2), 1e9);
          if (to != 0) storeShape(to, load<f32>(at), load<f32>(at, 4), load<f32>(at, 8), kernel, 1, 1, 1, 1, 0, 0, 0, volume, 1e6);
          continue;
        }
        const place = f32x4.replace_lane(v128.load(at), 3, 0);
        let mean = f32x4.splat(0);
        let xx: f32 = 0;
        let yy: f32 = 0;
        let zz: f32 = 0;
        let xy: f32 = 0;
        let xz: f32 = 0;
        let yz: f32 = 0;
        let sum: f32 = 0;
        let count: f32 = 0;
        for (let z = k - far; z <= k + far; ++z) {
          for (let y = j - far; y <= j + far; ++y) {
            let x = i - far;
            while (x <= i + far) {
              const stop = min(i + far, x | 7);
              if (cellsOf(x, stop, y, z, slotOf, cx, cy, cz, nx, ny, nz, cellStart)) {
                const rest = until;
                for (let o = from; o < rest; ++o) {
                  const d = f32x4.sub(f32x4.replace_lane(v128.load(places + (<usize>o << 4)), 3, 0), place);
                  const s = f32x4.mul(d, d);
                  const q: f32 = f32x4.extract_lane(s, 0) + f32x4.extract_lane(s, 1) + f32x4.extract_lane(s, 2);
                  if (q >= square) continue;
                  const r: f32 = sqrt<f32>(q) / reach;
                  const w: f32 = 1 - r * r * r;
                  const dx = f32x4.extract_lane(d, 0);
                  const dy = f32x4.extract_lane(d, 1);
                  const dz = f32x4.extract_lane(d, 2);
                  mean = f32x4.add(mean, f32x4.mul(d, f32x4.splat(w)));
                  xx += w * dx * dx;
                  yy += w * dy * dy;
                  zz += w * dz * dz;
                  xy += w * dx * dy;
                  xz += w * dx * dz;
                  yz += w * dy * dz;
                  sum += w;
                  count += 1;
                }
              }
              x = stop + 1;
            }
          }
        }
        const by: f32 = 1 / sum;
        const mx = f32x4.extract_lane(mean, 0) * by;
        const my = f32x4.extract_lane(mean, 1) * by;
        const mz = f32x4.extract_lane(mean, 2) * by;
        solve(own, xx * by - mx * mx, yy * by - my * my, zz * by - mz * mz, xy * by - mx * my, xz * by - mx * mz, yz * by - my * mz);
        // A slab of thickness d has a variance of d^2 / 12; particles a spacing apart stand for one spacing.
        const v0 = load<f64>(own);
        const v1 = load<f64>(own, 32);
        const v2 = load<f64>(own, 64);
        const least = max<f64>(0, min(v0, min(v1, v2)));
        store<f32>(thickness + (<usize>p << 2), count < 2 ? spacing : <f32>sqrt<f64>(12 * least) * ratio + spacing);
        if (to == 0) continue;
        const most = max<f64>(v0, max(v1, v2));
        const full: f64 = 1 / (<f64>0.15 * <f64>square);
        if (!(most > 0)) {
          storeShape(to, load<f32>(at), load<f32>(at, 4), load<f32>(at, 8), kernel, 1, 1, 1, 1, 0, 0, 0, volume, count);
          continue;
        }
        const a = max(v0, most / 4) * full;
        const b = max(v1, most / 4) * full;
        const c = max(v2, most / 4) * full;
        const ia = 1 / (a * a);
        const ib = 1 / (b * b);
        const ic = 1 / (c * c);
        const ax = vector(own, 0, 0);
        const ay = vector(own, 1, 0);
        const az = vector(own, 2, 0);
        const bx = vector(own, 0, 1);
        const by2 = vector(own, 1, 1);
        const bz = vector(own, 2, 1);
        const cx2 = vector(own, 0, 2);
        const cy2 = vector(own, 1, 2);
        const cz2 = vector(own, 2, 2);
        storeShape(
          to,
          load<f32>(at) + <f32>0.9 * mx,
          load<f32>(at, 4) + <f32>0.9 * my,
          load<f32>(at, 8) + <f32>0.9 * mz,
          kernel,
          <f32>max(a, max(b, c)),
          <f32>(ia * ax * ax + ib * bx * bx + ic * cx2 * cx2),
          <f32>(ia * ay * ay + ib * by2 * by2 + ic * cy2 * cy2),
          <f32>(ia * az * az + ib * bz * bz + ic * cz2 * cz2),
          <f32>(ia * ax * ay + ib * bx * by2 + ic * cx2 * cy2),
          <f32>(ia * ax * az + ib * bx * bz + ic * cx2 * cz2),
          <f32>(ia * ay * az + ib * by2 * bz + ic * cy2 * cz2),
          <f32>(<f64>volume / (a * b * c)),
          count,
        );
      }
    }
  }
}

/** Of (1 - q^2)^3 over a ball of radius 1. */
const NORM: f32 = <f32>(315.0 / (64.0 * 3.14159265358979));

/** `kernel`: the radius of a full ball's kernel, voxels; the matrix, how far it reaches and the weight are in parts of it. */
@inline
function storeShape(
  to: usize,
  x: f32,
  y: f32,
  z: f32,
  kernel: f32,
  far: f32,
  xx: f32,
  yy: f32,
  zz: f32,
  xy: f32,
  xz: f32,
  yz: f32,
  weight: f32,
  count: f32,
): void {
  const over: f32 = 1 / (kernel * kernel);
  store<f32>(to, x);
  store<f32>(to, y, 4);
  store<f32>(to, z, 8);
  store<f32>(to, far * kernel, 12);
  store<f32>(to, xx * over, 16);
  store<f32>(to, yy * over, 20);
  store<f32>(to, zz * over, 24);
  store<f32>(to, xy * over, 28);
  store<f32>(to, xz * over, 32);
  store<f32>(to, yz * over, 36);
  store<f32>(to, (weight * NORM * over) / kernel, 40);
  store<f32>(to, count, 44);
}

// A symmetric matrix and its vectors (columns), 9 x f64 each, in a thread's own memory: globals lie in memory that all threads share.
const VECTORS: usize = 72;
/** Bytes of a thread for them. */
const SOLVED: usize = 192;

@inline
function vector(own: usize, row: i32, column: i32): f64 {
  return load<f64>(own + (<usize>(row * 3 + column) << 3), VECTORS);
}

/** Eigenvalues (on the diagonal) and vectors by Jacobi's rotations. */
function solve(own: usize, xx: f64, yy: f64, zz: f64, xy: f64, xz: f64, yz: f64): void {
  store<f64>(own, xx);
  store<f64>(own, xy, 8);
  store<f64>(own, xz, 16);
  store<f64>(own, xy, 24);
  store<f64>(own, yy, 32);
  store<f64>(own, yz, 40);
  store<f64>(own, xz, 48);
  store<f64>(own, yz, 56);
  store<f64>(own, zz, 64);
  for (let n: usize = 0; n < 9; ++n) store<f64>(own + (n << 3), n % 4 == 0 ? 1 : 0, VECTORS);
  const small: f64 = 1e-12 * (abs(xx) + abs(yy) + abs(zz));
  for (let sweep = 0; sweep < 8; ++sweep) {
    if (abs(load<f64>(own, 8)) + abs(load<f64>(own, 16)) + abs(load<f64>(own, 40)) <= small) break;
    turn(own, 0, 1);
    turn(own, 0, 2);
    turn(own, 1, 2);
  }
}

function turn(own: usize, p: usize, q: usize): void {
  const off = load<f64>(own + ((p * 3 + q) << 3));
  if (off == 0) return;
  const theta = (load<f64>(own + (q << 5)) - load<f64>(own + (p << 5))) / (2 * off);
  const t = (theta < 0 ? -1.0 : 1.0) / (abs(theta) + sqrt(theta * theta + 1));
  const c = 1 / sqrt(t * t + 1);
  const s = t * c;
  turnPairs(own + (p << 3), own + (q << 3), 24, c, s);
  turnPairs(own + p * 24, own + q * 24, 8, c, s);
  turnPairs(own + VECTORS + (p << 3), own + VECTORS + (q << 3), 24, c, s);
}

@inline
function turnPairs(a: usize, b: usize, step: usize, c: f64, s: f64): void {
  for (let n: usize = 0; n < 3 * step; n += step) {
    const x = load<f64>(a + n);
    const y = load<f64>(b + n);
    store<f64>(a + n, c * x - s * y);
    store<f64>(b + n, s * x + c * y);
  }
}

@inline
function addEllipsoid(own: usize, shape: usize, x: f32, y: f32, z: f32): void {
  const reach = load<f32>(shape, 12);
  const xx = f32x4.splat(load<f32>(shape, 16));
  const yy = load<f32>(shape, 20);
  const zz = load<f32>(shape, 24);
  const xy = load<f32>(shape, 28);
  const xz = load<f32>(shape, 32);
  const yz = load<f32>(shape, 36);
  const weight = f32x4.splat(load<f32>(shape, 40));
  const low = f32x4.sub(f32x4(0, 1, 2, 3), f32x4.splat(x));
  const high = f32x4.add(low, f32x4.splat(4));
  const one = f32x4.splat(1);
  const zero = f32x4.splat(0);
  const k1 = min(7, <i32>floor(z + reach));
  for (let k = max(0, <i32>ceil(z - reach)); k <= k1; ++k) {
    const dz: f32 = <f32>k - z;
    const w = sqrt<f32>(max<f32>(0, reach * reach - dz * dz));
    const j1 = min(7, <i32>floor(y + w));
    for (let j = max(0, <i32>ceil(y - w)); j <= j1; ++j) {
      const dy: f32 = <f32>j - y;
      const constant = f32x4.splat(yy * dy * dy + zz * dz * dz + 2 * yz * dy * dz);
      const linear = f32x4.splat(2 * (xy * dy + xz * dz));
      const row = own + <usize>(((k << 3) | j) << 5);
      for (let half: usize = 0; half < 32; half += 16) {
        const dx = half == 0 ? low : high;
        const q = f32x4.add(f32x4.mul(f32x4.add(f32x4.mul(xx, dx), linear), dx), constant);
        const s = f32x4.pmax(zero, f32x4.sub(one, q));
        v128.store(row + half, f32x4.add(v128.load(row + half), f32x4.mul(weight, f32x4.mul(s, f32x4.mul(s, s)))));
      }
    }
  }
}

/** Each item: a tile. `field`: the sum of the ellipsoids; `balls`: the distance to the balls of those with fewer than `least` around them. */
export function tileKernels(
  begin: i32,
  end: i32,
  records: usize,
  field: usize,
  balls: usize,
  slotOf: usize,
  cx: i32,
  cy: i32,
  cz: i32,
  nx: i32,
  ny: i32,
  nz: i32,
  cellStart: usize,
  places: usize,
  shapes: usize,
  ratio: f32,
  reach: f32,
  radius: f32,
  each: i32,
  least: f32,
  band: f32,
  scratch: usize,
): void {
  const own = scratch + threadNumber() * SUMS;
  const over: f32 = 1 / ratio;
  for (let t = begin; t < end; ++t) {
    const record = records + (<usize>t << 4);
    const i0 = load<i32>(record);
    const j0 = load<i32>(record, 4);
    const k0 = load<i32>(record, 8);
    memory.fill(own, 0, 2048);
    const unseen = f32x4.splat(band);
    for (let n: usize = 0; n < 2048; n += 16) v128.store(own + n, unseen, NEAR);
    const x1 = <i32>floor((<f32>i0 + <f32>7.5 + reach) * over);
    const y1 = <i32>floor((<f32>j0 + <f32>7.5 + reach) * over);
    const z1 = <i32>floor((<f32>k0 + <f32>7.5 + reach) * over);
    for (let z = <i32>floor((<f32>k0 + <f32>0.5 - reach) * over); z <= z1; ++z) {
      for (let y = <i32>floor((<f32>j0 + <f32>0.5 - reach) * over); y <= y1; ++y) {
        let x = <i32>floor((<f32>i0 + <f32>0.5 - reach) * over);
        while (x <= x1) {
          const stop = min(x1, x | 7);
          if (cellsOf(x, stop, y, z, slotOf, cx, cy, cz, nx, ny, nz, cellStart)) {
            const last = until;
            for (let p = from; p < last; ++p) {
              const shape = shapes + (<usize>p << 6);
              if (load<f32>(shape, 44) < least) {
                const at = places + (<usize>p << 4);
                const r = each ? load<f32>(at, 12) : radius;
                addBall(own, load<f32>(at) * ratio - <f32>0.5 - <f32>i0, load<f32>(at, 4) * ratio - <f32>0.5 - <f32>j0, load<f32>(at, 8) * ratio - <f32>0.5 - <f32>k0, r, r + 2);
              } else addEllipsoid(own, shape, load<f32>(shape) * ratio - <f32>0.5 - <f32>i0, load<f32>(shape, 4) * ratio - <f32>0.5 - <f32>j0, load<f32>(shape, 8) * ratio - <f32>0.5 - <f32>k0);
            }
          }
          x = stop + 1;
        }
      }
    }
    memory.copy(field + (<usize>t << 11), own, 2048);
    memory.copy(balls + (<usize>t << 11), own + NEAR, 2048);
  }
}

/** Each item: a tile. The distance from the sum of ellipsoids: how far its level of a half lies off by its slope, less `shift`; or the balls', where they are nearer. */
export function levelDistance(
  begin: i32,
  end: i32,
  records: usize,
  around: usize,
  field: usize,
  balls: usize,
  out: usize,
  shift: f32,
  band: f32,
  slotOf: usize,
  cx: i32,
  cy: i32,
  cz: i32,
  nx: i32,
  ny: i32,
  nz: i32,
  deep: usize,
  ratio: f32,
  scratch: usize,
): void {
  const block = scratch + threadNumber() * BLOCK;
  const over: f32 = 1 / ratio;
  for (let t = begin; t < end; ++t) {
    const record = records + (<usize>t << 4);
    const i0 = load<i32>(record);
    const j0 = load<i32>(record, 4);
    const k0 = load<i32>(record, 8);
    gatherBlock(block, around, t, field, 1, 0);
    for (let n = 0; n < 512; ++n) {
      const i = n & 7;
      const j = (n >> 3) & 7;
      const k = n >> 6;
      const at = block + FIRST + <usize>k * PLANE + <usize>j * ROW + (<usize>i << 2);
      const value = load<f32>(at);
      const gx = load<f32>(at + 4) - load<f32>(at - 4);
      const gy = load<f32>(at + ROW) - load<f32>(at - ROW);
      const gz = load<f32>(at + PLANE) - load<f32>(at - PLANE);
      const slope: f32 = <f32>0.5 * sqrt<f32>(gx * gx + gy * gy + gz * gz);
      const off: f32 = <f32>0.5 - value;
      let d: f32 = slope > 0 ? off / slope : off > 0 ? band : -band;
      d = min<f32>(d - shift, load<f32>(balls + (<usize>t << 11) + (<usize>n << 2)));
      if (isDeep(i0 + i, j0 + j, k0 + k, over, slotOf, cx, cy, cz, nx, ny, nz, deep)) d = -band;
      store<f32>(out + (<usize>t << 11) + (<usize>n << 2), max<f32>(-band, min<f32>(band, d)));
    }
  }
}

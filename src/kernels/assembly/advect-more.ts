// Two more schemes beside semi-Lagrangian and MacCormack: BFECC (Kim, Liu, Llamas, Rossignac 2005), and semi-Lagrangian with monotone cubic interpolation
// (Fedkiw, Stam, Jensen 2001). For cells a place is (0.5, 0.5, 0.5) in its voxel, for faces of axis a it is 0 along a.
import { SX, SP, NX, NY, NZ, TILES, STATUS, TILE_SHIFT, T_BASE, T_I, T_J, T_K } from './layout';
import { around, endX, endY, endZ, midway, trace } from './advect';
import { allUnknown, cornerRange, rangeHigh, rangeLow, sample } from './sample';

/** Velocity components at four places: of cells (axis 3) or of faces. */
@inline
function velocityOf(field: usize, o: usize, axis: i32, own: usize, component: i32, stride: usize): v128 {
  return axis == 3 ? midway(field + o, stride) : axis == component ? v128.load(field + o) : around(field + o, own, stride);
}

/**
 * What a step forth and back again loses, per value: error = source - sample(forward), traced forwards; 0 where a trace meets a cell that is not
 * unknown. `axis` 3: cells.
 */
export function roundTripError(
  begin: i32,
  end: i32,
  ctx: usize,
  u: usize,
  v: usize,
  w: usize,
  axis: i32,
  source: usize,
  forward: usize,
  error: usize,
  c: f32,
): void {
  const sx = <usize>load<i32>(ctx, SX);
  const sp = <usize>load<i32>(ctx, SP);
  const status = <usize>load<u32>(ctx, STATUS);
  const own: usize = axis == 0 ? 4 : axis == 1 ? sx << 2 : sp << 2;
  const ox: f32 = axis == 0 ? 0 : 0.5;
  const oy: f32 = axis == 1 ? 0 : 0.5;
  const oz: f32 = axis == 2 ? 0 : 0.5;
  for (let t = begin; t < end; ++t) {
    const rec = <usize>load<u32>(ctx, TILES) + (<usize>t << TILE_SHIFT);
    const base = <usize>load<i32>(rec, T_BASE);
    for (let row: i32 = 0; row < 64; ++row) {
      const y = f32x4.splat(<f32>(load<i32>(rec, T_J) + (row & 7)) + oy);
      const z = f32x4.splat(<f32>(load<i32>(rec, T_K) + (row >> 3)) + oz);
      for (let h: i32 = 0; h < 8; h += 4) {
        const x = f32x4.add(f32x4.splat(<f32>(load<i32>(rec, T_I) + h) + ox), f32x4(0, 1, 2, 3));
        const o = (base + (<usize>row >> 3) * sp + (<usize>row & 7) * sx + <usize>h) << 2;
        const vx = velocityOf(u, o, axis, own, 0, 4);
        const vy = velocityOf(v, o, axis, own, 1, sx << 2);
        const vz = velocityOf(w, o, axis, own, 2, sp << 2);
        trace(ctx, u, v, w, x, y, z, vx, vy, vz, -c);
        const fx = f32x4.sub(endX, f32x4.splat(ox));
        const fy = f32x4.sub(endY, f32x4.splat(oy));
        const fz = f32x4.sub(endZ, f32x4.splat(oz));
        const lost = f32x4.sub(v128.load(source + o), sample(ctx, forward, fx, fy, fz));
        v128.store(error + o, v128.and(lost, allUnknown(ctx, status, fx, fy, fz)));
      }
    }
  }
}

/**
 * forward += half the error carried along, clamped to the corners that the value came from: what advecting source + error / 2 gives, as interpolation is
 * linear in its field. `forward` is changed in place; only `source` and `error` are sampled.
 */
export function carryError(
  begin: i32,
  end: i32,
  ctx: usize,
  u: usize,
  v: usize,
  w: usize,
  axis: i32,
  source: usize,
  forward: usize,
  error: usize,
  c: f32,
): void {
  const sx = <usize>load<i32>(ctx, SX);
  const sp = <usize>load<i32>(ctx, SP);
  const status = <usize>load<u32>(ctx, STATUS);
  const own: usize = axis == 0 ? 4 : axis == 1 ? sx << 2 : sp << 2;
  const ox: f32 = axis == 0 ? 0 : 0.5;
  const oy: f32 = axis == 1 ? 0 : 0.5;
  const oz: f32 = axis == 2 ? 0 : 0.5;
  for (let t = begin; t < end; ++t) {
    const rec = <usize>load<u32>(ctx, TILES) + (<usize>t << TILE_SHIFT);
    const base = <usize>load<i32>(rec, T_BASE);
    for (let row: i32 = 0; row < 64; ++row) {
      const y = f32x4.splat(<f32>(load<i32>(rec, T_J) + (row & 7)) + oy);
      const z = f32x4.splat(<f32>(load<i32>(rec, T_K) + (row >> 3)) + oz);
      for (let h: i32 = 0; h < 8; h += 4) {
        const x = f32x4.add(f32x4.splat(<f32>(load<i32>(rec, T_I) + h) + ox), f32x4(0, 1, 2, 3));
        const o = (base + (<usize>row >> 3) * sp + (<usize>row & 7) * sx + <usize>h) << 2;
        const vx = velocityOf(u, o, axis, own, 0, 4);
        const vy = velocityOf(v, o, axis, own, 1, sx << 2);
        const vz = velocityOf(w, o, axis, own, 2, sp << 2);
        trace(ctx, u, v, w, x, y, z, vx, vy, vz, c);
        const bx = f32x4.sub(endX, f32x4.splat(ox));
        const by = f32x4.sub(endY, f32x4.splat(oy));
        const bz = f32x4.sub(endZ, f32x4.splat(oz));
        const first = v128.load(forward + o);
        cornerRange(ctx, source, bx, by, bz);
        const second = f32x4.add(first, f32x4.mul(f32x4.splat(0.5), sample(ctx, error, bx, by, bz)));
        const clamped = f32x4.pmin(f32x4.pmax(second, rangeLow), rangeHigh);
        v128.store(forward + o, v128.bitselect(clamped, first, allUnknown(ctx, status, bx, by, bz)));
      }
    }
  }
}

/** Four one-dimensional interpolations at t between b and c, with slopes that keep each between its two ends. */
@inline
function monotone(a: v128, b: v128, c: v128, d: v128, t: v128): v128 {
  const zero = f32x4.splat(0);
  const half = f32x4.splat(0.5);
  const three = f32x4.splat(3);
  const rise = f32x4.sub(c, b);
  // Slopes of the other sign than the rise become 0, steeper ones than three times it become that (Fritsch, Carlson 1980).
  const low = f32x4.pmin(zero, f32x4.mul(three, rise));
  const high = f32x4.pmax(zero, f32x4.mul(three, rise));
  const p = f32x4.pmin(f32x4.pmax(f32x4.mul(half, f32x4.sub(c, a)), low), high);
  const q = f32x4.pmin(f32x4.pmax(f32x4.mul(half, f32x4.sub(d, b)), low), high);
  const k3 = f32x4.sub(f32x4.add(p, q), f32x4.add(rise, rise));
  const k2 = f32x4.sub(f32x4.mul(three, rise), f32x4.add(f32x4.add(p, p), q));
  return f32x4.add(b, f32x4.mul(t, f32x4.add(p, f32x4.mul(t, f32x4.add(k2, f32x4.mul(t, k3))))));
}

/** One plane of sixteen values around a point: interpolated along x, one result for each of its four rows. `p`: the value before the first of the row before. */
@inline
function plane(p: usize, sx: usize, tx: v128): v128 {
  const r0 = v128.load(p);
  const r1 = v128.load(p + sx);
  const r2 = v128.load(p + 2 * sx);
  const r3 = v128.load(p + 3 * sx);
  const t0 = v128.shuffle<f32>(r0, r1, 0, 4, 1, 5);
  const t1 = v128.shuffle<f32>(r2, r3, 0, 4, 1, 5);
  const t2 = v128.shuffle<f32>(r0, r1, 2, 6, 3, 7);
  const t3 = v128.shuffle<f32>(r2, r3, 2, 6, 3, 7);
  return monotone(
    v128.shuffle<f32>(t0, t1, 0, 1, 4, 5),
    v128.shuffle<f32>(t0, t1, 2, 3, 6, 7),
    v128.shuffle<f32>(t2, t3, 0, 1, 4, 5),
    v128.shuffle<f32>(t2, t3, 2, 3, 6, 7),
    tx,
  );
}

/** Field at one point by sixty-four values; `at`: index of the cell at or before it. */
@inline
function cubic(field: usize, at: i32, sx: usize, sp: usize, fx: f32, fy: f32, fz: f32): f32 {
  const p = field + (<usize>at << 2) - sp - sx - 4;
  const tx = f32x4.splat(fx);
  const k0 = plane(p, sx, tx);
  const k1 = plane(p + sp, sx, tx);
  const k2 = plane(p + 2 * sp, sx, tx);
  const k3 = plane(p + 3 * sp, sx, tx);
  const rows = monotone(k0, k1, k2, k3, f32x4.splat(fz));
  const a = f32x4.splat(f32x4.extract_lane(rows, 0));
  const b = f32x4.splat(f32x4.extract_lane(rows, 1));
  const c = f32x4.splat(f32x4.extract_lane(rows, 2));
  const d = f32x4.splat(f32x4.extract_lane(rows, 3));
  return f32x4.extract_lane(monotone(a, b, c, d, f32x4.splat(fy)), 0);
}

/**
 * Semi-Lagrangian with monotone cubic interpolation. Where one of the eight corners is not unknown, or the sixty-four would leave the window, it is
 * linear; what the further ones bring is kept within the eight, so that solids and sleeping tiles cannot be felt through them. `axis` 3: cells.
 */
export function advectCubic(
  begin: i32,
  end: i32,
  ctx: usize,
  u: usize,
  v: usize,
  w: usize,
  axis: i32,
  source: usize,
  target: usize,
  c: f32,
): void {
  const sx = <usize>load<i32>(ctx, SX);
  const sp = <usize>load<i32>(ctx, SP);
  const status = <usize>load<u32>(ctx, STATUS);
  const own: usize = axis == 0 ? 4 : axis == 1 ? sx << 2 : sp << 2;
  const ox: f32 = axis == 0 ? 0 : 0.5;
  const oy: f32 = axis == 1 ? 0 : 0.5;
  const oz: f32 = axis == 2 ? 0 : 0.5;
  const lastX = load<i32>(ctx, NX) - 2;
  const lastY = load<i32>(ctx, NY) - 2;
  const lastZ = load<i32>(ctx, NZ) - 2;
  for (let t = begin; t < end; ++t) {
    const rec = <usize>load<u32>(ctx, TILES) + (<usize>t << TILE_SHIFT);
    const base = <usize>load<i32>(rec, T_BASE);
    for (let row: i32 = 0; row < 64; ++row) {
      const y = f32x4.splat(<f32>(load<i32>(rec, T_J) + (row & 7)) + oy);
      const z = f32x4.splat(<f32>(load<i32>(rec, T_K) + (row >> 3)) + oz);
      for (let h: i32 = 0; h < 8; h += 4) {
        const x = f32x4.add(f32x4.splat(<f32>(load<i32>(rec, T_I) + h) + ox), f32x4(0, 1, 2, 3));
        const o = (base + (<usize>row >> 3) * sp + (<usize>row & 7) * sx + <usize>h) << 2;
        const vx = velocityOf(u, o, axis, own, 0, 4);
        const vy = velocityOf(v, o, axis, own, 1, sx << 2);
        const vz = velocityOf(w, o, axis, own, 2, sp << 2);
        trace(ctx, u, v, w, x, y, z, vx, vy, vz, c);
        const bx = f32x4.sub(endX, f32x4.splat(ox));
        const by = f32x4.sub(endY, f32x4.splat(oy));
        const bz = f32x4.sub(endZ, f32x4.splat(oz));
        const linear = sample(ctx, source, bx, by, bz);
        v128.store(target + o, linear);
        const good = allUnknown(ctx, status, bx, by, bz);
        if (!v128.any_true(good)) continue;
        cornerRange(ctx, source, bx, by, bz);
        const low = rangeLow;
        const high = rangeHigh;
        for (let n = 0; n < 4; ++n) {
          const lane: v128 = n == 0 ? good : n == 1 ? v128.shuffle<u32>(good, good, 1, 1, 1, 1) : n == 2 ? v128.shuffle<u32>(good, good, 2, 2, 2, 2) : v128.shuffle<u32>(good, good, 3, 3, 3, 3);
          if (i32x4.extract_lane(lane, 0) == 0) continue;
          const px = pick(bx, n);
          const py = pick(by, n);
          const pz = pick(bz, n);
          const i = <i32>Mathf.floor(px);
          const j = <i32>Mathf.floor(py);
          const k = <i32>Mathf.floor(pz);
          if (i < 1 || j < 1 || k < 1 || i >= lastX || j >= lastY || k >= lastZ) continue;
          const at = (k + 1) * <i32>sp + (j + 1) * <i32>sx + i + 4;
          const value = cubic(source, at, sx << 2, sp << 2, px - <f32>i, py - <f32>j, pz - <f32>k);
          store<f32>(target + o + (<usize>n << 2), min<f32>(max<f32>(value, pick(low, n)), pick(high, n)));
        }
      }
    }
  }
}

@inline
function pick(v: v128, n: i32): f32 {
  return n == 0 ? f32x4.extract_lane(v, 0) : n == 1 ? f32x4.extract_lane(v, 1) : n == 2 ? f32x4.extract_lane(v, 2) : f32x4.extract_lane(v, 3);
}

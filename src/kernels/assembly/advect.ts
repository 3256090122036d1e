// Semi-Lagrangian advection with a second-order Runge-Kutta (midpoint) back-trace (Stam 1999), and the MacCormack
// correction with clamping (Selle, Fedkiw, Kim, Liu, Rossignac 2008). Positions are in voxels from the window's corner,
// voxel i covers [i, i + 1]; `c` is dt / h: voxels travelled for each metre a second.
import { SX, SP, TILES, STATUS, TILE_SHIFT, T_BASE, T_I, T_J, T_K } from './layout';
import { alongX, alongY, alongZ, blend, inside, sample, cornerRange, allUnknown, rangeLow, rangeHigh } from './sample';

/** Where the last trace ended; thread-local, as each thread has its own instance. */
export let endX: v128 = f32x4.splat(0);
export let endY: v128 = f32x4.splat(0);
export let endZ: v128 = f32x4.splat(0);

/** Follows the velocity backwards for dt (forwards when c is negative) from four points with known velocities. */
@inline
export function trace(
  ctx: usize,
  u: usize,
  v: usize,
  w: usize,
  x: v128,
  y: v128,
  z: v128,
  vx: v128,
  vy: v128,
  vz: v128,
  c: f32,
): void {
  const half = f32x4.splat(0.5);
  const step = f32x4.splat(c);
  const halfStep = f32x4.splat(0.5 * c);
  const mx = f32x4.sub(x, f32x4.mul(halfStep, vx));
  const my = f32x4.sub(y, f32x4.mul(halfStep, vy));
  const mz = f32x4.sub(z, f32x4.mul(halfStep, vz));
  const hx = f32x4.sub(mx, half);
  const hy = f32x4.sub(my, half);
  const hz = f32x4.sub(mz, half);
  // The three components lie on lattices that share their coordinates in pairs: six floors instead of nine.
  const kmx = inside(ctx, mx, 0);
  const khx = inside(ctx, hx, 0);
  const kmy = inside(ctx, my, 1);
  const khy = inside(ctx, hy, 1);
  const kmz = inside(ctx, mz, 2);
  const khz = inside(ctx, hz, 2);
  const bmx = f32x4.floor(kmx);
  const bhx = f32x4.floor(khx);
  const bmy = f32x4.floor(kmy);
  const bhy = f32x4.floor(khy);
  const bmz = f32x4.floor(kmz);
  const bhz = f32x4.floor(khz);
  const fhx = f32x4.sub(khx, bhx);
  const fhy = f32x4.sub(khy, bhy);
  const fhz = f32x4.sub(khz, bhz);
  const ox = alongX(ctx, bhx);
  const oy = alongY(ctx, bhy);
  const oz = alongZ(ctx, bhz);
  const ou = i32x4.add(alongX(ctx, bmx), i32x4.add(oy, oz));
  endX = f32x4.sub(x, f32x4.mul(step, blend(ctx, u, ou, f32x4.sub(kmx, bmx), fhy, fhz)));
  const ov = i32x4.add(ox, i32x4.add(alongY(ctx, bmy), oz));
  endY = f32x4.sub(y, f32x4.mul(step, blend(ctx, v, ov, fhx, f32x4.sub(kmy, bmy), fhz)));
  const ow = i32x4.add(ox, i32x4.add(oy, alongZ(ctx, bmz)));
  endZ = f32x4.sub(z, f32x4.mul(step, blend(ctx, w, ow, fhx, fhy, f32x4.sub(kmz, bmz))));
}

@inline
export function midway(p: usize, stride: usize): v128 {
  return f32x4.mul(f32x4.splat(0.5), f32x4.add(v128.load(p), v128.load(p + stride)));
}

/** Component d at a face of component c: the mean of the four faces around it. */
@inline
export function around(p: usize, c: usize, d: usize): v128 {
  return f32x4.mul(
    f32x4.splat(0.25),
    f32x4.add(f32x4.add(v128.load(p), v128.load(p - c)), f32x4.add(v128.load(p + d), v128.load(p + d - c))),
  );
}

/**
 * Scalars at cell centres. `list` holds `count` records of three pointers: source, forward result (unused here), target.
 */
export function advectCells(
  begin: i32,
  end: i32,
  ctx: usize,
  u: usize,
  v: usize,
  w: usize,
  list: usize,
  count: i32,
  c: f32,
): void {
  const sx = <usize>load<i32>(ctx, SX);
  const sp = <usize>load<i32>(ctx, SP);
  const half = f32x4.splat(0.5);
  for (let t = begin; t < end; ++t) {
    const rec = <usize>load<u32>(ctx, TILES) + (<usize>t << TILE_SHIFT);
    const base = <usize>load<i32>(rec, T_BASE);
    for (let row: i32 = 0; row < 64; ++row) {
      const y = f32x4.splat(<f32>(load<i32>(rec, T_J) + (row & 7)) + 0.5);
      const z = f32x4.splat(<f32>(load<i32>(rec, T_K) + (row >> 3)) + 0.5);
      for (let h: i32 = 0; h < 8; h += 4) {
        const i = <f32>(load<i32>(rec, T_I) + h);
        const x = f32x4.add(f32x4.splat(i), f32x4(0.5, 1.5, 2.5, 3.5));
        const o = (base + (<usize>row >> 3) * sp + (<usize>row & 7) * sx + <usize>h) << 2;
        trace(ctx, u, v, w, x, y, z, midway(u + o, 4), midway(v + o, sx << 2), midway(w + o, sp << 2), c);
        const dx = f32x4.sub(endX, half);
        const dy = f32x4.sub(endY, half);
        const dz = f32x4.sub(endZ, half);
        for (let n = 0; n < count; ++n) {
          const at = list + <usize>(n * 12);
          v128.store(<usize>load<u32>(at, 8) + o, sample(ctx, <usize>load<u32>(at), dx, dy, dz));
        }
      }
    }
  }
}

/** MacCormack correction of scalars: records of source, forward result, target. */
export function correctCells(
  begin: i32,
  end: i32,
  ctx: usize,
  u: usize,
  v: usize,
  w: usize,
  list: usize,
  count: i32,
  c: f32,
): void {
  const sx = <usize>load<i32>(ctx, SX);
  const sp = <usize>load<i32>(ctx, SP);
  const status = <usize>load<u32>(ctx, STATUS);
  const half = f32x4.splat(0.5);
  for (let t = begin; t < end; ++t) {
    const rec = <usize>load<u32>(ctx, TILES) + (<usize>t << TILE_SHIFT);
    const base = <usize>load<i32>(rec, T_BASE);
    for (let row: i32 = 0; row < 64; ++row) {
      const y = f32x4.splat(<f32>(load<i32>(rec, T_J) + (row & 7)) + 0.5);
      const z = f32x4.splat(<f32>(load<i32>(rec, T_K) + (row >> 3)) + 0.5);
      for (let h: i32 = 0; h < 8; h += 4) {
        const i = <f32>(load<i32>(rec, T_I) + h);
        const x = f32x4.add(f32x4.splat(i), f32x4(0.5, 1.5, 2.5, 3.5));
        const o = (base + (<usize>row >> 3) * sp + (<usize>row & 7) * sx + <usize>h) << 2;
        const vx = midway(u + o, 4);
        const vy = midway(v + o, sx << 2);
        const vz = midway(w + o, sp << 2);
        trace(ctx, u, v, w, x, y, z, vx, vy, vz, c);
        const bx = f32x4.sub(endX, half);
        const by = f32x4.sub(endY, half);
        const bz = f32x4.sub(endZ, half);
        trace(ctx, u, v, w, x, y, z, vx, vy, vz, -c);
        const fx = f32x4.sub(endX, half);
        const fy = f32x4.sub(endY, half);
        const fz = f32x4.sub(endZ, half);
        const good = v128.and(allUnknown(ctx, status, bx, by, bz), allUnknown(ctx, status, fx, fy, fz));
        for (let n = 0; n < count; ++n) {
          const at = list + <usize>(n * 12);
          const source = <usize>load<u32>(at);
          const forward = <usize>load<u32>(at, 4);
          const first = v128.load(forward + o);
          const error = f32x4.sub(v128.load(source + o), sample(ctx, forward, fx, fy, fz));
          cornerRange(ctx, source, bx, by, bz);
          const second = f32x4.add(first, f32x4.mul(half, error));
          const clamped = f32x4.pmin(f32x4.pmax(second, rangeLow), rangeHigh);
          v128.store(<usize>load<u32>(at, 8) + o, v128.bitselect(clamped, first, good));
        }
      }
    }
  }
}

/** One velocity component, at its faces; axis 0, 1, 2. */
export function advectFaces(
  begin: i32,
  end: i32,
  ctx: usize,
  u: usize,
  v: usize,
  w: usize,
  axis: i32,
  target: usize,
  c: f32,
): void {
  const sx = <usize>load<i32>(ctx, SX);
  const sp = <usize>load<i32>(ctx, SP);
  const source = axis == 0 ? u : axis == 1 ? v : w;
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
        const i = <f32>(load<i32>(rec, T_I) + h) + ox;
        const x = f32x4.add(f32x4.splat(i), f32x4(0, 1, 2, 3));
        const o = (base + (<usize>row >> 3) * sp + (<usize>row & 7) * sx + <usize>h) << 2;
        const vx = axis == 0 ? v128.load(u + o) : around(u + o, own, 4);
        const vy = axis == 1 ? v128.load(v + o) : around(v + o, own, sx << 2);
        const vz = axis == 2 ? v128.load(w + o) : around(w + o, own, sp << 2);
        trace(ctx, u, v, w, x, y, z, vx, vy, vz, c);
        const dx = f32x4.sub(endX, f32x4.splat(ox));
        const dy = f32x4.sub(endY, f32x4.splat(oy));
        const dz = f32x4.sub(endZ, f32x4.splat(oz));
        v128.store(target + o, sample(ctx, source, dx, dy, dz));
      }
    }
  }
}

/** MacCormack correction of one velocity component. */
export function correctFaces(
  begin: i32,
  end: i32,
  ctx: usize,
  u: usize,
  v: usize,
  w: usize,
  axis: i32,
  forward: usize,
  target: usize,
  c: f32,
): void {
  const sx = <usize>load<i32>(ctx, SX);
  const sp = <usize>load<i32>(ctx, SP);
  const status = <usize>load<u32>(ctx, STATUS);
  const half = f32x4.splat(0.5);
  const source = axis == 0 ? u : axis == 1 ? v : w;
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
        const i = <f32>(load<i32>(rec, T_I) + h) + ox;
        const x = f32x4.add(f32x4.splat(i), f32x4(0, 1, 2, 3));
        const o = (base + (<usize>row >> 3) * sp + (<usize>row & 7) * sx + <usize>h) << 2;
        const vx = axis == 0 ? v128.load(u + o) : around(u + o, own, 4);
        const vy = axis == 1 ? v128.load(v + o) : around(v + o, own, sx << 2);
        const vz = axis == 2 ? v128.load(w + o) : around(w + o, own, sp << 2);
        trace(ctx, u, v, w, x, y, z, vx, vy, vz, c);
        const bx = f32x4.sub(endX, f32x4.splat(ox));
        const by = f32x4.sub(endY, f32x4.splat(oy));
        const bz = f32x4.sub(endZ, f32x4.splat(oz));
        trace(ctx, u, v, w, x, y, z, vx, vy, vz, -c);
        const fx = f32x4.sub(endX, f32x4.splat(ox));
        const fy = f32x4.sub(endY, f32x4.splat(oy));
        const fz = f32x4.sub(endZ, f32x4.splat(oz));
        const good = v128.and(allUnknown(ctx, status, bx, by, bz), allUnknown(ctx, status, fx, fy, fz));
        const first = v128.load(forward + o);
        const error = f32x4.sub(v128.load(source + o), sample(ctx, forward, fx, fy, fz));
        cornerRange(ctx, source, bx, by, bz);
        const second = f32x4.add(first, f32x4.mul(half, error));
        const clamped = f32x4.pmin(f32x4.pmax(second, rangeLow), rangeHigh);
        v128.store(target + o, v128.bitselect(clamped, first, good));
      }
    }
  }
}

/**
 * Single faces by semi-Lagrangian advection: those between an active tile and the inactive tile that owns them.
 * `faces`: 4 i32 a face: index, i, j, k.
 */
export function advectFaceList(
  begin: i32,
  end: i32,
  ctx: usize,
  u: usize,
  v: usize,
  w: usize,
  axis: i32,
  faces: usize,
  values: usize,
  c: f32,
): void {
  const sx = <usize>load<i32>(ctx, SX);
  const sp = <usize>load<i32>(ctx, SP);
  const source = axis == 0 ? u : axis == 1 ? v : w;
  const own: usize = axis == 0 ? 4 : axis == 1 ? sx << 2 : sp << 2;
  const ox = f32x4.splat(axis == 0 ? 0 : 0.5);
  const oy = f32x4.splat(axis == 1 ? 0 : 0.5);
  const oz = f32x4.splat(axis == 2 ? 0 : 0.5);
  for (let n = begin; n < end; ++n) {
    const rec = faces + (<usize>n << 4);
    const o = <usize>load<i32>(rec) << 2;
    const x = f32x4.add(f32x4.splat(<f32>load<i32>(rec, 4)), ox);
    const y = f32x4.add(f32x4.splat(<f32>load<i32>(rec, 8)), oy);
    const z = f32x4.add(f32x4.splat(<f32>load<i32>(rec, 12)), oz);
    const vx = f32x4.splat(axis == 0 ? load<f32>(u + o) : f32x4.extract_lane(around(u + o, own, 4), 0));
    const vy = f32x4.splat(axis == 1 ? load<f32>(v + o) : f32x4.extract_lane(around(v + o, own, sx << 2), 0));
    const vz = f32x4.splat(axis == 2 ? load<f32>(w + o) : f32x4.extract_lane(around(w + o, own, sp << 2), 0));
    trace(ctx, u, v, w, x, y, z, vx, vy, vz, c);
    const value = sample(ctx, source, f32x4.sub(endX, ox), f32x4.sub(endY, oy), f32x4.sub(endZ, oz));
    store<f32>(values + (<usize>n << 2), f32x4.extract_lane(value, 0));
  }
}

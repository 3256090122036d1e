// What pushes and changes the gas between advection and projection. Every per-second rate is applied as an exact
// exponential or a product with dt, so that the number of substeps does not change the result.
import { SX, SP, TILES, STATUS, TILE_SHIFT, T_BASE, T_I, T_J, T_K } from './layout';
import { around } from './advect';

@inline
function fluidMask(p: usize): v128 {
  return i32x4.eq(i32x4.extend_low_i16x8_u(i16x8.extend_low_i8x16_u(v128.load32_zero(p))), i32x4.splat(1));
}

/**
 * Vertical faces: v += dt (lift (T - Ta) - sink density), lift in m/s^2/K; with `ideal` != 0 the lift is
 * g (1 - Ta / T), for large temperature differences. T and density at a face are the mean of its two cells.
 */
export function buoyancy(
  begin: i32,
  end: i32,
  ctx: usize,
  v: usize,
  density: usize,
  temperature: usize,
  ambient: f32,
  lift: f32,
  ideal: i32,
  sink: f32,
  dt: f32,
): void {
  const sx = <usize>load<i32>(ctx, SX) << 2;
  const sp = <usize>load<i32>(ctx, SP) << 2;
  const half = f32x4.splat(0.5);
  const one = f32x4.splat(1);
  const ta = f32x4.splat(ambient);
  const l = f32x4.splat(lift);
  const s = f32x4.splat(sink);
  const step = f32x4.splat(dt);
  for (let t = begin; t < end; ++t) {
    const rec = <usize>load<u32>(ctx, TILES) + (<usize>t << TILE_SHIFT);
    const base = <usize>load<i32>(rec, T_BASE) << 2;
    for (let row: usize = 0; row < 64; ++row) {
      for (let h: usize = 0; h < 32; h += 16) {
        const o = base + (row >> 3) * sp + (row & 7) * sx + h;
        const tf = f32x4.mul(half, f32x4.add(v128.load(temperature + o), v128.load(temperature + o - sx)));
        const df = f32x4.mul(half, f32x4.add(v128.load(density + o), v128.load(density + o - sx)));
        const heat = ideal ? f32x4.sub(one, f32x4.div(ta, tf)) : f32x4.sub(tf, ta);
        const a = f32x4.sub(f32x4.mul(l, heat), f32x4.mul(s, df));
        v128.store(v + o, f32x4.add(v128.load(v + o), f32x4.mul(step, a)));
      }
    }
  }
}

/** field = target + (field - target) keep. Relaxation towards the wind, cooling towards the ambient temperature. */
export function relax(begin: i32, end: i32, ctx: usize, field: usize, target: f32, keep: f32): void {
  const sx = <usize>load<i32>(ctx, SX) << 2;
  const sp = <usize>load<i32>(ctx, SP) << 2;
  const goal = f32x4.splat(target);
  const k = f32x4.splat(keep);
  for (let t = begin; t < end; ++t) {
    const rec = <usize>load<u32>(ctx, TILES) + (<usize>t << TILE_SHIFT);
    const base = <usize>load<i32>(rec, T_BASE) << 2;
    for (let row: usize = 0; row < 64; ++row) {
      for (let h: usize = 0; h < 32; h += 16) {
        const p = field + base + (row >> 3) * sp + (row & 7) * sx + h;
        v128.store(p, f32x4.add(goal, f32x4.mul(k, f32x4.sub(v128.load(p), goal))));
      }
    }
  }
}

/**
 * At the faces of an axis: target = velocity + gain d (speed - velocity . d) along the axis, d a unit direction. Components of other axes are the mean of the
 * four faces around.
 */
export function relaxAlong(
  begin: i32,
  end: i32,
  ctx: usize,
  u: usize,
  v: usize,
  w: usize,
  axis: i32,
  target: usize,
  dx: f32,
  dy: f32,
  dz: f32,
  speed: f32,
  gain: f32,
): void {
  const sx = <usize>load<i32>(ctx, SX) << 2;
  const sp = <usize>load<i32>(ctx, SP) << 2;
  const own: usize = axis == 0 ? 4 : axis == 1 ? sx : sp;
  const field = axis == 0 ? u : axis == 1 ? v : w;
  const part = f32x4.splat(gain * (axis == 0 ? dx : axis == 1 ? dy : dz));
  const s = f32x4.splat(speed);
  const x = f32x4.splat(dx);
  const y = f32x4.splat(dy);
  const z = f32x4.splat(dz);
  for (let t = begin; t < end; ++t) {
    const rec = <usize>load<u32>(ctx, TILES) + (<usize>t << TILE_SHIFT);
    const base = <usize>load<i32>(rec, T_BASE) << 2;
    for (let row: usize = 0; row < 64; ++row) {
      for (let h: usize = 0; h < 32; h += 16) {
        const o = base + (row >> 3) * sp + (row & 7) * sx + h;
        const vx = axis == 0 ? v128.load(u + o) : around(u + o, own, 4);
        const vy = axis == 1 ? v128.load(v + o) : around(v + o, own, sx);
        const vz = axis == 2 ? v128.load(w + o) : around(w + o, own, sp);
        const along = f32x4.add(f32x4.add(f32x4.mul(vx, x), f32x4.mul(vy, y)), f32x4.mul(vz, z));
        v128.store(target + o, f32x4.add(v128.load(field + o), f32x4.mul(part, f32x4.sub(s, along))));
      }
    }
  }
}

/**
 * density = max(0, density keep - loss), and 0 where that is below the cut-off.
 * Per tile, 2 f64: sum removed by decay, sum removed by the cut-off (over unknown cells).
 */
export function thin(
  begin: i32,
  end: i32,
  ctx: usize,
  density: usize,
  keep: f32,
  loss: f32,
  cutOff: f32,
  partial: usize,
): void {
  const sx = <usize>load<i32>(ctx, SX) << 2;
  const sp = <usize>load<i32>(ctx, SP) << 2;
  const status = <usize>load<u32>(ctx, STATUS);
  const k = f32x4.splat(keep);
  const l = f32x4.splat(loss);
  const low = f32x4.splat(cutOff);
  const zero = f32x4.splat(0);
  for (let t = begin; t < end; ++t) {
    const rec = <usize>load<u32>(ctx, TILES) + (<usize>t << TILE_SHIFT);
    const base = <usize>load<i32>(rec, T_BASE) << 2;
    let faded = f64x2.splat(0);
    let cut = f64x2.splat(0);
    for (let row: usize = 0; row < 64; ++row) {
      for (let h: usize = 0; h < 32; h += 16) {
        const o = base + (row >> 3) * sp + (row & 7) * sx + h;
        const old = v128.load(density + o);
        const after = f32x4.max(zero, f32x4.sub(f32x4.mul(k, old), l));
        const kept = v128.and(after, f32x4.ge(after, low));
        v128.store(density + o, kept);
        const fluid = fluidMask(status + (o >> 2));
        faded = addInto(faded, v128.and(f32x4.sub(old, after), fluid));
        cut = addInto(cut, v128.and(f32x4.sub(after, kept), fluid));
      }
    }
    store<f64>(partial + (<usize>t << 4), f64x2.extract_lane(faded, 0) + f64x2.extract_lane(faded, 1));
    store<f64>(partial + (<usize>t << 4), f64x2.extract_lane(cut, 0) + f64x2.extract_lane(cut, 1), 8);
  }
}

@inline
function addInto(sum: v128, v: v128): v128 {
  const high = v128.shuffle<u64>(v, v, 1, 0);
  return f64x2.add(sum, f64x2.add(f64x2.promote_low_f32x4(v), f64x2.promote_low_f32x4(high)));
}

@inline
function noiseRow(p: usize, fx: f32): v128 {
  const a = v128.load(p);
  return f32x4.add(a, f32x4.mul(f32x4.splat(fx), f32x4.sub(v128.load(p + 16), a)));
}

/**
 * Adds a periodic vector noise to one component: field += gain (a A + b B) at the face, A and B two lattices of
 * (n + 1)^3 float32 x 4 (the last layer repeats the first). A face at voxel position p samples lattice position
 * offset + p scale, wrapped.
 */
export function addNoise(
  begin: i32,
  end: i32,
  ctx: usize,
  field: usize,
  axis: i32,
  latticeA: usize,
  latticeB: usize,
  n: i32,
  a: f32,
  b: f32,
  scale: f32,
  offsetX: f32,
  offsetY: f32,
  offsetZ: f32,
): void {
  const sx = <usize>load<i32>(ctx, SX) << 2;
  const sp = <usize>load<i32>(ctx, SP) << 2;
  const row16 = <usize>(n + 1) << 4;
  const plane16 = <usize>(n + 1) * row16;
  const size = <f32>n;
  const ox: f32 = axis == 0 ? 0 : 0.5;
  const oy: f32 = axis == 1 ? 0 : 0.5;
  const oz: f32 = axis == 2 ? 0 : 0.5;
  for (let t = begin; t < end; ++t) {
    const rec = <usize>load<u32>(ctx, TILES) + (<usize>t << TILE_SHIFT);
    const base = <usize>load<i32>(rec, T_BASE) << 2;
    for (let row: i32 = 0; row < 64; ++row) {
      let y = offsetY + (<f32>(load<i32>(rec, T_J) + (row & 7)) + oy) * scale;
      let z = offsetZ + (<f32>(load<i32>(rec, T_K) + (row >> 3)) + oz) * scale;
      y -= size * Mathf.floor(y / size);
      z -= size * Mathf.floor(z / size);
      const j = min<i32>(<i32>y, n - 1);
      const k = min<i32>(<i32>z, n - 1);
      const fy = f32x4.splat(y - <f32>j);
      const fz = f32x4.splat(z - <f32>k);
      const line = <usize>k * plane16 + <usize>j * row16;
      const to = field + base + <usize>(row >> 3) * sp + <usize>(row & 7) * sx;
      for (let h: i32 = 0; h < 8; ++h) {
        let x = offsetX + (<f32>(load<i32>(rec, T_I) + h) + ox) * scale;
        x -= size * Mathf.floor(x / size);
        const i = min<i32>(<i32>x, n - 1);
        const fx = x - <f32>i;
        const o = line + (<usize>i << 4);
        let sum: f32 = 0;
        for (let s = 0; s < 2; ++s) {
          const q = (s == 0 ? latticeA : latticeB) + o;
          const low = noiseRow(q, fx);
          const nearZ = f32x4.add(low, f32x4.mul(fy, f32x4.sub(noiseRow(q + row16, fx), low)));
          const high = noiseRow(q + plane16, fx);
          const farZ = f32x4.add(high, f32x4.mul(fy, f32x4.sub(noiseRow(q + plane16 + row16, fx), high)));
          const value = f32x4.add(nearZ, f32x4.mul(fz, f32x4.sub(farZ, nearZ)));
          const c = axis == 0
            ? f32x4.extract_lane(value, 0)
            : axis == 1
              ? f32x4.extract_lane(value, 1)
              : f32x4.extract_lane(value, 2);
          sum += (s == 0 ? a : b) * c;
        }
        const p = to + (<usize>h << 2);
        store<f32>(p, load<f32>(p) + sum);
      }
    }
  }
}

@inline
function centre(p: usize, stride: usize): v128 {
  return f32x4.mul(f32x4.splat(0.5), f32x4.add(v128.load(p), v128.load(p + stride)));
}

/** Central difference, along stride s, of the cell-centred value of a component with face stride f. */
@inline
function slope(p: usize, f: usize, s: usize): v128 {
  return f32x4.mul(f32x4.splat(0.5), f32x4.sub(centre(p + s, f), centre(p - s, f)));
}

/** Vorticity times h at cell centres: three components and the magnitude. */
export function vorticity(
  begin: i32,
  end: i32,
  ctx: usize,
  u: usize,
  v: usize,
  w: usize,
  wx: usize,
  wy: usize,
  wz: usize,
  magnitude: usize,
): void {
  const sx = <usize>load<i32>(ctx, SX) << 2;
  const sp = <usize>load<i32>(ctx, SP) << 2;
  for (let t = begin; t < end; ++t) {
    const rec = <usize>load<u32>(ctx, TILES) + (<usize>t << TILE_SHIFT);
    const base = <usize>load<i32>(rec, T_BASE) << 2;
    for (let row: usize = 0; row < 64; ++row) {
      for (let h: usize = 0; h < 32; h += 16) {
        const o = base + (row >> 3) * sp + (row & 7) * sx + h;
        const x = f32x4.sub(slope(w + o, sp, sx), slope(v + o, sx, sp));
        const y = f32x4.sub(slope(u + o, 4, sp), slope(w + o, sp, 4));
        const z = f32x4.sub(slope(v + o, sx, 4), slope(u + o, 4, sx));
        v128.store(wx + o, x);
        v128.store(wy + o, y);
        v128.store(wz + o, z);
        const m = f32x4.add(f32x4.add(f32x4.mul(x, x), f32x4.mul(y, y)), f32x4.mul(z, z));
        v128.store(magnitude + o, f32x4.sqrt(m));
      }
    }
  }
}

/**
 * Vorticity confinement (Fedkiw, Stam, Jensen 2001) at cell centres: gain (N x w), N the direction in which |w| grows; 0 in cells that
 * are not unknown. `gain` = strength x reference length x dt / h, so that resolutions agree.
 */
export function confinement(
  begin: i32,
  end: i32,
  ctx: usize,
  wx: usize,
  wy: usize,
  wz: usize,
  magnitude: usize,
  gain: f32,
  fx: usize,
  fy: usize,
  fz: usize,
): void {
  const sx = <usize>load<i32>(ctx, SX) << 2;
  const sp = <usize>load<i32>(ctx, SP) << 2;
  const status = <usize>load<u32>(ctx, STATUS);
  const g = f32x4.splat(gain);
  const tiny = f32x4.splat(1e-6);
  for (let t = begin; t < end; ++t) {
    const rec = <usize>load<u32>(ctx, TILES) + (<usize>t << TILE_SHIFT);
    const base = <usize>load<i32>(rec, T_BASE) << 2;
    for (let row: usize = 0; row < 64; ++row) {
      for (let h: usize = 0; h < 32; h += 16) {
        const o = base + (row >> 3) * sp + (row & 7) * sx + h;
        const m = magnitude + o;
        const nx = f32x4.sub(v128.load(m + 4), v128.load(m - 4));
        const ny = f32x4.sub(v128.load(m + sx), v128.load(m - sx));
        const nz = f32x4.sub(v128.load(m + sp), v128.load(m - sp));
        const length = f32x4.sqrt(f32x4.add(f32x4.add(f32x4.mul(nx, nx), f32x4.mul(ny, ny)), f32x4.mul(nz, nz)));
        const k = v128.and(f32x4.div(g, f32x4.add(length, tiny)), fluidMask(status + (o >> 2)));
        const x = v128.load(wx + o);
        const y = v128.load(wy + o);
        const z = v128.load(wz + o);
        v128.store(fx + o, f32x4.mul(k, f32x4.sub(f32x4.mul(ny, z), f32x4.mul(nz, y))));
        v128.store(fy + o, f32x4.mul(k, f32x4.sub(f32x4.mul(nz, x), f32x4.mul(nx, z))));
        v128.store(fz + o, f32x4.mul(k, f32x4.sub(f32x4.mul(nx, y), f32x4.mul(ny, x))));
      }
    }
  }
}

/** field += mean of a cell-centred field over the two cells of each face. */
export function addCellsToFaces(begin: i32, end: i32, ctx: usize, field: usize, stride: i32, cells: usize): void {
  const sx = <usize>load<i32>(ctx, SX) << 2;
  const sp = <usize>load<i32>(ctx, SP) << 2;
  const s = <usize>stride << 2;
  const half = f32x4.splat(0.5);
  for (let t = begin; t < end; ++t) {
    const rec = <usize>load<u32>(ctx, TILES) + (<usize>t << TILE_SHIFT);
    const base = <usize>load<i32>(rec, T_BASE) << 2;
    for (let row: usize = 0; row < 64; ++row) {
      for (let h: usize = 0; h < 32; h += 16) {
        const o = base + (row >> 3) * sp + (row & 7) * sx + h;
        const mean = f32x4.mul(half, f32x4.add(v128.load(cells + o), v128.load(cells + o - s)));
        v128.store(field + o, f32x4.add(v128.load(field + o), mean));
      }
    }
  }
}

// From the grid back to the particles, and on: velocities by PIC with FLIP, or affine (Jiang et al. 2015); places by three samples of the velocity (Ralston 1962);
// walls are met on the way, not at its end only.
import { SX, SP } from './layout';

/** Entries of what the kernel is told, beside its arguments: f32 each. */
const P_DT: usize = 0; // seconds
const P_SCALE: usize = 4; // voxels a metre
const P_KEEP: usize = 8; // part of a particle's own velocity that is left (FLIP), by its rate
const P_DRAG: usize = 12; // part that drag leaves
const P_BOUNCE: usize = 16;
const P_FRICTION: usize = 20;
const P_GAP: usize = 24; // least distance from walls, voxels
const P_AIR_X: usize = 28; // what drag pulls to
const P_AIR_Y: usize = 32;
const P_AIR_Z: usize = 36;
const P_LOW: usize = 40; // outermost place, x y z, world voxels
const P_HIGH: usize = 52;
const P_UP: usize = 64; // against gravity, of length 1

let field0: usize = 0;
let rowStride: usize = 0;
let planeStride: usize = 0;
let originX: f32 = 0;
let originY: f32 = 0;
let originZ: f32 = 0;
let limitX: f32 = 0;
let limitY: f32 = 0;
let limitZ: f32 = 0;

/** Slopes of the last sample with them. */
let slopeX: f32 = 0;
let slopeY: f32 = 0;
let slopeZ: f32 = 0;

/** Between the eight nodes around a place of a field, whose nodes lie at (dx, dy, dz) of their voxel. Slopes (a voxel) are left behind when they are asked for. */
@inline
function sample(field: usize, x: f32, y: f32, z: f32, slopes: bool): f32 {
  const i = floor<f32>(x);
  const j = floor<f32>(y);
  const k = floor<f32>(z);
  const p = field + field0 + <usize>(<i32>k) * planeStride + <usize>(<i32>j) * rowStride + (<usize>(<i32>i) << 2);
  const q = p + planeStride;
  // x0 x1 of the lower row, then of the upper one.
  const a = v128.shuffle<u64>(v128.load64_zero(p), v128.load64_zero(p + rowStride), 0, 2);
  const b = v128.shuffle<u64>(v128.load64_zero(q), v128.load64_zero(q + rowStride), 0, 2);
  const fz = f32x4.splat(z - k);
  const alongZ = f32x4.sub(b, a);
  const c = f32x4.add(a, f32x4.mul(alongZ, fz));
  const fy = f32x4.splat(y - j);
  const high = v128.shuffle<u64>(c, c, 1, 1);
  const alongY = f32x4.sub(high, c);
  const d = f32x4.add(c, f32x4.mul(alongY, fy));
  const d0 = f32x4.extract_lane(d, 0);
  const d1 = f32x4.extract_lane(d, 1);
  const fx = x - i;
  if (slopes) {
    slopeX = d1 - d0;
    const y0 = f32x4.extract_lane(alongY, 0);
    slopeY = y0 + (f32x4.extract_lane(alongY, 1) - y0) * fx;
    const s = f32x4.add(alongZ, f32x4.mul(f32x4.sub(v128.shuffle<u64>(alongZ, alongZ, 1, 1), alongZ), fy));
    const z0 = f32x4.extract_lane(s, 0);
    slopeZ = z0 + (f32x4.extract_lane(s, 1) - z0) * fx;
  }
  return d0 + (d1 - d0) * fx;
}

/** The velocity at a place of the window (voxels); outside of it that at its rim. */
@inline
function velocityAt(u: usize, v: usize, w: usize, place: v128): v128 {
  const x = min<f32>(limitX, max<f32>(0, f32x4.extract_lane(place, 0)));
  const y = min<f32>(limitY, max<f32>(0, f32x4.extract_lane(place, 1)));
  const z = min<f32>(limitZ, max<f32>(0, f32x4.extract_lane(place, 2)));
  return f32x4(
    sample(u, x, y - 0.5, z - 0.5, false),
    sample(v, x - 0.5, y, z - 0.5, false),
    sample(w, x - 0.5, y - 0.5, z, false),
    0,
  );
}

let wallX: f32 = 0;
let wallY: f32 = 0;
let wallZ: f32 = 0;

/** Distance of walls at a place of the window, voxels, and the direction out of them; far where no tile knows of any. */
@inline
function wallAt(slotOf: usize, sdf: usize, nx: i32, ny: i32, nz: i32, x: f32, y: f32, z: f32): f32 {
  const fx = floor<f32>(x);
  const fy = floor<f32>(y);
  const fz = floor<f32>(z);
  const i = <i32>fx;
  const j = <i32>fy;
  const k = <i32>fz;
  const tx = i >> 3;
  const ty = j >> 3;
  const tz = k >> 3;
  if (<u32>tx >= <u32>nx || <u32>ty >= <u32>ny || <u32>tz >= <u32>nz) return 1e6;
  const slot = load<i32>(slotOf + (<usize>((tz * ny + ty) * nx + tx) << 2));
  if (slot < 0) return 1e6;
  const corners = <usize>load<u32>(sdf + (<usize>slot << 2));
  if (corners == 0) return 1e6;
  const q = corners + (<usize>((k & 7) * 81 + (j & 7) * 9 + (i & 7)) << 2);
  const c000 = load<f32>(q);
  const c100 = load<f32>(q, 4);
  const c010 = load<f32>(q, 36);
  const c110 = load<f32>(q, 40);
  const c001 = load<f32>(q, 324);
  const c101 = load<f32>(q, 328);
  const c011 = load<f32>(q, 360);
  const c111 = load<f32>(q, 364);
  const a = x - fx;
  const b = y - fy;
  const c = z - fz;
  const x00 = c000 + (c100 - c000) * a;
  const x10 = c010 + (c110 - c010) * a;
  const x01 = c001 + (c101 - c001) * a;
  const x11 = c011 + (c111 - c011) * a;
  const y0 = x00 + (x10 - x00) * b;
  const y1 = x01 + (x11 - x01) * b;
  wallZ = y1 - y0;
  wallY = (x10 - x00) * (1 - c) + (x11 - x01) * c;
  const near = (c100 - c000) * (1 - b) + (c110 - c010) * b;
  const far = (c101 - c001) * (1 - b) + (c111 - c011) * b;
  wallX = near * (1 - c) + far * c;
  return y0 + (y1 - y0) * c;
}

/** Voxels between two looks for walls on a particle's way. */
const LOOK: f32 = 0.25;
const TRIES = 4;

/**
 * Each item: a slot; its particles take their velocity from the grid and go on for a substep. `delta` fields: what the substep changed the faces by. `affine` = 0:
* FLIP with PIC. `moved`, 16 bytes a slot: the largest distance gone (voxels), the number of particles that met a wall on their way, and how far up the volume
 * correction took them (volume x voxels, each axis by its share of `up`), f32 each.
 */
export function moveParticles(
  begin: i32,
  end: i32,
  ctx: usize,
  tileStart: usize,
  places: usize,
  motions: usize,
  affine: usize,
  fields: usize,
  slotOf: usize,
  sdf: usize,
  nx: i32,
  ny: i32,
  nz: i32,
  ox: i32,
  oy: i32,
  oz: i32,
  told: usize,
  moved: usize,
): void {
  rowStride = <usize>load<i32>(ctx, SX) << 2;
  planeStride = <usize>load<i32>(ctx, SP) << 2;
  field0 = planeStride + rowStride + 16;
  originX = <f32>ox;
  originY = <f32>oy;
  originZ = <f32>oz;
  limitX = <f32>(nx << 3) - 0.001;
  limitY = <f32>(ny << 3) - 0.001;
  limitZ = <f32>(nz << 3) - 0.001;
  const u = <usize>load<u32>(fields);
  const v = <usize>load<u32>(fields, 4);
  const w = <usize>load<u32>(fields, 8);
  const du = <usize>load<u32>(fields, 12);
  const dv = <usize>load<u32>(fields, 16);
  const dw = <usize>load<u32>(fields, 20);
  // Where the volume correction takes particles, voxels; 0: nowhere.
  const ex = <usize>load<u32>(fields, 24);
  const ey = <usize>load<u32>(fields, 28);
  const ez = <usize>load<u32>(fields, 32);
  const up = f32x4(load<f32>(told, P_UP), load<f32>(told, P_UP + 4), load<f32>(told, P_UP + 8), 0);
  const dt = load<f32>(told, P_DT);
  const scale = load<f32>(told, P_SCALE) * dt;
  const keep = load<f32>(told, P_KEEP);
  const drag = load<f32>(told, P_DRAG);
  const bounce = load<f32>(told, P_BOUNCE);
  const friction = load<f32>(told, P_FRICTION);
  const gap = load<f32>(told, P_GAP);
  const air = f32x4(load<f32>(told, P_AIR_X), load<f32>(told, P_AIR_Y), load<f32>(told, P_AIR_Z), 0);
  const low = f32x4(load<f32>(told, P_LOW), load<f32>(told, P_LOW + 4), load<f32>(told, P_LOW + 8), -1e30);
  const high = f32x4(load<f32>(told, P_HIGH), load<f32>(told, P_HIGH + 4), load<f32>(told, P_HIGH + 8), 1e30);
  const origin = f32x4(originX, originY, originZ, 0);
  for (let t = begin; t < end; ++t) {
    const last = load<i32>(tileStart + (<usize>t << 2), 4);
    let farthest: f32 = 0;
    let met: f32 = 0;
    let raised: f32 = 0;
    for (let p = load<i32>(tileStart + (<usize>t << 2)); p < last; ++p) {
      const o = <usize>p << 4;
      const place = v128.load(places + o);
      const motion = v128.load(motions + o);
      const at = f32x4.sub(place, origin);
      const x = f32x4.extract_lane(at, 0);
      const y = f32x4.extract_lane(at, 1);
      const z = f32x4.extract_lane(at, 2);
      let grid: v128;
      let velocity: v128;
      if (affine != 0) {
        const c = affine + <usize>p * 48;
        const a = sample(u, x, y - 0.5, z - 0.5, true);
        store<f32>(c, slopeX);
        store<f32>(c, slopeY, 4);
        store<f32>(c, slopeZ, 8);
        const b = sample(v, x - 0.5, y, z - 0.5, true);
        store<f32>(c, slopeX, 16);
        store<f32>(c, slopeY, 20);
        store<f32>(c, slopeZ, 24);
        const d = sample(w, x - 0.5, y - 0.5, z, true);
        store<f32>(c, slopeX, 32);
        store<f32>(c, slopeY, 36);
        store<f32>(c, slopeZ, 40);
        grid = f32x4(a, b, d, 0);
        velocity = grid;
      } else {
        grid = velocityAt(u, v, w, at);
        const change = velocityAt(du, dv, dw, at);
        velocity = f32x4.add(grid, f32x4.mul(f32x4.splat(keep), f32x4.sub(f32x4.add(motion, change), grid)));
      }
      velocity = f32x4.add(air, f32x4.mul(f32x4.splat(drag), f32x4.sub(velocity, air)));
      // Ralston's third order: k1, k2 half on, k3 three quarters on.
      const s = f32x4.splat(scale);
      const k2 = velocityAt(u, v, w, f32x4.add(at, f32x4.mul(f32x4.splat(0.5), f32x4.mul(grid, s))));
      const k3 = velocityAt(u, v, w, f32x4.add(at, f32x4.mul(f32x4.splat(0.75), f32x4.mul(k2, s))));
      const sum = f32x4.add(
        f32x4.mul(f32x4.splat(2.0 / 9), grid),
        f32x4.add(f32x4.mul(f32x4.splat(3.0 / 9), k2), f32x4.mul(f32x4.splat(4.0 / 9), k3)),
      );
      let step = f32x4.replace_lane(f32x4.mul(sum, s), 3, 0);
      if (ex != 0) {
        const push = velocityAt(ex, ey, ez, at);
        const lift = f32x4.mul(push, up);
        raised += f32x4.extract_lane(motion, 3) * (f32x4.extract_lane(lift, 0) + f32x4.extract_lane(lift, 1) + f32x4.extract_lane(lift, 2));
        step = f32x4.add(step, push);
      }
      const squares = f32x4.mul(step, step);
      const length = sqrt<f32>(f32x4.extract_lane(squares, 0) + f32x4.extract_lane(squares, 1) + f32x4.extract_lane(squares, 2));
      farthest = max<f32>(farthest, length);
      let to = f32x4.add(at, step);
      // Near walls the way is gone along: what stands in it ends it, however thin.
      const clear = wallAt(slotOf, sdf, nx, ny, nz, x, y, z);
      const looks = clear > length ? 0 : <i32>ceil<f32>(length / LOOK);
      for (let n = 1; n <= looks; ++n) {
        const part: f32 = <f32>n / <f32>looks;
        const on = f32x4.add(at, f32x4.mul(step, f32x4.splat(part)));
        const d = wallAt(slotOf, sdf, nx, ny, nz, f32x4.extract_lane(on, 0), f32x4.extract_lane(on, 1), f32x4.extract_lane(on, 2));
        if (d < 0) {
          to = on;
          break;
        }
      }
      let touched = false;
      for (let n = 0; n < TRIES; ++n) {
        const d = wallAt(slotOf, sdf, nx, ny, nz, f32x4.extract_lane(to, 0), f32x4.extract_lane(to, 1), f32x4.extract_lane(to, 2));
        if (d >= gap) break;
        const g = sqrt<f32>(wallX * wallX + wallY * wallY + wallZ * wallZ);
        if (g < <f32>1e-4) break;
        touched = true;
        const normal = f32x4.mul(f32x4(wallX, wallY, wallZ, 0), f32x4.splat(1 / g));
        to = f32x4.add(to, f32x4.mul(normal, f32x4.splat((gap - d) / max<f32>(g, 0.5) + <f32>1e-4)));
        const dot = f32x4.mul(velocity, normal);
        const into = f32x4.extract_lane(dot, 0) + f32x4.extract_lane(dot, 1) + f32x4.extract_lane(dot, 2);
        if (into >= 0) continue;
        // What goes into the wall comes back in part; along it friction takes what the push allows (Coulomb).
        const along = f32x4.sub(velocity, f32x4.mul(normal, f32x4.splat(into)));
        const q = f32x4.mul(along, along);
        const speed = sqrt<f32>(f32x4.extract_lane(q, 0) + f32x4.extract_lane(q, 1) + f32x4.extract_lane(q, 2));
        const left: f32 = speed > 0 ? max<f32>(0, 1 + (friction * into * (1 + bounce)) / speed) : 0;
        velocity = f32x4.sub(f32x4.mul(along, f32x4.splat(left)), f32x4.mul(normal, f32x4.splat(bounce * into)));
      }
      if (touched) met += 1;
      const world = f32x4.add(to, origin);
      const inside = v128.and(f32x4.ge(world, low), f32x4.le(world, high));
      const gone = !i32x4.all_true(v128.or(inside, i32x4(0, 0, 0, -1)));
      const volume = f32x4.extract_lane(motion, 3);
      v128.store(places + o, f32x4.replace_lane(world, 3, f32x4.extract_lane(place, 3) + dt));
      // What is gone keeps its volume with the other sign, until it is counted.
      v128.store(motions + o, f32x4.replace_lane(velocity, 3, gone ? -volume : volume));
    }
    store<f32>(moved + (<usize>t << 4), farthest);
    store<f32>(moved + (<usize>t << 4), met, 4);
    store<f32>(moved + (<usize>t << 4), raised, 8);
  }
}

/** Per slot, 24 bytes of f64: sums of volume, volume x speed squared, volume x height along `up` (voxels); and 8 of f32: fastest, and 1 where a place or velocity is no number. */
export function measureParticles(
  begin: i32,
  end: i32,
  tileStart: usize,
  places: usize,
  motions: usize,
  upX: f32,
  upY: f32,
  upZ: f32,
  sums: usize,
): void {
  const up = f32x4(upX, upY, upZ, 0);
  for (let t = begin; t < end; ++t) {
    const last = load<i32>(tileStart + (<usize>t << 2), 4);
    let volume: f64 = 0;
    let energy: f64 = 0;
    let height: f64 = 0;
    let fastest: f32 = 0;
    let broken: f32 = 0;
    for (let p = load<i32>(tileStart + (<usize>t << 2)); p < last; ++p) {
      const o = <usize>p << 4;
      const m = v128.load(motions + o);
      const q = f32x4.mul(m, m);
      const square = f32x4.extract_lane(q, 0) + f32x4.extract_lane(q, 1) + f32x4.extract_lane(q, 2);
      // What has left is there until sorting counts it.
      const part = <f64>abs<f32>(f32x4.extract_lane(m, 3));
      volume += part;
      energy += part * <f64>square;
      const h = f32x4.mul(v128.load(places + o), up);
      height += part * <f64>(f32x4.extract_lane(h, 0) + f32x4.extract_lane(h, 1) + f32x4.extract_lane(h, 2));
      if (square > fastest) fastest = square;
      if (!(square + abs<f32>(load<f32>(places + o)) + abs<f32>(load<f32>(places + o, 4)) + abs<f32>(load<f32>(places + o, 8)) < <f32>1e30)) broken = 1;
    }
    const at = sums + (<usize>t << 5);
    store<f64>(at, volume);
    store<f64>(at, energy, 8);
    store<f64>(at, height, 16);
    store<f32>(at, sqrt<f32>(fastest), 24);
    store<f32>(at, broken, 28);
  }
}

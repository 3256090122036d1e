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
const P_PULL: usize = 76; // what gravity gives in the substep, m/s
const P_ALONE: usize = 88; // voxels of liquid around a particle up to which it flies by itself; 0: none does
const P_SHUT_LOW: usize = 92; // outermost place before closed walls, x y z, world voxels; far where a wall is open
const P_SHUT_HIGH: usize = 104;
const P_WEIGHT: usize = 116; // speed squared that a particle pays for a voxel up or down by the volume correction
const P_PURSE: usize = 120; // part of its speed squared that it pays at most, for each m/s that it has

let field0: usize = 0;
let rowStride: usize = 0;
let planeStride: usize = 0;
let rim: v128 = f32x4.splat(0);
let rowFloats: f32 = 0;

/** Before samples are taken: how a window of so many tiles lies in memory. */
@inline
function sampleIn(ctx: usize, nx: i32, ny: i32, nz: i32): void {
  rowStride = <usize>load<i32>(ctx, SX) << 2;
  planeStride = <usize>load<i32>(ctx, SP) << 2;
  field0 = planeStride + rowStride + 16;
  rim = f32x4.sub(f32x4(<f32>(nx << 3), <f32>(ny << 3), <f32>(nz << 3), 0), f32x4.splat(0.001));
  rowFloats = <f32>(rowStride >> 2);
}

/** Slopes of the last sample with them, a voxel: of u, v, w along x, y, z. */
let slopesX: v128 = f32x4.splat(0);
let slopesY: v128 = f32x4.splat(0);
let slopesZ: v128 = f32x4.splat(0);

/**
 * The velocity at a place of the window (voxels): the three components side by side, each between the eight faces around the place as far as its own faces lie from
 * whole numbers. Lanes hold u, v, w.
 */
@inline
function sampleAll(u: usize, v: usize, w: usize, place: v128, slopes: bool): v128 {
  const x = f32x4.sub(v128.shuffle<f32>(place, place, 0, 0, 0, 0), f32x4(0, 0.5, 0.5, 0.5));
  const y = f32x4.sub(v128.shuffle<f32>(place, place, 1, 1, 1, 1), f32x4(0.5, 0, 0.5, 0.5));
  const z = f32x4.sub(v128.shuffle<f32>(place, place, 2, 2, 2, 2), f32x4(0.5, 0.5, 0, 0.5));
  const i = f32x4.floor(x);
  const j = f32x4.floor(y);
  const k = f32x4.floor(z);
  const fx = f32x4.sub(x, i);
  const fy = f32x4.sub(y, j);
  const fz = f32x4.sub(z, k);
  // Places in a field are far below what a float holds exactly.
  const o = i32x4.add(
    i32x4.trunc_sat_f32x4_s(f32x4.add(f32x4.mul(j, f32x4.splat(rowFloats)), i)),
    i32x4.mul(i32x4.trunc_sat_f32x4_s(k), i32x4.splat(<i32>planeStride >> 2)),
  );
  const a = u + field0 + (<usize>i32x4.extract_lane(o, 0) << 2);
  const b = v + field0 + (<usize>i32x4.extract_lane(o, 1) << 2);
  const c = w + field0 + (<usize>i32x4.extract_lane(o, 2) << 2);
  // Rows: low y low z, high y low z, low y high z, high y high z; of each both ends along x.
  let uv = v128.shuffle<f32>(v128.load64_zero(a), v128.load64_zero(b), 0, 4, 1, 5);
  let last = v128.load64_zero(c);
  const c000 = v128.shuffle<f32>(uv, last, 0, 1, 4, 4);
  const c100 = v128.shuffle<f32>(uv, last, 2, 3, 5, 5);
  uv = v128.shuffle<f32>(v128.load64_zero(a + rowStride), v128.load64_zero(b + rowStride), 0, 4, 1, 5);
  last = v128.load64_zero(c + rowStride);
  const c010 = v128.shuffle<f32>(uv, last, 0, 1, 4, 4);
  const c110 = v128.shuffle<f32>(uv, last, 2, 3, 5, 5);
  uv = v128.shuffle<f32>(v128.load64_zero(a + planeStride), v128.load64_zero(b + planeStride), 0, 4, 1, 5);
  last = v128.load64_zero(c + planeStride);
  const c001 = v128.shuffle<f32>(uv, last, 0, 1, 4, 4);
  const c101 = v128.shuffle<f32>(uv, last, 2, 3, 5, 5);
  uv = v128.shuffle<f32>(v128.load64_zero(a + planeStride + rowStride), v128.load64_zero(b + planeStride + rowStride), 0, 4, 1, 5);
  last = v128.load64_zero(c + planeStride + rowStride);
  const c011 = v128.shuffle<f32>(uv, last, 0, 1, 4, 4);
  const c111 = v128.shuffle<f32>(uv, last, 2, 3, 5, 5);
  const z00 = f32x4.sub(c001, c000);
  const z10 = f32x4.sub(c101, c100);
  const z01 = f32x4.sub(c011, c010);
  const z11 = f32x4.sub(c111, c110);
  const p00 = f32x4.add(c000, f32x4.mul(z00, fz));
  const p10 = f32x4.add(c100, f32x4.mul(z10, fz));
  const p01 = f32x4.add(c010, f32x4.mul(z01, fz));
  const p11 = f32x4.add(c110, f32x4.mul(z11, fz));
  const y0 = f32x4.sub(p01, p00);
  const y1 = f32x4.sub(p11, p10);
  const d0 = f32x4.add(p00, f32x4.mul(y0, fy));
  const d1 = f32x4.add(p10, f32x4.mul(y1, fy));
  const along = f32x4.sub(d1, d0);
  if (slopes) {
    slopesX = along;
    slopesY = f32x4.add(y0, f32x4.mul(f32x4.sub(y1, y0), fx));
    const s0 = f32x4.add(z00, f32x4.mul(f32x4.sub(z01, z00), fy));
    const s1 = f32x4.add(z10, f32x4.mul(f32x4.sub(z11, z10), fy));
    slopesZ = f32x4.add(s0, f32x4.mul(f32x4.sub(s1, s0), fx));
  }
  return f32x4.add(d0, f32x4.mul(along, fx));
}

/** The velocity at a place of the window (voxels); outside of it that at its rim. */
@inline
function velocityAt(u: usize, v: usize, w: usize, place: v128): v128 {
  return sampleAll(u, v, w, f32x4.min(f32x4.max(place, f32x4.splat(0)), rim), false);
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
/** Most that distances between the corners of cells change over a voxel: the root of 3. */
const STEEPEST: f32 = 1.7321;

/**
 * Each item: a slot; its particles take their velocity from the grid and go on for a substep. `delta` fields: what the substep changed the faces by. `affine` = 0:
* FLIP with PIC. `moved`, 32 bytes a slot: the largest distance gone (voxels), the number of particles that met a wall on their way, and how far up the volume
 * correction took them (volume x voxels, each axis by its share of `up`), the same without its sign, and what they paid for it (volume x speed squared), f32 each.
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
  sampleIn(ctx, nx, ny, nz);
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
  const amount = <usize>load<u32>(fields, 36);
  const pull = f32x4(load<f32>(told, P_PULL), load<f32>(told, P_PULL + 4), load<f32>(told, P_PULL + 8), 0);
  const alone = load<f32>(told, P_ALONE);
  const weight = load<f32>(told, P_WEIGHT);
  const purse = load<f32>(told, P_PURSE);
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
  const shutLow = f32x4(load<f32>(told, P_SHUT_LOW), load<f32>(told, P_SHUT_LOW + 4), load<f32>(told, P_SHUT_LOW + 8), -1e30);
  const shutHigh = f32x4(load<f32>(told, P_SHUT_HIGH), load<f32>(told, P_SHUT_HIGH + 4), load<f32>(told, P_SHUT_HIGH + 8), 1e30);
  const origin = f32x4(<f32>ox, <f32>oy, <f32>oz, 0);
  for (let t = begin; t < end; ++t) {
    const last = load<i32>(tileStart + (<usize>t << 2), 4);
    let farthest: f32 = 0;
    let met: f32 = 0;
    let raised: f32 = 0;
    let stirred: f32 = 0;
    let paid: f32 = 0;
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
        grid = f32x4.replace_lane(sampleAll(u, v, w, at, true), 3, 0);
        // Rows of the gradient, one a component, lie across the slopes.
        const xy = v128.shuffle<f32>(slopesX, slopesY, 0, 4, 1, 5);
        v128.store(c, v128.shuffle<f32>(xy, slopesZ, 0, 1, 4, 7));
        v128.store(c, v128.shuffle<f32>(xy, slopesZ, 2, 3, 5, 7), 16);
        v128.store(c, v128.shuffle<f32>(v128.shuffle<f32>(slopesX, slopesY, 2, 6, 3, 7), slopesZ, 0, 1, 6, 7), 32);
        velocity = grid;
      } else {
        grid = velocityAt(u, v, w, at);
        const change = velocityAt(du, dv, dw, at);
        velocity = f32x4.add(grid, f32x4.mul(f32x4.splat(keep), f32x4.sub(f32x4.add(motion, change), grid)));
      }
      const flies = isAlone(amount, alone, at);
      if (flies) velocity = f32x4.replace_lane(f32x4.add(motion, pull), 3, 0);
      velocity = f32x4.add(air, f32x4.mul(f32x4.splat(drag), f32x4.sub(velocity, air)));
      // Ralston's third order: k1, k2 half on, k3 three quarters on.
      const s = f32x4.splat(scale);
      const k2 = velocityAt(u, v, w, f32x4.add(at, f32x4.mul(f32x4.splat(0.5), f32x4.mul(grid, s))));
      const k3 = velocityAt(u, v, w, f32x4.add(at, f32x4.mul(f32x4.splat(0.75), f32x4.mul(k2, s))));
      const sum = f32x4.add(
        f32x4.mul(f32x4.splat(2.0 / 9), grid),
        f32x4.add(f32x4.mul(f32x4.splat(3.0 / 9), k2), f32x4.mul(f32x4.splat(4.0 / 9), k3)),
      );
      let step = f32x4.replace_lane(f32x4.mul(flies ? velocity : sum, s), 3, 0);
      if (ex != 0 && !flies) {
        const push = velocityAt(ex, ey, ez, at);
        const lift = f32x4.mul(push, up);
        const by = f32x4.extract_lane(lift, 0) + f32x4.extract_lane(lift, 1) + f32x4.extract_lane(lift, 2);
        raised += f32x4.extract_lane(motion, 3) * by;
        step = f32x4.add(step, push);
        // Whatever is moved up or down pays a part of that with its own motion, as far as it has some: see core/liquid/debt.ts.
        const much = f32x4.extract_lane(motion, 3) * abs<f32>(by);
        stirred += much;
        if (weight > 0 && much > 0) {
          const square = squareOf(velocity);
          const cost = min<f32>(weight * abs<f32>(by), purse * square * sqrt<f32>(square));
          const part: f32 = cost < square ? 1 - cost / square : 0;
          velocity = f32x4.mul(velocity, f32x4.splat(sqrt<f32>(part)));
          paid += f32x4.extract_lane(motion, 3) * (square - square * part);
        }
      }
      const squares = f32x4.mul(step, step);
      const length = sqrt<f32>(f32x4.extract_lane(squares, 0) + f32x4.extract_lane(squares, 1) + f32x4.extract_lane(squares, 2));
      farthest = max<f32>(farthest, length);
      let to = f32x4.add(at, step);
      // Near walls the way is gone along: what stands in it ends it, however thin.
      const clear = wallAt(slotOf, sdf, nx, ny, nz, x, y, z);
      // A distance falls by less than STEEPEST a voxel: so far from walls none is met.
      const free = clear > STEEPEST * length + gap;
      const looks = free || clear > length ? 0 : <i32>ceil<f32>(length / LOOK);
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
      for (let n = free ? TRIES : 0; n < TRIES; ++n) {
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
      // Where a wedge is narrower than walls push, there is no way out of one wall that is not one into another: what was outside stays where it was.
      if (touched && clear >= 0 && wallAt(slotOf, sdf, nx, ny, nz, f32x4.extract_lane(to, 0), f32x4.extract_lane(to, 1), f32x4.extract_lane(to, 2)) < 0) to = at;
      const world = f32x4.min(f32x4.max(f32x4.add(to, origin), shutLow), shutHigh);
      const inside = v128.and(f32x4.ge(world, low), f32x4.le(world, high));
      const gone = !i32x4.all_true(v128.or(inside, i32x4(0, 0, 0, -1)));
      const volume = f32x4.extract_lane(motion, 3);
      v128.store(places + o, f32x4.replace_lane(world, 3, f32x4.extract_lane(place, 3) + dt));
      // What is gone keeps its volume with the other sign, until it is counted.
      v128.store(motions + o, f32x4.replace_lane(velocity, 3, gone ? -volume : volume));
    }
    const told = moved + (<usize>t << 5);
    store<f32>(told, farthest);
    store<f32>(told, met, 4);
    store<f32>(told, raised, 8);
    store<f32>(told, stirred, 12);
    store<f32>(told, paid, 16);
  }
}

/** Whether a particle at a place of the window is alone in its voxel: then it flies by itself, and meets walls by itself: the pressure of a grid knows no bounce. */
@inline
function isAlone(amount: usize, alone: f32, at: v128): bool {
  if (alone <= 0) return false;
  const cell =
    <i32>floor<f32>(f32x4.extract_lane(at, 0)) +
    <i32>floor<f32>(f32x4.extract_lane(at, 1)) * <i32>(rowStride >> 2) +
    <i32>floor<f32>(f32x4.extract_lane(at, 2)) * <i32>(planeStride >> 2);
  return load<f32>(amount + field0 + (<usize>cell << 2)) <= alone;
}

/** Of gravity's own, the most that a substep's change is followed on: an impact is over when it is seen. */
const STEADY: f32 = 2;

/**
 * Velocities at the end of a substep, into `into`, 16 bytes each with the volume: those of particles are of its middle. Each item: 1024 particles. `fields`: u v w of what the substep changed, and the
 * amount; `told` as for moveParticles; `part` of the change is still to come.
 */
export function endVelocities(
  begin: i32,
  end: i32,
  ctx: usize,
  places: usize,
  motions: usize,
  count: i32,
  fields: usize,
  nx: i32,
  ny: i32,
  nz: i32,
  ox: i32,
  oy: i32,
  oz: i32,
  told: usize,
  part: f32,
  into: usize,
): void {
  sampleIn(ctx, nx, ny, nz);
  const u = <usize>load<u32>(fields);
  const v = <usize>load<u32>(fields, 4);
  const w = <usize>load<u32>(fields, 8);
  const amount = <usize>load<u32>(fields, 12);
  const pull = f32x4(load<f32>(told, P_PULL), load<f32>(told, P_PULL + 4), load<f32>(told, P_PULL + 8), 0);
  const alone = load<f32>(told, P_ALONE);
  const most = STEADY * lengthOf(pull);
  const origin = f32x4(<f32>ox, <f32>oy, <f32>oz, 0);
  const last = min<i32>(count, end << 10);
  for (let p = begin << 10; p < last; ++p) {
    const o = <usize>p << 4;
    const motion = v128.load(motions + o);
    const at = f32x4.min(f32x4.max(f32x4.sub(v128.load(places + o), origin), f32x4.splat(0)), rim);
    let change = isAlone(amount, alone, at) ? pull : f32x4.replace_lane(velocityAt(u, v, w, at), 3, 0);
    const size = lengthOf(change);
    if (size > most) change = f32x4.mul(change, f32x4.splat(most / size));
    const shown = f32x4.add(motion, f32x4.mul(f32x4.splat(part), change));
    v128.store(into + o, f32x4.replace_lane(shown, 3, f32x4.extract_lane(motion, 3)));
  }
}

@inline
function squareOf(v: v128): f32 {
  const q = f32x4.mul(v, v);
  return f32x4.extract_lane(q, 0) + f32x4.extract_lane(q, 1) + f32x4.extract_lane(q, 2);
}

@inline
function lengthOf(v: v128): f32 {
  return sqrt<f32>(squareOf(v));
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

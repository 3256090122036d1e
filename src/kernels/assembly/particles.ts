// Particles that are carried by the velocities of a cached gas.
//
// A particle: 16 bytes of place (x, y, z, age; metres and seconds) and 16 of motion (vx, vy, vz, age limit; m/s). An age below 0: it is born that long before the
// end of the frame.
//
// A field is a list of parts, finest first, each a record of 48 bytes: pointer to its values, pointer to its index of tiles (i32, x fastest, -1: none), the
// lowest tile (x, y, z), tiles a side (x, y, z), 1 / voxel size (f32), and three words that are not used. Values: 512 voxels a tile, z fastest, 16 bytes each (x, y, z, unused).

const RECORD: usize = 48;
/** Bytes from a voxel to the next along x and y. */
const ALONG_X: usize = 64 * 16;
const ALONG_Y: usize = 8 * 16;

@inline
function mix(a: v128, b: v128, t: v128): v128 {
  return f32x4.add(a, f32x4.mul(f32x4.sub(b, a), t));
}

/** Number of the tile at a place of tiles; below 0: there is none. */
@inline
function tileAt(part: usize, x: i32, y: i32, z: i32): i32 {
  const i = x - load<i32>(part, 8);
  const j = y - load<i32>(part, 12);
  const k = z - load<i32>(part, 16);
  const sx = load<i32>(part, 20);
  const sy = load<i32>(part, 24);
  if (<u32>i >= <u32>sx || <u32>j >= <u32>sy || <u32>k >= load<u32>(part, 28)) return -1;
  return load<i32>(<usize>load<u32>(part, 4) + (<usize>((k * sy + j) * sx + i) << 2));
}

/** A voxel of a tile; the background where there is none. */
@inline
function voxel(values: usize, tile: i32, a: i32, b: i32, c: i32, background: v128): v128 {
  if (tile < 0) return background;
  return v128.load(values + (<usize>((tile << 9) + (a << 6) + (b << 3) + c) << 4));
}

/** Velocity at a place: trilinear between voxel middles, of the finest part that has it. */
function sample(field: usize, parts: i32, place: v128, background: v128): v128 {
  for (let p = 0; p < parts; ++p) {
    const part = field + <usize>p * RECORD;
    const at = f32x4.sub(f32x4.mul(place, f32x4.splat(load<f32>(part, 32))), f32x4.splat(0.5));
    const low = f32x4.floor(at);
    const cell = i32x4.trunc_sat_f32x4_s(low);
    const i = i32x4.extract_lane(cell, 0);
    const j = i32x4.extract_lane(cell, 1);
    const k = i32x4.extract_lane(cell, 2);
    const x = i >> 3;
    const y = j >> 3;
    const z = k >> 3;
    const tile = tileAt(part, x, y, z);
    if (tile < 0 && p + 1 < parts) continue;
    const part1 = f32x4.sub(at, low);
    const fx = v128.shuffle<f32>(part1, part1, 0, 0, 0, 0);
    const fy = v128.shuffle<f32>(part1, part1, 1, 1, 1, 1);
    const fz = v128.shuffle<f32>(part1, part1, 2, 2, 2, 2);
    const a = i & 7;
    const b = j & 7;
    const c = k & 7;
    if (tile >= 0 && a < 7 && b < 7 && c < 7) {
      const o = <usize>load<u32>(part) + (<usize>((tile << 9) + (a << 6) + (b << 3) + c) << 4);
      const v00 = mix(v128.load(o), v128.load(o, 16), fz);
      const v01 = mix(v128.load(o + ALONG_Y), v128.load(o + ALONG_Y, 16), fz);
      const v10 = mix(v128.load(o + ALONG_X), v128.load(o + ALONG_X, 16), fz);
      const v11 = mix(v128.load(o + ALONG_X + ALONG_Y), v128.load(o + ALONG_X + ALONG_Y, 16), fz);
      return mix(mix(v00, v01, fy), mix(v10, v11, fy), fx);
    }
    // Across tiles: each of those beside is looked up once. Eight lookups took half of the time, as a third of all places lie across some.
    const acrossX = a == 7;
    const acrossY = b == 7;
    const acrossZ = c == 7;
    const tz = acrossZ ? tileAt(part, x, y, z + 1) : tile;
    const ty = acrossY ? tileAt(part, x, y + 1, z) : tile;
    const tyz = acrossY ? (acrossZ ? tileAt(part, x, y + 1, z + 1) : ty) : tz;
    const tx = acrossX ? tileAt(part, x + 1, y, z) : tile;
    const txz = acrossX ? (acrossZ ? tileAt(part, x + 1, y, z + 1) : tx) : tz;
    const txy = acrossX ? (acrossY ? tileAt(part, x + 1, y + 1, z) : tx) : ty;
    const txyz = acrossX ? (acrossY ? (acrossZ ? tileAt(part, x + 1, y + 1, z + 1) : txy) : txz) : tyz;
    const values = <usize>load<u32>(part);
    const a1 = (a + 1) & 7;
    const b1 = (b + 1) & 7;
    const c1 = (c + 1) & 7;
    const v00 = mix(voxel(values, tile, a, b, c, background), voxel(values, tz, a, b, c1, background), fz);
    const v01 = mix(voxel(values, ty, a, b1, c, background), voxel(values, tyz, a, b1, c1, background), fz);
    const v10 = mix(voxel(values, tx, a1, b, c, background), voxel(values, txz, a1, b, c1, background), fz);
    const v11 = mix(voxel(values, txy, a1, b1, c, background), voxel(values, txyz, a1, b1, c1, background), fz);
    return mix(mix(v00, v01, fy), mix(v10, v11, fy), fx);
  }
  return background;
}

/** Between two frames velocities go over straight in time: `share` of the way. */
@inline
function between(before: usize, partsBefore: i32, after: usize, partsAfter: i32, place: v128, share: f32, background: v128): v128 {
  if (share <= 0) return sample(before, partsBefore, place, background);
  if (share >= 1) return sample(after, partsAfter, place, background);
  return mix(sample(before, partsBefore, place, background), sample(after, partsAfter, place, background), f32x4.splat(share));
}

/** Particles of an item. */
const BUNCH = 1024;

/**
 * Each item: up to 1024 particles from one frame to the next, in equal substeps. Without a drag (below 0) by the midpoint rule; with one
 * v' = drag (u - v) + pull, solved exactly for the u of the substep's beginning. A newborn begins with the velocity of the gas.
 */
export function flyParticles(
  begin: i32,
  end: i32,
  places: usize,
  motions: usize,
  count: i32,
  before: usize,
  partsBefore: i32,
  after: usize,
  partsAfter: i32,
  windX: f32,
  windY: f32,
  windZ: f32,
  seconds: f32,
  substeps: i32,
  drag: f32,
  pull: f32,
): void {
  const background = f32x4(windX, windY, windZ, 0);
  const dt = seconds / <f32>substeps;
  const keepWhole = drag > 0 ? Mathf.exp(-drag * dt) : 0;
  const first = begin * BUNCH;
  const last = min(count, end * BUNCH);
  for (let n = first; n < last; ++n) {
    const o = <usize>n << 4;
    let place = v128.load(places + o);
    let v = v128.load(motions + o);
    const age = f32x4.extract_lane(place, 3);
    const limit = f32x4.extract_lane(v, 3);
    const born = age < 0 ? max<f32>(0, seconds + age) : <f32>0;
    let fresh = age < 0;
    for (let s = 0; s < substeps; ++s) {
      const t0 = max(born, <f32>s * dt);
      const h = <f32>(s + 1) * dt - t0;
      if (h <= 0) continue;
      const u = between(before, partsBefore, after, partsAfter, place, t0 / seconds, background);
      if (fresh) {
        v = u;
        fresh = false;
      }
      if (drag <= 0) {
        const middle = f32x4.add(place, f32x4.mul(u, f32x4.splat(<f32>0.5 * h)));
        v = between(before, partsBefore, after, partsAfter, middle, (t0 + <f32>0.5 * h) / seconds, background);
        place = f32x4.add(place, f32x4.mul(v, f32x4.splat(h)));
      } else {
        const keep = h == dt ? keepWhole : Mathf.exp(-drag * h);
        const glide = f32x4.splat((<f32>1 - keep) / drag);
        const e = f32x4.add(u, f32x4(0, pull / drag, 0, 0));
        const over = f32x4.sub(v, e);
        place = f32x4.add(place, f32x4.add(f32x4.mul(e, f32x4.splat(h)), f32x4.mul(over, glide)));
        v = f32x4.add(e, f32x4.mul(over, f32x4.splat(keep)));
      }
    }
    v128.store(places + o, f32x4.replace_lane(place, 3, age < 0 ? -age : age + seconds));
    v128.store(motions + o, f32x4.replace_lane(v, 3, limit));
  }
}

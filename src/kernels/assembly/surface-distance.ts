// Signed distance of a tile's voxels to the surface of the particles around it. Particles lie in the order of their cells (liquid-sort.ts), places in cells: (x, y,
// z, radius in voxels). Every particle adds to the voxels that it reaches, four at a time; nothing is looked up a voxel.
//
// Averaged position (Zhu & Bridson 2005): how far the mean place of the particles around lies off, weighted with volume and (1 - s^2)^3, turned into the distance
// that a half space of particles with this offset has (a table, as in liquid-skin.ts). Union of balls: the nearest ball. (Anisotropic kernels: surface-ellipsoids.ts.)
import { threadNumber } from './carry';
import { cellsOf, from, isDeep, until } from './surface-cells';

/** Entries of the table that turns offset / reach into distance / reach. */
const TABLE: f32 = 255;
/** Bytes of a thread: six sums of a tile's voxels. */
export const SUMS: usize = 6 * 2048 + 128;
const X: usize = 2048;
const Y: usize = 4096;
const Z: usize = 6144;
export const NEAR: usize = 8192;
const EACH: usize = 10240;
/** Of each half row a byte: 1 where all four of its voxels are deep inside, and nothing need be added up. */
const SKIP: usize = 12288;

/** Adds a particle to the sums of a tile's voxels, (x, y, z) from its first voxel's middle. */
@inline
function addAveraged(own: usize, x: f32, y: f32, z: f32, reach: f32, mass: f32, radius: f32, each: i32, close: f32): void {
  const square = reach * reach;
  const over = f32x4.splat(1 / square);
  const zero = f32x4.splat(0);
  const one = f32x4.splat(1);
  const px = f32x4.splat(x);
  const low = f32x4.sub(f32x4(0, 1, 2, 3), px);
  const high = f32x4.add(low, f32x4.splat(4));
  const m = f32x4.splat(mass);
  const k1 = min(7, <i32>floor(z + reach));
  for (let k = max(0, <i32>ceil(z - reach)); k <= k1; ++k) {
    const dz: f32 = <f32>k - z;
    const rest: f32 = square - dz * dz;
    const w = sqrt<f32>(max<f32>(0, rest));
    const j1 = min(7, <i32>floor(y + w));
    for (let j = max(0, <i32>ceil(y - w)); j <= j1; ++j) {
      const dy: f32 = <f32>j - y;
      const far: f32 = dy * dy + dz * dz;
      const row = own + <usize>(((k << 3) | j) << 5);
      const room = sqrt<f32>(max<f32>(0, square - far));
      const first: usize = x - room > 3 ? 16 : 0;
      const last: usize = x + room < 4 ? 16 : 32;
      for (let half = first; half < last; half += 16) {
        if (load<u8>(own + ((row - own + half) >> 4), SKIP)) continue;
        const dx = half == 0 ? low : high;
        const q = f32x4.add(f32x4.mul(dx, dx), f32x4.splat(far));
        const s = f32x4.pmax(zero, f32x4.sub(one, f32x4.mul(q, over)));
        const weight = f32x4.mul(f32x4.mul(s, f32x4.mul(s, s)), m);
        const at = row + half;
        v128.store(at, f32x4.add(v128.load(at), weight));
        v128.store(at, f32x4.add(v128.load(at, X), f32x4.mul(weight, dx)), X);
        v128.store(at, f32x4.add(v128.load(at, Y), f32x4.mul(weight, f32x4.splat(dy))), Y);
        v128.store(at, f32x4.add(v128.load(at, Z), f32x4.mul(weight, f32x4.splat(dz))), Z);
        if (far < close) v128.store(at, f32x4.pmin(v128.load(at, NEAR), q), NEAR);
        if (each) v128.store(at, f32x4.add(v128.load(at, EACH), f32x4.mul(weight, f32x4.splat(radius))), EACH);
      }
    }
  }
}

@inline
export function addBall(own: usize, x: f32, y: f32, z: f32, radius: f32, reach: f32): void {
  const r = f32x4.splat(radius);
  const low = f32x4.sub(f32x4(0, 1, 2, 3), f32x4.splat(x));
  const high = f32x4.add(low, f32x4.splat(4));
  const square = reach * reach;
  const k1 = min(7, <i32>floor(z + reach));
  for (let k = max(0, <i32>ceil(z - reach)); k <= k1; ++k) {
    const dz: f32 = <f32>k - z;
    const w = sqrt<f32>(max<f32>(0, square - dz * dz));
    const j1 = min(7, <i32>floor(y + w));
    for (let j = max(0, <i32>ceil(y - w)); j <= j1; ++j) {
      const dy: f32 = <f32>j - y;
      const far: f32 = dy * dy + dz * dz;
      const row = own + <usize>(((k << 3) | j) << 5);
      const room = sqrt<f32>(max<f32>(0, square - far));
      const first: usize = x - room > 3 ? 16 : 0;
      const last: usize = x + room < 4 ? 16 : 32;
      for (let half = first; half < last; half += 16) {
        const dx = half == 0 ? low : high;
        const d = f32x4.sub(f32x4.sqrt(f32x4.add(f32x4.mul(dx, dx), f32x4.splat(far))), r);
        const at = row + half + NEAR;
        v128.store(at, f32x4.pmin(v128.load(at), d));
      }
    }
  }
}

/**
 * Each item: a tile. `method` 0: averaged position; 1: balls. `ratio`: voxels of a cell; `reach`: of a particle, voxels; `shift`: what is taken off the distance (averaged
 * position: the distance at which the surface is to be; `each`: of each radius instead). `join`: further than this from all particles is no liquid, voxels.
 */
export function tileDistance(
  begin: i32,
  end: i32,
  records: usize,
  field: usize,
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
  method: i32,
  ratio: f32,
  reach: f32,
  table: usize,
  shift: f32,
  each: i32,
  join: f32,
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
    memory.fill(own, 0, 6 * 2048);
    const unseen = f32x4.splat(<f32>1e30);
    for (let n: usize = 0; n < 2048; n += 16) v128.store(own + n, unseen, NEAR);
    const out = field + (<usize>t << 11);
    for (let r = 0; r < 128; ++r) {
      let all: u8 = 1;
      for (let n = r << 2; n < (r + 1) << 2; ++n) {
        const inside = isDeep(i0 + (n & 7), j0 + ((n >> 3) & 7), k0 + (n >> 6), over, slotOf, cx, cy, cz, nx, ny, nz, deep);
        store<f32>(out + (<usize>n << 2), inside ? -band : band);
        if (!inside) all = 0;
      }
      store<u8>(own + <usize>r, all, SKIP);
    }
    const x0 = <i32>floor((<f32>i0 + <f32>0.5 - reach) * over);
    const x1 = <i32>floor((<f32>i0 + <f32>7.5 + reach) * over);
    const y0 = <i32>floor((<f32>j0 + <f32>0.5 - reach) * over);
    const y1 = <i32>floor((<f32>j0 + <f32>7.5 + reach) * over);
    const z0 = <i32>floor((<f32>k0 + <f32>0.5 - reach) * over);
    const z1 = <i32>floor((<f32>k0 + <f32>7.5 + reach) * over);
    for (let z = z0; z <= z1; ++z) {
      for (let y = y0; y <= y1; ++y) {
        let x = x0;
        while (x <= x1) {
          const stop = min(x1, x | 7);
          if (cellsOf(x, stop, y, z, slotOf, cx, cy, cz, nx, ny, nz, cellStart)) {
            const last = until;
            for (let p = from; p < last; ++p) {
              const at = places + (<usize>p << 4);
              const px: f32 = load<f32>(at) * ratio - <f32>0.5 - <f32>i0;
              const py: f32 = load<f32>(at, 4) * ratio - <f32>0.5 - <f32>j0;
              const pz: f32 = load<f32>(at, 8) * ratio - <f32>0.5 - <f32>k0;
              if (method == 0) addAveraged(own, px, py, pz, reach, load<f32>(motions + (<usize>p << 4), 12), load<f32>(at, 12), each, join * join);
              else addBall(own, px, py, pz, load<f32>(at, 12), reach);
            }
          }
          x = stop + 1;
        }
      }
    }
    for (let n = 0; n < 512; ++n) {
      if (load<f32>(out + (<usize>n << 2)) < 0) continue;
      const at = own + (<usize>n << 2);
      let d = band;
      if (method == 0) {
        const mass = load<f32>(at);
        if (mass > 0) {
          const dx = load<f32>(at, X);
          const dy = load<f32>(at, Y);
          const dz = load<f32>(at, Z);
          const offset: f32 = sqrt<f32>(dx * dx + dy * dy + dz * dz) / (mass * reach);
          d = reach * tableAt(table, offset) - (each ? reach * tableAt(table, load<f32>(at, EACH) / (mass * reach)) : shift);
          if (join > 0) d = max<f32>(d, sqrt<f32>(load<f32>(at, NEAR)) - join);
        }
      } else d = min<f32>(band, load<f32>(at, NEAR) - shift);
      store<f32>(out + (<usize>n << 2), max<f32>(-band, min<f32>(band, d)));
    }
  }
}

@inline
function tableAt(table: usize, offset: f32): f32 {
  const place: f32 = min<f32>(1, offset) * TABLE;
  const low = floor<f32>(min<f32>(place, TABLE - 1));
  const entry = table + (<usize>(<i32>low) << 2);
  const first = load<f32>(entry);
  return first + (load<f32>(entry, 4) - first) * (place - low);
}

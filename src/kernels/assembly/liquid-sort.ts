// Particles in the order of their cells: tile by tile, in each tile cell by cell (x fastest), in a cell as they were.
//
// A particle: 16 bytes of place (x, y, z in world voxels, age in seconds), 16 of motion (vx, vy, vz in m/s, its volume in voxels; 0: it is gone), 16 of marks
// (viscosity in m^2/s, id, source, depth; the last three as i32), and with affine velocities 48 more: the rows of the velocity's gradient, m/s a voxel.
import { threadNumber } from './carry';

/** Particles of an item where no tiles are known yet. */
const BUNCH = 1024;
/** Bytes of counters that a thread has. */
const COUNTERS: usize = 2048;

@inline
export function tileOf(place: v128, origin: v128): v128 {
  return i32x4.shr_s(i32x4.trunc_sat_f32x4_s(f32x4.floor(f32x4.sub(place, origin))), 3);
}

/** Sets the bytes of the tiles between two of them, as far as there are any. */
@inline
function markBetween(low: v128, high: v128, flags: usize, nx: i32, ny: i32, nz: i32): void {
  const i1 = min(nx - 1, i32x4.extract_lane(high, 0));
  const j1 = min(ny - 1, i32x4.extract_lane(high, 1));
  const k1 = min(nz - 1, i32x4.extract_lane(high, 2));
  for (let k = max(0, i32x4.extract_lane(low, 2)); k <= k1; ++k) {
    for (let j = max(0, i32x4.extract_lane(low, 1)); j <= j1; ++j) {
      for (let i = max(0, i32x4.extract_lane(low, 0)); i <= i1; ++i) store<u8>(flags + <usize>((k * ny + j) * nx + i), 1);
    }
  }
}

/**
 * Sets the byte of every tile that particles of the items reach within `grow` voxels. Tiles are counted from (tx, ty, tz), `nx` x `ny` x `nz` of them. Particles lie
 * in the order of their tiles, mostly: those of one that follow each other are taken together, by the box around them.
 */
export function markTiles(
  begin: i32,
  end: i32,
  places: usize,
  motions: usize,
  count: i32,
  flags: usize,
  tx: i32,
  ty: i32,
  tz: i32,
  nx: i32,
  ny: i32,
  nz: i32,
  grow: f32,
): void {
  const last = min(count, end * BUNCH);
  const origin = f32x4(<f32>(tx << 3), <f32>(ty << 3), <f32>(tz << 3), 0);
  const by = f32x4.splat(grow);
  let least = f32x4.splat(1e30);
  let most = f32x4.splat(-1e30);
  let tile = i32x4.splat(-(1 << 30));
  let any = false;
  for (let n = begin * BUNCH; n < last; ++n) {
    const o = <usize>n << 4;
    if (load<f32>(motions + o, 12) <= 0) continue;
    // The fourth of a place is an age.
    const place = f32x4.replace_lane(v128.load(places + o), 3, 0);
    const own = tileOf(place, origin);
    if (!i32x4.all_true(i32x4.eq(own, tile))) {
      if (any) markBetween(tileOf(f32x4.sub(least, by), origin), tileOf(f32x4.add(most, by), origin), flags, nx, ny, nz);
      any = true;
      tile = own;
      least = place;
      most = place;
      continue;
    }
    least = f32x4.min(least, place);
    most = f32x4.max(most, place);
  }
  if (any) markBetween(tileOf(f32x4.sub(least, by), origin), tileOf(f32x4.add(most, by), origin), flags, nx, ny, nz);
}

/**
 * Each item: one of `chunks` equal parts of the particles. Their keys (slot of the tile x 512 + cell), and how many of the part lie in each slot. `slots` is one
 * more than there are tiles: the last holds what is gone, or lies in no tile. `slotOf`: of the window's tiles, -1 where there is none.
 */
export function countParticles(
  begin: i32,
  end: i32,
  places: usize,
  motions: usize,
  count: i32,
  chunks: i32,
  keys: usize,
  counts: usize,
  slots: i32,
  slotOf: usize,
  ox: i32,
  oy: i32,
  oz: i32,
  nx: i32,
  ny: i32,
  nz: i32,
): void {
  const origin = f32x4(<f32>ox, <f32>oy, <f32>oz, 0);
  for (let c = begin; c < end; ++c) {
    const own = counts + (<usize>(c * slots) << 2);
    memory.fill(own, 0, <usize>slots << 2);
    const first = <i32>((<i64>c * count) / chunks);
    const last = <i32>((<i64>(c + 1) * count) / chunks);
    for (let n = first; n < last; ++n) {
      const o = <usize>n << 4;
      let slot = slots - 1;
      let cell = 0;
      if (load<f32>(motions + o, 12) > 0) {
        const at = i32x4.trunc_sat_f32x4_s(f32x4.floor(f32x4.sub(v128.load(places + o), origin)));
        const i = i32x4.extract_lane(at, 0);
        const j = i32x4.extract_lane(at, 1);
        const k = i32x4.extract_lane(at, 2);
        const x = i >> 3;
        const y = j >> 3;
        const z = k >> 3;
        if (x >= 0 && y >= 0 && z >= 0 && x < nx && y < ny && z < nz) {
          const found = load<i32>(slotOf + (<usize>((z * ny + y) * nx + x) << 2));
          if (found >= 0) {
            slot = found;
            cell = ((k & 7) << 6) | ((j & 7) << 3) | (i & 7);
          }
        }
      }
      store<i32>(keys + (<usize>n << 2), (slot << 9) | cell);
      const at = own + (<usize>slot << 2);
      store<i32>(at, load<i32>(at) + 1);
    }
  }
}

/** Each item: a part again; `offsets` says, for each of its slots, where the next of its particles goes. */
export function orderParticles(begin: i32, end: i32, count: i32, chunks: i32, keys: usize, offsets: usize, slots: i32, order: usize): void {
  for (let c = begin; c < end; ++c) {
    const own = offsets + (<usize>(c * slots) << 2);
    const first = <i32>((<i64>c * count) / chunks);
    const last = <i32>((<i64>(c + 1) * count) / chunks);
    for (let n = first; n < last; ++n) {
      const at = own + (<usize>(load<i32>(keys + (<usize>n << 2)) >> 9) << 2);
      const to = load<i32>(at);
      store<i32>(at, to + 1);
      store<i32>(order + (<usize>to << 2), n);
    }
  }
}

/**
 * Each item: a slot. Its particles go, cell by cell, to where they lie from now on; `cellStart` gets the place of the first of each of its 512 cells. `places2`
 * and so on: where they go to; `affine` = 0: there are none.
 */
export function sortTiles(
  begin: i32,
  end: i32,
  tileStart: usize,
  order: usize,
  keys: usize,
  cellStart: usize,
  places: usize,
  motions: usize,
  marks: usize,
  affine: usize,
  places2: usize,
  motions2: usize,
  marks2: usize,
  affine2: usize,
  scratch: usize,
): void {
  const counters = scratch + threadNumber() * COUNTERS;
  for (let t = begin; t < end; ++t) {
    const first = load<i32>(tileStart + (<usize>t << 2));
    const last = load<i32>(tileStart + (<usize>t << 2), 4);
    memory.fill(counters, 0, COUNTERS);
    for (let n = first; n < last; ++n) {
      const from = load<i32>(order + (<usize>n << 2));
      const at = counters + (<usize>(load<i32>(keys + (<usize>from << 2)) & 511) << 2);
      store<i32>(at, load<i32>(at) + 1);
    }
    let sum = first;
    const starts = cellStart + (<usize>t << 11);
    for (let c: usize = 0; c < 2048; c += 4) {
      const here = load<i32>(counters + c);
      store<i32>(starts + c, sum);
      store<i32>(counters + c, sum);
      sum += here;
    }
    // One more, so that a cell ends where the next begins; the next tile's first is the same.
    store<i32>(starts + 2048, sum);
    for (let n = first; n < last; ++n) {
      const from = <usize>load<i32>(order + (<usize>n << 2));
      const at = counters + (<usize>(load<i32>(keys + (from << 2)) & 511) << 2);
      const to = <usize>load<i32>(at);
      store<i32>(at, <i32>to + 1);
      v128.store(places2 + (to << 4), v128.load(places + (from << 4)));
      v128.store(motions2 + (to << 4), v128.load(motions + (from << 4)));
      v128.store(marks2 + (to << 4), v128.load(marks + (from << 4)));
      if (affine != 0) {
        v128.store(affine2 + to * 48, v128.load(affine + from * 48));
        v128.store(affine2 + to * 48, v128.load(affine + from * 48, 16), 16);
        v128.store(affine2 + to * 48, v128.load(affine + from * 48, 32), 32);
      }
    }
  }
}

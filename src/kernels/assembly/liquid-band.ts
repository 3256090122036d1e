// Fewer particles inside than at the surface (narrow band; Ferstl et al. 2016): deep ones are merged into coarse ones of the same volume and momentum, coarse ones
// that come near the surface or a wall are split again. Everything else takes a particle as its volume says.
import { SX, SP, TILES, STATUS, TILE_SHIFT, T_BASE, ORIGIN } from './layout';

/** Of a coarse particle's volume: below it a particle is a fine one. */
const FINE: f32 = 0.75;
/** Least that is merged, of a coarse one's volume. */
const LEAST: f32 = 0.5;
/** Wall distance, voxels, below which the parts of a split particle stay where it is. */
const CLEAR: f32 = 0.5;

/**
 * How deep cells lie, in layers: 1 where there is no liquid, `wall` in solids, 0 in liquid, which countLayers goes through. So deep that no layer comes to it, it
 * stays 0.
 */
export function startLayers(begin: i32, end: i32, ctx: usize, solid: usize, wall: i32, layers: usize): void {
  const sx = <usize>load<i32>(ctx, SX);
  const sp = <usize>load<i32>(ctx, SP);
  const status = <usize>load<u32>(ctx, STATUS);
  for (let t = begin; t < end; ++t) {
    const base = <usize>load<i32>(<usize>load<u32>(ctx, TILES) + (<usize>t << TILE_SHIFT), T_BASE);
    for (let n: usize = 0; n < 512; ++n) {
      const o = base + (n >> 6) * sp + ((n >> 3) & 7) * sx + (n & 7);
      store<u8>(layers + o, load<u8>(status + o) == 1 ? 0 : load<u8>(solid + o) == 0 ? <u8>wall : 1);
    }
  }
}

/** Liquid beside layer `layer` that has none yet becomes the next. */
export function countLayers(begin: i32, end: i32, ctx: usize, layers: usize, layer: i32): void {
  const sx = <usize>load<i32>(ctx, SX);
  const sp = <usize>load<i32>(ctx, SP);
  for (let t = begin; t < end; ++t) {
    const base = <usize>load<i32>(<usize>load<u32>(ctx, TILES) + (<usize>t << TILE_SHIFT), T_BASE);
    for (let row: usize = 0; row < 64; ++row) {
      const first = layers + base + (row >> 3) * sp + (row & 7) * sx;
      for (let q = first; q < first + 8; ++q) {
        if (load<u8>(q) != 0) continue;
        if (
          load<u8>(q - 1) == <u8>layer ||
          load<u8>(q + 1) == <u8>layer ||
          load<u8>(q - sx) == <u8>layer ||
          load<u8>(q + sx) == <u8>layer ||
          load<u8>(q - sp) == <u8>layer ||
          load<u8>(q + sp) == <u8>layer
        )
          store<u8>(q, <u8>(layer + 1));
      }
    }
  }
}

/** Gives the first of some particles of a cell what all of them have; the others are gone. Only those below `most` in volume are meant. */
function merge(first: i32, last: i32, most: f32, places: usize, motions: usize, marks: usize, affine: usize): void {
  let volume: f32 = 0;
  let place = f32x4.splat(0);
  let motion = f32x4.splat(0);
  let a = f32x4.splat(0);
  let b = f32x4.splat(0);
  let c = f32x4.splat(0);
  let thick: f32 = 0;
  let into = -1;
  for (let p = first; p < last; ++p) {
    const o = <usize>p << 4;
    const own = load<f32>(motions + o, 12);
    if (own <= 0 || own >= most) continue;
    const part = f32x4.splat(own);
    volume += own;
    place = f32x4.add(place, f32x4.mul(v128.load(places + o), part));
    motion = f32x4.add(motion, f32x4.mul(v128.load(motions + o), part));
    thick += own * load<f32>(marks + o);
    if (affine != 0) {
      const q = affine + <usize>p * 48;
      a = f32x4.add(a, f32x4.mul(v128.load(q), part));
      b = f32x4.add(b, f32x4.mul(v128.load(q, 16), part));
      c = f32x4.add(c, f32x4.mul(v128.load(q, 32), part));
    }
    if (into < 0) into = p;
    else store<f32>(motions + o, 0, 12);
  }
  const over = f32x4.splat(1 / volume);
  const o = <usize>into << 4;
  v128.store(places + o, f32x4.mul(place, over));
  v128.store(motions + o, f32x4.replace_lane(f32x4.mul(motion, over), 3, volume));
  store<f32>(marks + o, thick / volume);
  if (affine == 0) return;
  const q = affine + <usize>into * 48;
  v128.store(q, f32x4.mul(a, over));
  v128.store(q, f32x4.mul(b, over), 16);
  v128.store(q, f32x4.mul(c, over), 32);
}

/** Each item: a slot. In cells that no layer came to, fine particles are merged into coarse ones of about `coarse` voxels. */
export function mergeDeep(
  begin: i32,
  end: i32,
  ctx: usize,
  layers: usize,
  cellStart: usize,
  places: usize,
  motions: usize,
  marks: usize,
  affine: usize,
  coarse: f32,
): void {
  const sx = <usize>load<i32>(ctx, SX);
  const sp = <usize>load<i32>(ctx, SP);
  const most: f32 = FINE * coarse;
  for (let t = begin; t < end; ++t) {
    const base = <usize>load<i32>(<usize>load<u32>(ctx, TILES) + (<usize>t << TILE_SHIFT), T_BASE);
    for (let n: usize = 0; n < 512; ++n) {
      const o = base + (n >> 6) * sp + ((n >> 3) & 7) * sx + (n & 7);
      if (load<u8>(layers + o) != 0) continue;
      const cell = cellStart + (<usize>t << 11) + (n << 2);
      const last = load<i32>(cell, 4);
      let first = load<i32>(cell);
      let sum: f32 = 0;
      let count = 0;
      for (let p = first; p < last; ++p) {
        const own = load<f32>(motions + (<usize>p << 4), 12);
        if (own <= 0 || own >= most) continue;
        sum += own;
        ++count;
        if (sum < coarse * <f32>0.999) continue;
        if (count > 1) merge(first, p + 1, most, places, motions, marks, affine);
        first = p + 1;
        sum = 0;
        count = 0;
      }
      if (count > 1 && sum >= LEAST * coarse) merge(first, last, most, places, motions, marks, affine);
    }
  }
}

/** Parts that a particle falls into where it is; 1: it stays whole. `fine`: parts of a voxel. */
@inline
function partsOf(ctx: usize, layers: usize, place: v128, volume: f32, origin: v128, size: v128, deepest: i32, fine: f32): i32 {
  const parts = <i32>floor<f32>(volume * fine + <f32>0.5);
  if (parts < 2) return 1;
  const at = f32x4.floor(f32x4.sub(place, origin));
  if (!i32x4.all_true(v128.and(f32x4.ge(at, f32x4.splat(0)), f32x4.lt(at, size)))) return parts;
  const cell = i32x4.trunc_sat_f32x4_s(at);
  const o =
    load<i32>(ctx, ORIGIN) + i32x4.extract_lane(cell, 2) * load<i32>(ctx, SP) + i32x4.extract_lane(cell, 1) * load<i32>(ctx, SX) + i32x4.extract_lane(cell, 0);
  const layer = <i32>load<u8>(layers + <usize>o);
  return layer == 0 || layer > deepest ? 1 : parts;
}

/** Per slot how many particles splitting adds to those that it had when they were sorted. `deepest`: layers within which particles are fine. */
export function countSplits(
  begin: i32,
  end: i32,
  ctx: usize,
  layers: usize,
  tileStart: usize,
  places: usize,
  motions: usize,
  ox: i32,
  oy: i32,
  oz: i32,
  nx: i32,
  ny: i32,
  nz: i32,
  deepest: i32,
  fine: f32,
  counts: usize,
): void {
  const origin = f32x4(<f32>ox, <f32>oy, <f32>oz, 0);
  const size = f32x4(<f32>(nx << 3), <f32>(ny << 3), <f32>(nz << 3), 1e30);
  for (let t = begin; t < end; ++t) {
    const last = load<i32>(tileStart + (<usize>t << 2), 4);
    let more = 0;
    for (let p = load<i32>(tileStart + (<usize>t << 2)); p < last; ++p) {
      const o = <usize>p << 4;
      const volume = load<f32>(motions + o, 12);
      if (volume > 0) more += partsOf(ctx, layers, v128.load(places + o), volume, origin, size, deepest, fine) - 1;
    }
    store<i32>(counts + (<usize>t << 2), more);
  }
}

/**
 * Splits particles as counted; `counts` is by now where each slot's new ones begin. The parts lie in rows in the cube of the whole's volume, have its velocity where
 * they are, and share its volume.
 */
export function splitParticles(
  begin: i32,
  end: i32,
  ctx: usize,
  layers: usize,
  tileStart: usize,
  places: usize,
  motions: usize,
  marks: usize,
  affine: usize,
  ox: i32,
  oy: i32,
  oz: i32,
  nx: i32,
  ny: i32,
  nz: i32,
  deepest: i32,
  fine: f32,
  counts: usize,
  count: i32,
  born: i32,
  slotOf: usize,
  sdf: usize,
): void {
  const origin = f32x4(<f32>ox, <f32>oy, <f32>oz, 0);
  const size = f32x4(<f32>(nx << 3), <f32>(ny << 3), <f32>(nz << 3), 1e30);
  for (let t = begin; t < end; ++t) {
    const last = load<i32>(tileStart + (<usize>t << 2), 4);
    let next = load<i32>(counts + (<usize>t << 2));
    for (let p = load<i32>(tileStart + (<usize>t << 2)); p < last; ++p) {
      const o = <usize>p << 4;
      const place = v128.load(places + o);
      const motion = v128.load(motions + o);
      const volume = f32x4.extract_lane(motion, 3);
      if (volume <= 0) continue;
      const parts = partsOf(ctx, layers, place, volume, origin, size, deepest, fine);
      if (parts < 2) continue;
      const rows = <i32>ceil<f32>(<f32>Math.cbrt(parts));
      const step: f32 = isClear(slotOf, sdf, nx, ny, nz, f32x4.sub(place, origin)) ? <f32>(Math.cbrt(volume) / rows) : 0;
      // The middle of the parts is the middle of the whole, so that no momentum comes in by the velocity's gradient.
      let mean = f32x4.splat(0);
      for (let k = 0; k < parts; ++k) mean = f32x4.add(mean, shareOf(k, rows));
      mean = f32x4.mul(mean, f32x4.splat(1 / <f32>parts));
      for (let k = 0; k < parts; ++k) {
        const by = f32x4.mul(f32x4.sub(shareOf(k, rows), mean), f32x4.splat(step));
        const at = k == 0 ? p : next++ + count;
        const q = <usize>at << 4;
        let velocity = motion;
        if (affine != 0) {
          const c = affine + <usize>p * 48;
          velocity = f32x4.add(velocity, f32x4(along(v128.load(c), by), along(v128.load(c, 16), by), along(v128.load(c, 32), by), 0));
        }
        v128.store(places + q, f32x4.add(place, by));
        v128.store(motions + q, f32x4.replace_lane(velocity, 3, volume / <f32>parts));
        if (k == 0) continue;
        v128.store(marks + q, v128.load(marks + o));
        store<i32>(marks + q, born + at - count, 4);
        if (affine != 0) memory.copy(affine + <usize>at * 48, affine + <usize>p * 48, 48);
      }
    }
  }
}

@inline
function shareOf(k: i32, rows: i32): v128 {
  return f32x4(<f32>(k % rows), <f32>((k / rows) % rows), <f32>(k / rows / rows), 0);
}

@inline
function along(row: v128, by: v128): f32 {
  const d = f32x4.mul(row, by);
  return f32x4.extract_lane(d, 0) + f32x4.extract_lane(d, 1) + f32x4.extract_lane(d, 2);
}

/** Whether no wall is near a place of the window, by the nearest corner's distance. */
function isClear(slotOf: usize, sdf: usize, nx: i32, ny: i32, nz: i32, at: v128): bool {
  const cell = i32x4.trunc_sat_f32x4_s(f32x4.floor(at));
  const i = i32x4.extract_lane(cell, 0);
  const j = i32x4.extract_lane(cell, 1);
  const k = i32x4.extract_lane(cell, 2);
  if (i < 0 || j < 0 || k < 0 || i >> 3 >= nx || j >> 3 >= ny || k >> 3 >= nz) return false;
  const slot = load<i32>(slotOf + (<usize>(((k >> 3) * ny + (j >> 3)) * nx + (i >> 3)) << 2));
  if (slot < 0) return true;
  const corners = <usize>load<u32>(sdf + (<usize>slot << 2));
  if (corners == 0) return true;
  for (let c = 0; c < 8; ++c) {
    if (load<f32>(corners + (<usize>(((k & 7) + (c >> 2)) * 81 + ((j & 7) + ((c >> 1) & 1)) * 9 + (i & 7) + (c & 1)) << 2)) < CLEAR) return false;
  }
  return true;
}

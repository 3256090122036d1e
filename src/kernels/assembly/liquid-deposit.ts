// What particles give to the grid: momentum and mass to the faces, volume and viscosity to the cells (Zhu & Bridson 2005; affine: Jiang et al. 2015).
//
// A tile's particles are summed up in a block of its own of 10 x 10 x 10 nodes (one beside the tile all around), pairs of (sum, weight); then the block is added
// to the fields. Tiles that are handled at once lie a tile apart, so that no two write to the same place, and the order of sums is that of the tiles.
import { SX, SP, TILES, TILE_SHIFT, T_BASE, T_I, T_J, T_K } from './layout';
import { threadNumber } from './carry';

const ROW: usize = 80;
const PLANE: usize = 800;
const BLOCK: usize = 8000;
/** Bytes of blocks that a thread has: three components and the cells. */
const BLOCKS: usize = 4 * BLOCK;

/**
 * Adds a value with a gradient to the eight nodes around a place: `x`, `y`, `z` from the block's first node; `a`, `b`, `c` its change to the next node along the
 * axes.
 */
@inline
function give(block: usize, x: f32, y: f32, z: f32, value: f32, a: f32, b: f32, c: f32, weight: f32): void {
  const i = floor<f32>(x);
  const j = floor<f32>(y);
  const k = floor<f32>(z);
  const fx = x - i;
  const fy = y - j;
  const fz = z - k;
  const p = block + <usize>(<i32>k) * PLANE + <usize>(<i32>j) * ROW + (<usize>(<i32>i) << 3);
  const corner = value - a * fx - b * fy - c * fz;
  const wx = f32x4.mul(f32x4(1 - fx, 1 - fx, fx, fx), f32x4.splat(weight));
  const v = f32x4(corner, 1, corner + a, 1);
  const up = f32x4(b, 0, b, 0);
  const on = f32x4(c, 0, c, 0);
  const gy = f32x4.splat(1 - fy);
  const hy = f32x4.splat(fy);
  const wz0 = f32x4.mul(wx, f32x4.splat(1 - fz));
  const wz1 = f32x4.mul(wx, f32x4.splat(fz));
  v128.store(p, f32x4.add(v128.load(p), f32x4.mul(v, f32x4.mul(wz0, gy))));
  v128.store(p + ROW, f32x4.add(v128.load(p + ROW), f32x4.mul(f32x4.add(v, up), f32x4.mul(wz0, hy))));
  const w = f32x4.add(v, on);
  const q = p + PLANE;
  v128.store(q, f32x4.add(v128.load(q), f32x4.mul(w, f32x4.mul(wz1, gy))));
  v128.store(q + ROW, f32x4.add(v128.load(q + ROW), f32x4.mul(f32x4.add(w, up), f32x4.mul(wz1, hy))));
}

/** Adds a block to two fields around a tile. */
@inline
function settle(block: usize, sum: usize, weight: usize, base: usize, sx: usize, sp: usize): void {
  for (let k: usize = 0; k < 10; ++k) {
    for (let j: usize = 0; j < 10; ++j) {
      const p = block + k * PLANE + j * ROW;
      const o = base + k * sp + j * sx;
      for (let i: usize = 0; i < 8; i += 4) {
        const low = v128.load(p + (i << 3));
        const high = v128.load(p + (i << 3), 16);
        const s = v128.shuffle<f32>(low, high, 0, 2, 4, 6);
        const w = v128.shuffle<f32>(low, high, 1, 3, 5, 7);
        const at = o + (i << 2);
        v128.store(sum + at, f32x4.add(v128.load(sum + at), s));
        v128.store(weight + at, f32x4.add(v128.load(weight + at), w));
      }
      for (let i: usize = 8; i < 10; ++i) {
        const at = o + (i << 2);
        store<f32>(sum + at, load<f32>(sum + at) + load<f32>(p + (i << 3)));
        store<f32>(weight + at, load<f32>(weight + at) + load<f32>(p + (i << 3), 4));
      }
    }
  }
}

/**
 * Each item: a slot of the list. Fields are momenta and masses of the three components, and of the cells volume x viscosity and volume. `affine` = 0: velocities
 * are constant around a particle.
 */
export function depositParticles(
  begin: i32,
  end: i32,
  ctx: usize,
  list: usize,
  tileStart: usize,
  places: usize,
  motions: usize,
  marks: usize,
  affine: usize,
  fields: usize,
  ox: i32,
  oy: i32,
  oz: i32,
  scratch: usize,
): void {
  const sx = <usize>load<i32>(ctx, SX) << 2;
  const sp = <usize>load<i32>(ctx, SP) << 2;
  const blocks = scratch + threadNumber() * BLOCKS;
  for (let n = begin; n < end; ++n) {
    const slot = load<i32>(list + (<usize>n << 2));
    const first = load<i32>(tileStart + (<usize>slot << 2));
    const last = load<i32>(tileStart + (<usize>slot << 2), 4);
    if (first == last) continue;
    memory.fill(blocks, 0, BLOCKS);
    const rec = <usize>load<u32>(ctx, TILES) + (<usize>slot << TILE_SHIFT);
    // The block's first node lies one before the tile's.
    const tx: f32 = <f32>(load<i32>(rec, T_I) + ox - 1);
    const ty: f32 = <f32>(load<i32>(rec, T_J) + oy - 1);
    const tz: f32 = <f32>(load<i32>(rec, T_K) + oz - 1);
    for (let p = first; p < last; ++p) {
      const o = <usize>p << 4;
      const x = load<f32>(places + o) - tx;
      const y = load<f32>(places + o, 4) - ty;
      const z = load<f32>(places + o, 8) - tz;
      const volume = load<f32>(motions + o, 12);
      const u = load<f32>(motions + o);
      const v = load<f32>(motions + o, 4);
      const w = load<f32>(motions + o, 8);
      if (affine != 0) {
        const c = affine + <usize>p * 48;
        give(blocks, x, y - 0.5, z - 0.5, u, load<f32>(c), load<f32>(c, 4), load<f32>(c, 8), volume);
        give(blocks + BLOCK, x - 0.5, y, z - 0.5, v, load<f32>(c, 16), load<f32>(c, 20), load<f32>(c, 24), volume);
        give(blocks + 2 * BLOCK, x - 0.5, y - 0.5, z, w, load<f32>(c, 32), load<f32>(c, 36), load<f32>(c, 40), volume);
      } else {
        give(blocks, x, y - 0.5, z - 0.5, u, 0, 0, 0, volume);
        give(blocks + BLOCK, x - 0.5, y, z - 0.5, v, 0, 0, 0, volume);
        give(blocks + 2 * BLOCK, x - 0.5, y - 0.5, z, w, 0, 0, 0, volume);
      }
      give(blocks + 3 * BLOCK, x - 0.5, y - 0.5, z - 0.5, load<f32>(marks + o), 0, 0, 0, volume);
    }
    const base = (<usize>load<i32>(rec, T_BASE) << 2) - sp - sx - 4;
    for (let c: usize = 0; c < 4; ++c) {
      settle(blocks + c * BLOCK, <usize>load<u32>(fields + (c << 3)), <usize>load<u32>(fields + (c << 3), 4), base, sx, sp);
    }
  }
}

/** Less mass than this says nothing about a velocity. */
const LEAST: f32 = 1e-6;

/** field = field / weight where particles are near; known = 1 there, else 0 and 0. */
export function shareOut(begin: i32, end: i32, ctx: usize, field: usize, weight: usize, known: usize): void {
  const sx = <usize>load<i32>(ctx, SX) << 2;
  const sp = <usize>load<i32>(ctx, SP) << 2;
  const least = f32x4.splat(LEAST);
  for (let t = begin; t < end; ++t) {
    const base = <usize>load<i32>(<usize>load<u32>(ctx, TILES) + (<usize>t << TILE_SHIFT), T_BASE) << 2;
    for (let row: usize = 0; row < 64; ++row) {
      for (let h: usize = 0; h < 32; h += 16) {
        const o = base + (row >> 3) * sp + (row & 7) * sx + h;
        const w = v128.load(weight + o);
        const there = f32x4.gt(w, least);
        v128.store(field + o, v128.and(there, f32x4.div(v128.load(field + o), w)));
        const ones = v128.and(there, i32x4.splat(1));
        const words = i16x8.narrow_i32x4_u(ones, ones);
        v128.store32_lane(known + (o >> 2), i8x16.narrow_i16x8_u(words, words), 0);
      }
    }
  }
}

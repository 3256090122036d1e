// Paired rows (see poisson.ts): putting rows into pairs and back, sums over tiles, and the vector steps of conjugate gradients.
import { SX, SP, TILES, DIAG, TILE_SHIFT, T_BASE } from './layout';

@inline
export function bytesToFloats(p: usize): v128 {
  return f32x4.convert_i32x4_s(i32x4.extend_low_i16x8_u(i16x8.extend_low_i8x16_u(v128.load32_zero(p))));
}

/** The four even or odd values of eight that lie in their natural order. */
@inline
export function evenOf(p: usize): v128 {
  return v128.shuffle<f32>(v128.load(p), v128.load(p, 16), 0, 2, 4, 6);
}
@inline
export function oddOf(p: usize): v128 {
  return v128.shuffle<f32>(v128.load(p), v128.load(p, 16), 1, 3, 5, 7);
}

/** f64 sums of four values, two lanes at a time. */
@inline
export function fold(sum: v128): f64 {
  const both = f64x2.add(f64x2.promote_low_f32x4(sum), f64x2.promote_low_f32x4(v128.shuffle<u64>(sum, sum, 1, 0)));
  return f64x2.extract_lane(both, 0) + f64x2.extract_lane(both, 1);
}

/** Puts rows into pairs, in place. */
export function pairRows(begin: i32, end: i32, ctx: usize, field: usize): void {
  const sx = <usize>load<i32>(ctx, SX) << 2;
  const sp = <usize>load<i32>(ctx, SP) << 2;
  for (let t = begin; t < end; ++t) {
    const rec = <usize>load<u32>(ctx, TILES) + (<usize>t << TILE_SHIFT);
    const base = field + (<usize>load<i32>(rec, T_BASE) << 2);
    for (let row: usize = 0; row < 64; ++row) {
      const p = base + (row >> 3) * sp + (row & 7) * sx;
      const even = evenOf(p);
      const odd = oddOf(p);
      v128.store(p, even);
      v128.store(p, odd, 16);
    }
  }
}

/** And back into their natural order. */
export function unpairRows(begin: i32, end: i32, ctx: usize, field: usize): void {
  const sx = <usize>load<i32>(ctx, SX) << 2;
  const sp = <usize>load<i32>(ctx, SP) << 2;
  for (let t = begin; t < end; ++t) {
    const rec = <usize>load<u32>(ctx, TILES) + (<usize>t << TILE_SHIFT);
    const base = field + (<usize>load<i32>(rec, T_BASE) << 2);
    for (let row: usize = 0; row < 64; ++row) {
      const p = base + (row >> 3) * sp + (row & 7) * sx;
      const even = v128.load(p);
      const odd = v128.load(p, 16);
      v128.store(p, v128.shuffle<f32>(even, odd, 0, 4, 1, 5));
      v128.store(p, v128.shuffle<f32>(even, odd, 2, 6, 3, 7), 16);
    }
  }
}

/** Per tile the f64 sum over it, at 32 bytes a tile. */
export function tileSum(begin: i32, end: i32, ctx: usize, field: usize, partial: usize): void {
  const sx = <usize>load<i32>(ctx, SX) << 2;
  const sp = <usize>load<i32>(ctx, SP) << 2;
  for (let t = begin; t < end; ++t) {
    const rec = <usize>load<u32>(ctx, TILES) + (<usize>t << TILE_SHIFT);
    const base = field + (<usize>load<i32>(rec, T_BASE) << 2);
    let sum: f64 = 0;
    for (let row: usize = 0; row < 64; ++row) {
      const p = base + (row >> 3) * sp + (row & 7) * sx;
      sum += fold(f32x4.add(v128.load(p), v128.load(p, 16)));
    }
    store<f64>(partial + (<usize>t << 5), sum);
  }
}

/** Adds a value to every unknown; in paired rows. */
export function addToUnknowns(begin: i32, end: i32, ctx: usize, field: usize, value: f32): void {
  const sx = <usize>load<i32>(ctx, SX);
  const sp = <usize>load<i32>(ctx, SP);
  const diag = <usize>load<u32>(ctx, DIAG);
  const v = f32x4.splat(value);
  const zero = f32x4.splat(0);
  for (let t = begin; t < end; ++t) {
    const rec = <usize>load<u32>(ctx, TILES) + (<usize>t << TILE_SHIFT);
    const base = <usize>load<i32>(rec, T_BASE);
    for (let row: usize = 0; row < 64; ++row) {
      const o = base + (row >> 3) * sp + (row & 7) * sx;
      for (let odd: usize = 0; odd < 32; odd += 16) {
        const p = field + (o << 2) + odd;
        v128.store(p, f32x4.add(v128.load(p), v128.and(v, f32x4.gt(bytesToFloats(diag + o + (odd >> 2)), zero))));
      }
    }
  }
}

/** Sums of tiles: four f32 lanes at 32 bytes a tile while its rows go by, then f64. With lanes a row only, folding took longer than adding. */
@inline
export function clearSums(partial: usize, t: i32, run: i32): void {
  const zero = f32x4.splat(0);
  for (let n = t; n < t + run; ++n) {
    v128.store(partial + (<usize>n << 5), zero);
    v128.store(partial + (<usize>n << 5), zero, 16);
  }
}
@inline
export function addSum(at: usize, v: v128): void {
  v128.store(at, f32x4.add(v128.load(at), v));
}
@inline
export function foldSums(partial: usize, t: i32, run: i32): void {
  for (let n = t; n < t + run; ++n) {
    const at = partial + (<usize>n << 5);
    store<f64>(at, fold(v128.load(at)));
    store<f64>(at, <f64>largestOf(v128.load(at, 16)), 8);
  }
}

@inline
export function largestOf(v: v128): f32 {
  return max<f32>(
    max<f32>(f32x4.extract_lane(v, 0), f32x4.extract_lane(v, 1)),
    max<f32>(f32x4.extract_lane(v, 2), f32x4.extract_lane(v, 3)),
  );
}

/** Per tile the dot product a . b, f64 at 32 bytes a tile. */
export function dot(begin: i32, end: i32, ctx: usize, a: usize, b: usize, partial: usize): void {
  const sx = <usize>load<i32>(ctx, SX) << 2;
  const sp = <usize>load<i32>(ctx, SP) << 2;
  for (let t = begin; t < end; ++t) {
    const rec = <usize>load<u32>(ctx, TILES) + (<usize>t << TILE_SHIFT);
    const base = <usize>load<i32>(rec, T_BASE) << 2;
    let low = f32x4.splat(0);
    let high = f32x4.splat(0);
    for (let row: usize = 0; row < 64; ++row) {
      const o = base + (row >> 3) * sp + (row & 7) * sx;
      low = f32x4.add(low, f32x4.mul(v128.load(a + o), v128.load(b + o)));
      high = f32x4.add(high, f32x4.mul(v128.load(a + o, 16), v128.load(b + o, 16)));
    }
    store<f64>(partial + (<usize>t << 5), fold(f32x4.add(low, high)));
  }
}

/** How many tiles from record `rec` on lie side by side along x. */
@inline
export function rowOf(rec: usize, left: i32): i32 {
  let n: i32 = 1;
  const base = load<i32>(rec, T_BASE);
  while (n < left && load<i32>(rec + (<usize>n << TILE_SHIFT), T_BASE) == base + (n << 3)) ++n;
  return n;
}

/** x += alpha p, r -= alpha q; per tile the square sum of the new r, f64 at 32 bytes a tile. */
export function advanceSolution(
  begin: i32,
  end: i32,
  ctx: usize,
  x: usize,
  p: usize,
  r: usize,
  q: usize,
  alpha: f32,
  partial: usize,
): void {
  const sx = <usize>load<i32>(ctx, SX) << 2;
  const sp = <usize>load<i32>(ctx, SP) << 2;
  const a = f32x4.splat(alpha);
  for (let t = begin; t < end; ++t) {
    const rec = <usize>load<u32>(ctx, TILES) + (<usize>t << TILE_SHIFT);
    const base = <usize>load<i32>(rec, T_BASE) << 2;
    const run = rowOf(rec, end - t);
    const bytes = <usize>run << 5;
    clearSums(partial, t, run);
    for (let row: usize = 0; row < 64; ++row) {
      const first = base + (row >> 3) * sp + (row & 7) * sx;
      for (let h: usize = 0; h < bytes; h += 16) {
        const o = first + h;
        v128.store(x + o, f32x4.add(v128.load(x + o), f32x4.mul(a, v128.load(p + o))));
        const v = f32x4.sub(v128.load(r + o), f32x4.mul(a, v128.load(q + o)));
        v128.store(r + o, v);
        addSum(partial + (<usize>t << 5) + (h & ~31), f32x4.mul(v, v));
      }
    }
    foldSums(partial, t, run);
    t += run - 1;
  }
}

/** p = z + beta p. */
export function advanceDirection(begin: i32, end: i32, ctx: usize, p: usize, z: usize, beta: f32): void {
  const sx = <usize>load<i32>(ctx, SX) << 2;
  const sp = <usize>load<i32>(ctx, SP) << 2;
  const b = f32x4.splat(beta);
  for (let t = begin; t < end; ++t) {
    const rec = <usize>load<u32>(ctx, TILES) + (<usize>t << TILE_SHIFT);
    const base = <usize>load<i32>(rec, T_BASE) << 2;
    const run = rowOf(rec, end - t);
    const bytes = <usize>run << 5;
    for (let row: usize = 0; row < 64; ++row) {
      const first = base + (row >> 3) * sp + (row & 7) * sx;
      for (let o = first; o < first + bytes; o += 16) {
        v128.store(p + o, f32x4.add(v128.load(z + o), f32x4.mul(b, v128.load(p + o))));
      }
    }
    t += run - 1;
  }
}

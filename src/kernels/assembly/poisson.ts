// Matrix-free 7-point Poisson operator on active tiles, its smoother and the transfers of the multigrid V-cycle.
// McAdams, Sifakis, Teran 2010 (multigrid-preconditioned conjugate gradients); face fractions after Batty, Bertails,
// Bridson 2007 and Ng, Min, Gibou 2009.
//
// Row of the matrix at cell i: sum over its six faces of a_f (x_i - x_nb), a_f the open fraction of the face; a face to an
// open cell (p = 0 at the face) counts twice in the diagonal. Unknowns are 0 in every cell that is not unknown, so the
// off-diagonal part needs no test. In a tile without cut faces the diagonal is the sum of the neighbours' status bytes.
import { SX, SP, TILES, STATUS, DIAG, TILE_SHIFT, T_BASE, T_CUT, T_COARSE, CUT_STRIDE } from './layout';

@inline
function bytesToFloats(p: usize): v128 {
  return f32x4.convert_i32x4_u(i32x4.extend_low_i16x8_u(i16x8.extend_low_i8x16_u(v128.load32_zero(p))));
}

/** Sum of a_f x_nb over the six neighbours of four cells. `c`: offset of the four in the cut block. */
@inline
function neighbours(p: usize, sx: usize, sp: usize, cut: usize, c: usize): v128 {
  if (cut == 0) {
    const x = f32x4.add(v128.load(p - 4), v128.load(p + 4));
    const y = f32x4.add(v128.load(p - sx), v128.load(p + sx));
    return f32x4.add(f32x4.add(x, y), f32x4.add(v128.load(p - sp), v128.load(p + sp)));
  }
  const q = cut + c;
  const x = f32x4.add(
    f32x4.mul(v128.load(q), v128.load(p - 4)),
    f32x4.mul(v128.load(q + CUT_STRIDE), v128.load(p + 4)),
  );
  const y = f32x4.add(
    f32x4.mul(v128.load(q + 2 * CUT_STRIDE), v128.load(p - sx)),
    f32x4.mul(v128.load(q + 3 * CUT_STRIDE), v128.load(p + sx)),
  );
  const z = f32x4.add(
    f32x4.mul(v128.load(q + 4 * CUT_STRIDE), v128.load(p - sp)),
    f32x4.mul(v128.load(q + 5 * CUT_STRIDE), v128.load(p + sp)),
  );
  return f32x4.add(f32x4.add(x, y), z);
}

@inline
function diagonal(diag: usize, cut: usize, c: usize): v128 {
  return cut == 0 ? bytesToFloats(diag) : v128.load(cut + 6 * CUT_STRIDE + c);
}

/** f64 sums of four products, two lanes at a time. */
@inline
function dotInto(sum: v128, a: v128, b: v128): v128 {
  const low = f64x2.mul(f64x2.promote_low_f32x4(a), f64x2.promote_low_f32x4(b));
  const ah = v128.shuffle<u64>(a, a, 1, 0);
  const bh = v128.shuffle<u64>(b, b, 1, 0);
  const high = f64x2.mul(f64x2.promote_low_f32x4(ah), f64x2.promote_low_f32x4(bh));
  return f64x2.add(sum, f64x2.add(low, high));
}

/** Diagonal of every cell of the tiles from the status bytes. */
export function buildDiagonal(begin: i32, end: i32, ctx: usize): void {
  const sx = <usize>load<i32>(ctx, SX);
  const sp = <usize>load<i32>(ctx, SP);
  const status = <usize>load<u32>(ctx, STATUS);
  const diag = <usize>load<u32>(ctx, DIAG);
  const one = i8x16.splat(1);
  for (let t = begin; t < end; ++t) {
    const rec = <usize>load<u32>(ctx, TILES) + (<usize>t << TILE_SHIFT);
    const base = <usize>load<i32>(rec, T_BASE);
    const cut = <usize>load<u32>(rec, T_CUT);
    for (let row: usize = 0; row < 64; ++row) {
      const o = base + (row >> 3) * sp + (row & 7) * sx;
      const s = status + o;
      const unknown = i8x16.eq(v128.load64_zero(s), one);
      if (cut == 0) {
        const sum = i8x16.add(
          i8x16.add(
            i8x16.add(v128.load64_zero(s - 1), v128.load64_zero(s + 1)),
            i8x16.add(v128.load64_zero(s - sx), v128.load64_zero(s + sx)),
          ),
          i8x16.add(v128.load64_zero(s - sp), v128.load64_zero(s + sp)),
        );
        v128.store64_lane(diag + o, v128.and(sum, unknown), 0);
        continue;
      }
      v128.store64_lane(diag + o, v128.and(one, unknown), 0);
      for (let i: usize = 0; i < 8; i += 4) {
        const q = cut + (row << 5) + (i << 2);
        const p = s + i;
        let d = f32x4.mul(v128.load(q), bytesToFloats(p - 1));
        d = f32x4.add(d, f32x4.mul(v128.load(q + CUT_STRIDE), bytesToFloats(p + 1)));
        d = f32x4.add(d, f32x4.mul(v128.load(q + 2 * CUT_STRIDE), bytesToFloats(p - sx)));
        d = f32x4.add(d, f32x4.mul(v128.load(q + 3 * CUT_STRIDE), bytesToFloats(p + sx)));
        d = f32x4.add(d, f32x4.mul(v128.load(q + 4 * CUT_STRIDE), bytesToFloats(p - sp)));
        d = f32x4.add(d, f32x4.mul(v128.load(q + 5 * CUT_STRIDE), bytesToFloats(p + sp)));
        const mask = f32x4.eq(bytesToFloats(p), f32x4.splat(1));
        v128.store(q + 6 * CUT_STRIDE, v128.and(d, mask));
      }
    }
  }
}

/** Sum over the six neighbours of four cells, all faces open. */
@inline
function openNeighbours(p: usize, sx: usize, sp: usize): v128 {
  return f32x4.add(
    f32x4.add(f32x4.add(v128.load(p - 4), v128.load(p + 4)), f32x4.add(v128.load(p - sx), v128.load(p + sx))),
    f32x4.add(v128.load(p - sp), v128.load(p + sp)),
  );
}

@inline
function lowFloats(words: v128): v128 {
  return f32x4.convert_i32x4_u(i32x4.extend_low_i16x8_u(words));
}
@inline
function highFloats(words: v128): v128 {
  return f32x4.convert_i32x4_u(i32x4.extend_high_i16x8_u(words));
}

/** How many tiles from record `rec` on lie side by side along x, without cut faces: their rows are one long row, which the machine reads ahead in. */
@inline
function runOf(rec: usize, left: i32): i32 {
  let n: i32 = 1;
  const base = load<i32>(rec, T_BASE);
  for (; n < left; ++n) {
    const next = rec + (<usize>n << TILE_SHIFT);
    if (load<i32>(next, T_BASE) != base + (n << 3) || load<u32>(next, T_CUT) != 0) break;
  }
  return n;
}

/** A half sweep of such a run of tiles. */
@inline
function smoothOpen(p0: usize, b0: usize, d0: usize, sx: usize, sp: usize, colour: i32, tiles: i32): void {
  const even = i32x4(-1, 0, -1, 0);
  const odd = i32x4(0, -1, 0, -1);
  const zero = f32x4.splat(0);
  const bytes = <usize>tiles << 5;
  for (let k: usize = 0; k < 8; ++k) {
    for (let j: usize = 0; j < 8; ++j) {
      const o = k * sp + j * sx;
      let p = p0 + o;
      let b = b0 + o;
      let d = d0 + (o >> 2);
      const end = p + bytes;
      const lanes = ((<i32>(k + j) + colour) & 1) == 0 ? even : odd;
      let low = zero;
      let high = zero;
      let to: usize = 0;
      for (; p < end; p += 32, b += 32, d += 8) {
        const words = i16x8.extend_low_i8x16_u(v128.load64_zero(d));
        const dl = lowFloats(words);
        const dh = highFloats(words);
        const sl = f32x4.div(f32x4.add(openNeighbours(p, sx, sp), v128.load(b)), dl);
        const sh = f32x4.div(f32x4.add(openNeighbours(p + 16, sx, sp), v128.load(b, 16)), dh);
        const rl = v128.bitselect(sl, v128.load(p), v128.and(lanes, f32x4.gt(dl, zero)));
        const rh = v128.bitselect(sh, v128.load(p, 16), v128.and(lanes, f32x4.gt(dh, zero)));
        // Eight cells late: reloading x - 1 just after its store stalls. What is late is of the other colour, so nobody misses it.
        if (to != 0) {
          v128.store(to, low);
          v128.store(to, high, 16);
        }
        low = rl;
        high = rh;
        to = p;
      }
      v128.store(to, low);
      v128.store(to, high, 16);
    }
  }
}

/** One half sweep of red-black Gauss-Seidel on A x = b: cells with (i + j + k) mod 2 = colour. */
export function smooth(begin: i32, end: i32, ctx: usize, x: usize, b: usize, colour: i32): void {
  const n = <usize>load<i32>(ctx, SX);
  const sx = n << 2;
  const sp = <usize>load<i32>(ctx, SP) << 2;
  const diag = <usize>load<u32>(ctx, DIAG);
  const even = i32x4(-1, 0, -1, 0);
  const odd = i32x4(0, -1, 0, -1);
  const zero = f32x4.splat(0);
  for (let t = begin; t < end; ++t) {
    const rec = <usize>load<u32>(ctx, TILES) + (<usize>t << TILE_SHIFT);
    const base = <usize>load<i32>(rec, T_BASE);
    const cut = <usize>load<u32>(rec, T_CUT);
    if (cut == 0) {
      const run = runOf(rec, end - t);
      smoothOpen(x + (base << 2), b + (base << 2), diag + base, sx, sp, colour, run);
      t += run - 1;
      continue;
    }
    for (let row: usize = 0; row < 64; ++row) {
      const o = base + (((row >> 3) * sp + (row & 7) * sx) >> 2);
      const p = x + (o << 2);
      const lanes = ((<i32>(row >> 3) + <i32>(row & 7) + colour) & 1) == 0 ? even : odd;
      // Both halves are computed before either is stored: reloading x - 1 just after its store stalls.
      const d0 = diagonal(diag + o, cut, row << 5);
      const d1 = diagonal(diag + o + 4, cut, (row << 5) + 16);
      const s0 = f32x4.add(neighbours(p, sx, sp, cut, row << 5), v128.load(b + (o << 2)));
      const s1 = f32x4.add(neighbours(p + 16, sx, sp, cut, (row << 5) + 16), v128.load(b + (o << 2) + 16));
      const old0 = v128.load(p);
      const old1 = v128.load(p + 16);
      v128.store(p, v128.bitselect(f32x4.div(s0, d0), old0, v128.and(lanes, f32x4.gt(d0, zero))));
      v128.store(p + 16, v128.bitselect(f32x4.div(s1, d1), old1, v128.and(lanes, f32x4.gt(d1, zero))));
    }
  }
}

/** The first half sweep (colour 0) from x = 0, with x set: b / diagonal on its cells, 0 on the others. Saves a pass over x and reads none. */
export function smoothFirst(begin: i32, end: i32, ctx: usize, x: usize, b: usize): void {
  const sx = <usize>load<i32>(ctx, SX) << 2;
  const sp = <usize>load<i32>(ctx, SP) << 2;
  const diag = <usize>load<u32>(ctx, DIAG);
  const even = i32x4(-1, 0, -1, 0);
  const odd = i32x4(0, -1, 0, -1);
  const zero = f32x4.splat(0);
  for (let t = begin; t < end; ++t) {
    const rec = <usize>load<u32>(ctx, TILES) + (<usize>t << TILE_SHIFT);
    const base = <usize>load<i32>(rec, T_BASE);
    const cut = <usize>load<u32>(rec, T_CUT);
    for (let row: usize = 0; row < 64; ++row) {
      const o = base + (((row >> 3) * sp + (row & 7) * sx) >> 2);
      const lanes = ((<i32>(row >> 3) + <i32>(row & 7)) & 1) == 0 ? even : odd;
      for (let h: usize = 0; h < 8; h += 4) {
        const d = diagonal(diag + o + h, cut, (row << 5) + (h << 2));
        const v = f32x4.div(v128.load(b + ((o + h) << 2)), d);
        v128.store(x + ((o + h) << 2), v128.and(v, v128.and(lanes, f32x4.gt(d, zero))));
      }
    }
  }
}

/** q = A x; per tile the f64 dot product x . q. */
export function applyPoisson(begin: i32, end: i32, ctx: usize, x: usize, q: usize, partial: usize): void {
  const sx = <usize>load<i32>(ctx, SX) << 2;
  const sp = <usize>load<i32>(ctx, SP) << 2;
  const diag = <usize>load<u32>(ctx, DIAG);
  const zero = f32x4.splat(0);
  for (let t = begin; t < end; ++t) {
    const rec = <usize>load<u32>(ctx, TILES) + (<usize>t << TILE_SHIFT);
    const base = <usize>load<i32>(rec, T_BASE);
    const cut = <usize>load<u32>(rec, T_CUT);
    let sum = f64x2.splat(0);
    for (let row: usize = 0; row < 64; ++row) {
      const o = base + (((row >> 3) * sp + (row & 7) * sx) >> 2);
      for (let h: usize = 0; h < 8; h += 4) {
        const p = x + ((o + h) << 2);
        const c = (row << 5) + (h << 2);
        const d = diagonal(diag + o + h, cut, c);
        const xc = v128.load(p);
        const v = v128.and(f32x4.sub(f32x4.mul(d, xc), neighbours(p, sx, sp, cut, c)), f32x4.gt(d, zero));
        v128.store(q + ((o + h) << 2), v);
        sum = dotInto(sum, xc, v);
      }
    }
    store<f64>(partial + (<usize>t << 3), f64x2.extract_lane(sum, 0) + f64x2.extract_lane(sum, 1));
  }
}

/** r = b - A x; per tile the f64 square sum of r and (as f64) its largest magnitude: 16 bytes a tile. */
export function residual(begin: i32, end: i32, ctx: usize, x: usize, b: usize, r: usize, partial: usize): void {
  const sx = <usize>load<i32>(ctx, SX) << 2;
  const sp = <usize>load<i32>(ctx, SP) << 2;
  const diag = <usize>load<u32>(ctx, DIAG);
  const zero = f32x4.splat(0);
  for (let t = begin; t < end; ++t) {
    const rec = <usize>load<u32>(ctx, TILES) + (<usize>t << TILE_SHIFT);
    const base = <usize>load<i32>(rec, T_BASE);
    const cut = <usize>load<u32>(rec, T_CUT);
    let sum = f64x2.splat(0);
    let largest = zero;
    for (let row: usize = 0; row < 64; ++row) {
      const o = base + (((row >> 3) * sp + (row & 7) * sx) >> 2);
      for (let h: usize = 0; h < 8; h += 4) {
        const p = x + ((o + h) << 2);
        const c = (row << 5) + (h << 2);
        const d = diagonal(diag + o + h, cut, c);
        const ax = f32x4.sub(f32x4.mul(d, v128.load(p)), neighbours(p, sx, sp, cut, c));
        const v = v128.and(f32x4.sub(v128.load(b + ((o + h) << 2)), ax), f32x4.gt(d, zero));
        v128.store(r + ((o + h) << 2), v);
        sum = dotInto(sum, v, v);
        largest = f32x4.max(largest, f32x4.abs(v));
      }
    }
    store<f64>(partial + (<usize>t << 4), f64x2.extract_lane(sum, 0) + f64x2.extract_lane(sum, 1));
    store<f64>(partial + (<usize>t << 4), <f64>largestOf(largest), 8);
  }
}

@inline
function largestOf(v: v128): f32 {
  return max<f32>(
    max<f32>(f32x4.extract_lane(v, 0), f32x4.extract_lane(v, 1)),
    max<f32>(f32x4.extract_lane(v, 2), f32x4.extract_lane(v, 3)),
  );
}

/** Coarse right-hand side = half the sum of the eight children's residual b - A x, without storing the residual. */
export function restrictResidual(
  begin: i32,
  end: i32,
  ctx: usize,
  x: usize,
  b: usize,
  coarseSx: i32,
  coarseSp: i32,
  coarseB: usize,
): void {
  const sx = <usize>load<i32>(ctx, SX) << 2;
  const sp = <usize>load<i32>(ctx, SP) << 2;
  const diag = <usize>load<u32>(ctx, DIAG);
  const zero = f32x4.splat(0);
  const half = f32x4.splat(0.5);
  for (let t = begin; t < end; ++t) {
    const rec = <usize>load<u32>(ctx, TILES) + (<usize>t << TILE_SHIFT);
    const base = <usize>load<i32>(rec, T_BASE);
    const cut = <usize>load<u32>(rec, T_CUT);
    const coarse = <usize>load<i32>(rec, T_COARSE);
    for (let k: usize = 0; k < 4; ++k) {
      for (let j: usize = 0; j < 4; ++j) {
        let low = zero;
        let high = zero;
        for (let n: usize = 0; n < 4; ++n) {
          const row = ((k << 1) + (n >> 1)) * 8 + (j << 1) + (n & 1);
          const o = base + (((row >> 3) * sp + (row & 7) * sx) >> 2);
          for (let h: usize = 0; h < 8; h += 4) {
            const p = x + ((o + h) << 2);
            const c = (row << 5) + (h << 2);
            const d = diagonal(diag + o + h, cut, c);
            const ax = f32x4.sub(f32x4.mul(d, v128.load(p)), neighbours(p, sx, sp, cut, c));
            const v = v128.and(f32x4.sub(v128.load(b + ((o + h) << 2)), ax), f32x4.gt(d, zero));
            if (h == 0) low = f32x4.add(low, v);
            else high = f32x4.add(high, v);
          }
        }
        const a = v128.shuffle<f32>(low, high, 0, 2, 4, 6);
        const c = v128.shuffle<f32>(low, high, 1, 3, 5, 7);
        const to = coarseB + ((coarse + k * <usize>coarseSp + j * <usize>coarseSx) << 2);
        v128.store(to, f32x4.mul(half, f32x4.add(a, c)));
      }
    }
  }
}

/** x += coarse x over it, on unknown cells. */
export function prolongAdd(
  begin: i32,
  end: i32,
  ctx: usize,
  x: usize,
  coarseSx: i32,
  coarseSp: i32,
  coarseX: usize,
): void {
  const sx = <usize>load<i32>(ctx, SX);
  const sp = <usize>load<i32>(ctx, SP);
  const diag = <usize>load<u32>(ctx, DIAG);
  const zero = f32x4.splat(0);
  for (let t = begin; t < end; ++t) {
    const rec = <usize>load<u32>(ctx, TILES) + (<usize>t << TILE_SHIFT);
    const base = <usize>load<i32>(rec, T_BASE);
    const coarse = <usize>load<i32>(rec, T_COARSE);
    for (let row: usize = 0; row < 64; ++row) {
      const o = base + (row >> 3) * sp + (row & 7) * sx;
      const c = v128.load(coarseX + ((coarse + (row >> 4) * <usize>coarseSp + ((row & 7) >> 1) * <usize>coarseSx) << 2));
      const p = x + (o << 2);
      const low = v128.and(v128.shuffle<f32>(c, c, 0, 0, 1, 1), f32x4.gt(bytesToFloats(diag + o), zero));
      const high = v128.and(v128.shuffle<f32>(c, c, 2, 2, 3, 3), f32x4.gt(bytesToFloats(diag + o + 4), zero));
      v128.store(p, f32x4.add(v128.load(p), low));
      v128.store(p + 16, f32x4.add(v128.load(p + 16), high));
    }
  }
}

/** Coarse status: unknown when any child is, else open when any child is, else solid. Over whole coarse planes. */
export function coarsenStatus(
  begin: i32,
  end: i32,
  fine: usize,
  fineSx: i32,
  fineSp: i32,
  coarse: usize,
  coarseSx: i32,
  coarseSp: i32,
  rows: i32,
  columns: i32,
): void {
  // `fine` and `coarse` point at voxel (0, 0, 0) of the coarse cell range; children of (i, j, k) are (2i..2i+1, ...).
  for (let k = begin; k < end; ++k) {
    for (let j = 0; j < rows; ++j) {
      for (let i = 0; i < columns; ++i) {
        let unknown: i32 = 0;
        let open: i32 = 0;
        for (let n = 0; n < 8; ++n) {
          const at = (2 * k + (n >> 2)) * fineSp + (2 * j + ((n >> 1) & 1)) * fineSx + 2 * i + (n & 1);
          const s = <i32>load<u8>(fine + <usize>at);
          unknown |= <i32>(s == 1);
          open |= <i32>(s == 2);
        }
        store<u8>(coarse + <usize>(k * coarseSp + j * coarseSx + i), <u8>(unknown ? 1 : open << 1));
      }
    }
  }
}

/** Per tile the f64 dot product a . b. */
export function dot(begin: i32, end: i32, ctx: usize, a: usize, b: usize, partial: usize): void {
  const sx = <usize>load<i32>(ctx, SX);
  const sp = <usize>load<i32>(ctx, SP);
  for (let t = begin; t < end; ++t) {
    const rec = <usize>load<u32>(ctx, TILES) + (<usize>t << TILE_SHIFT);
    const base = <usize>load<i32>(rec, T_BASE);
    let sum = f64x2.splat(0);
    for (let row: usize = 0; row < 64; ++row) {
      const o = (base + (row >> 3) * sp + (row & 7) * sx) << 2;
      sum = dotInto(sum, v128.load(a + o), v128.load(b + o));
      sum = dotInto(sum, v128.load(a + o + 16), v128.load(b + o + 16));
    }
    store<f64>(partial + (<usize>t << 3), f64x2.extract_lane(sum, 0) + f64x2.extract_lane(sum, 1));
  }
}

/** x += alpha p, r -= alpha q; per tile the f64 square sum of the new r. */
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
  const sx = <usize>load<i32>(ctx, SX);
  const sp = <usize>load<i32>(ctx, SP);
  const a = f32x4.splat(alpha);
  for (let t = begin; t < end; ++t) {
    const rec = <usize>load<u32>(ctx, TILES) + (<usize>t << TILE_SHIFT);
    const base = <usize>load<i32>(rec, T_BASE);
    let sum = f64x2.splat(0);
    for (let row: usize = 0; row < 64; ++row) {
      const o = (base + (row >> 3) * sp + (row & 7) * sx) << 2;
      for (let h: usize = 0; h < 32; h += 16) {
        v128.store(x + o + h, f32x4.add(v128.load(x + o + h), f32x4.mul(a, v128.load(p + o + h))));
        const v = f32x4.sub(v128.load(r + o + h), f32x4.mul(a, v128.load(q + o + h)));
        v128.store(r + o + h, v);
        sum = dotInto(sum, v, v);
      }
    }
    store<f64>(partial + (<usize>t << 3), f64x2.extract_lane(sum, 0) + f64x2.extract_lane(sum, 1));
  }
}

/** p = z + beta p. */
export function advanceDirection(begin: i32, end: i32, ctx: usize, p: usize, z: usize, beta: f32): void {
  const sx = <usize>load<i32>(ctx, SX);
  const sp = <usize>load<i32>(ctx, SP);
  const b = f32x4.splat(beta);
  for (let t = begin; t < end; ++t) {
    const rec = <usize>load<u32>(ctx, TILES) + (<usize>t << TILE_SHIFT);
    const base = <usize>load<i32>(rec, T_BASE);
    for (let row: usize = 0; row < 64; ++row) {
      const o = (base + (row >> 3) * sp + (row & 7) * sx) << 2;
      for (let h: usize = 0; h < 32; h += 16) {
        v128.store(p + o + h, f32x4.add(v128.load(z + o + h), f32x4.mul(b, v128.load(p + o + h))));
      }
    }
  }
}

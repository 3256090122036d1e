// Matrix-free 7-point Poisson operator on active tiles, its smoother and the transfers of the multigrid V-cycle.
// McAdams, Sifakis, Teran 2010 (multigrid-preconditioned conjugate gradients); face fractions after Batty, Bertails,
// Bridson 2007 and Ng, Min, Gibou 2009.
//
// Row of the matrix at cell i: sum over its six faces of a_f (x_i - x_nb), a_f the open fraction of the face; a face to an
// open cell (p = 0 at the face) counts twice in the diagonal. Unknowns are 0 in every cell that is not unknown, so the
// off-diagonal part needs no test. Where no face of an unknown cell is cut the diagonal is the sum of the neighbours' status bytes.
//
// Paired rows: while a pressure is solved, every aligned group of eight cells of a row lies as 0 2 4 6 | 1 3 5 7. One colour of a row is then one vector, the
// other colour the vector beside it: a half sweep reads no more than it needs, writes one whole vector, and has neither colour masks nor unaligned loads.
// Neighbours in x are the other vector, shifted by one lane with the group before or behind; those in y and z lie at the same place of their rows.
import { SX, SP, TILES, STATUS, DIAG, TILE_SHIFT, T_BASE, T_CUT, T_COARSE, T_FLAGS, CUT_STRIDE } from './layout';
import { addSum, bytesToFloats, clearSums, evenOf, foldSums, oddOf } from './paired';

/** Bit of a record's flags: cut faces meet solid cells only, or none; for the pressure the tile is as good as uncut. */
const WHOLE_FACES: i32 = 2;

@inline
function cutOf(rec: usize): usize {
  return (load<i32>(rec, T_FLAGS) & WHOLE_FACES) != 0 ? 0 : <usize>load<u32>(rec, T_CUT);
}

@inline
function leftOfEven(p: usize): v128 {
  return v128.shuffle<f32>(v128.load(p - 16), v128.load(p, 16), 3, 4, 5, 6);
}
@inline
function rightOfOdd(p: usize): v128 {
  return v128.shuffle<f32>(v128.load(p), v128.load(p, 32), 1, 2, 3, 4);
}

/** Sum of a_f x_nb over the six neighbours of the even (odd = 0) or odd (16) cells of the group at p. `q`: of the group in the cut block, or 0. */
@inline
function neighbours(p: usize, odd: usize, sx: usize, sp: usize, q: usize): v128 {
  const left = odd == 0 ? leftOfEven(p) : v128.load(p);
  const right = odd == 0 ? v128.load(p, 16) : rightOfOdd(p);
  const o = p + odd;
  if (q == 0) {
    return f32x4.add(
      f32x4.add(f32x4.add(left, right), f32x4.add(v128.load(o - sx), v128.load(o + sx))),
      f32x4.add(v128.load(o - sp), v128.load(o + sp)),
    );
  }
  const x = f32x4.add(f32x4.mul(fraction(q, 0, odd), left), f32x4.mul(fraction(q, 1, odd), right));
  const y = f32x4.add(f32x4.mul(fraction(q, 2, odd), v128.load(o - sx)), f32x4.mul(fraction(q, 3, odd), v128.load(o + sx)));
  const z = f32x4.add(f32x4.mul(fraction(q, 4, odd), v128.load(o - sp)), f32x4.mul(fraction(q, 5, odd), v128.load(o + sp)));
  return f32x4.add(f32x4.add(x, y), z);
}

@inline
function fraction(q: usize, face: usize, odd: usize): v128 {
  return odd == 0 ? evenOf(q + face * CUT_STRIDE) : oddOf(q + face * CUT_STRIDE);
}

@inline
function diagonal(diag: usize, odd: usize, q: usize): v128 {
  return q == 0 ? bytesToFloats(diag + (odd >> 2)) : fraction(q, 6, odd);
}

/** Diagonal of every cell of the tiles from the status bytes, in paired rows; and which tiles are as good as uncut. */
export function buildDiagonal(begin: i32, end: i32, ctx: usize): void {
  const sx = <usize>load<i32>(ctx, SX);
  const sp = <usize>load<i32>(ctx, SP);
  const status = <usize>load<u32>(ctx, STATUS);
  const diag = <usize>load<u32>(ctx, DIAG);
  const one = i8x16.splat(1);
  const whole = f32x4.splat(1);
  const zero = f32x4.splat(0);
  for (let t = begin; t < end; ++t) {
    const rec = <usize>load<u32>(ctx, TILES) + (<usize>t << TILE_SHIFT);
    const base = <usize>load<i32>(rec, T_BASE);
    const cut = <usize>load<u32>(rec, T_CUT);
    let narrow = i32x4.splat(0);
    if (cut != 0) {
      for (let row: usize = 0; row < 64; ++row) {
        const s = status + base + (row >> 3) * sp + (row & 7) * sx;
        for (let i: usize = 0; i < 8; i += 4) {
          const q = cut + (row << 5) + (i << 2);
          const p = s + i;
          let d = zero;
          const mask = f32x4.eq(bytesToFloats(p), whole);
          for (let face: usize = 0; face < 6; ++face) {
            const step = face < 2 ? 1 : face < 4 ? sx : sp;
            const beside = bytesToFloats((face & 1) == 0 ? p - step : p + step);
            const open = v128.load(q + face * CUT_STRIDE);
            d = f32x4.add(d, f32x4.mul(open, beside));
            // Whole, or closed towards something that is no unknown: the matrix has a 1 or nothing there.
            const fits = v128.or(f32x4.eq(open, whole), v128.and(f32x4.eq(open, zero), f32x4.ne(beside, whole)));
            narrow = v128.or(narrow, v128.andnot(mask, fits));
          }
          v128.store(q + 6 * CUT_STRIDE, v128.and(d, mask));
        }
      }
    }
    const plain = cut == 0 || !v128.any_true(narrow);
    const flags = load<i32>(rec, T_FLAGS) & ~WHOLE_FACES;
    store<i32>(rec, plain && cut != 0 ? flags | WHOLE_FACES : flags, T_FLAGS);
    for (let row: usize = 0; row < 64; ++row) {
      const o = base + (row >> 3) * sp + (row & 7) * sx;
      const s = status + o;
      const unknown = i8x16.eq(v128.load64_zero(s), one);
      let d = v128.and(one, unknown);
      if (cut == 0) {
        const sum = i8x16.add(
          i8x16.add(
            i8x16.add(v128.load64_zero(s - 1), v128.load64_zero(s + 1)),
            i8x16.add(v128.load64_zero(s - sx), v128.load64_zero(s + sx)),
          ),
          i8x16.add(v128.load64_zero(s - sp), v128.load64_zero(s + sp)),
        );
        d = v128.and(sum, unknown);
      } else if (plain) {
        const q = cut + (row << 5) + 6 * CUT_STRIDE;
        const words = i16x8.narrow_i32x4_s(i32x4.trunc_sat_f32x4_s(v128.load(q)), i32x4.trunc_sat_f32x4_s(v128.load(q, 16)));
        d = i8x16.narrow_i16x8_u(words, words);
      }
      v128.store64_lane(diag + o, v128.shuffle<u8>(d, d, 0, 2, 4, 6, 1, 3, 5, 7, 0, 0, 0, 0, 0, 0, 0, 0), 0);
    }
  }
}

@inline
function smoothGroup(x: usize, b: usize, d: usize, odd: usize, sx: usize, sp: usize, q: usize): void {
  const dd = diagonal(d, odd, q);
  const value = f32x4.div(f32x4.add(neighbours(x, odd, sx, sp, q), v128.load(b + odd)), dd);
  v128.store(x + odd, v128.and(value, f32x4.gt(dd, f32x4.splat(0))));
}

/**
 * How many tiles from record `rec` on lie side by side along x and are as good as uncut: their rows are one long row, which the machine reads ahead in. Tile by
 * tile, in rows of 32 bytes, a half sweep took 1.7 times as long.
 */
@inline
function runOf(rec: usize, left: i32): i32 {
  let n: i32 = 1;
  const base = load<i32>(rec, T_BASE);
  for (; n < left; ++n) {
    const next = rec + (<usize>n << TILE_SHIFT);
    if (load<i32>(next, T_BASE) != base + (n << 3) || cutOf(next) != 0) break;
  }
  return n;
}

/** One half sweep of red-black Gauss-Seidel on A x = b: cells with (i + j + k) mod 2 = colour. Reads the other colour only. */
export function smooth(begin: i32, end: i32, ctx: usize, x: usize, b: usize, colour: i32): void {
  const sx = <usize>load<i32>(ctx, SX) << 2;
  const sp = <usize>load<i32>(ctx, SP) << 2;
  const diag = <usize>load<u32>(ctx, DIAG);
  for (let t = begin; t < end; ++t) {
    const rec = <usize>load<u32>(ctx, TILES) + (<usize>t << TILE_SHIFT);
    const base = <usize>load<i32>(rec, T_BASE) << 2;
    const cut = cutOf(rec);
    const run = cut == 0 ? runOf(rec, end - t) : 1;
    const bytes = <usize>run << 5;
    for (let row: usize = 0; row < 64; ++row) {
      const o = base + (row >> 3) * sp + (row & 7) * sx;
      const even = (((row >> 3) + row + <usize>colour) & 1) == 0;
      if (cut != 0) {
        const q = cut + (row << 5);
        if (even) smoothGroup(x + o, b + o, diag + (o >> 2), 0, sx, sp, q);
        else smoothGroup(x + o, b + o, diag + (o >> 2), 16, sx, sp, q);
      } else if (even) {
        for (let p = o; p < o + bytes; p += 32) smoothGroup(x + p, b + p, diag + (p >> 2), 0, sx, sp, 0);
      } else {
        for (let p = o; p < o + bytes; p += 32) smoothGroup(x + p, b + p, diag + (p >> 2), 16, sx, sp, 0);
      }
    }
    t += run - 1;
  }
}

@inline
function firstGroup(x: usize, b: usize, diag: usize, odd: usize, q: usize): void {
  const d = diagonal(diag, odd, q);
  v128.store(x + odd, v128.and(f32x4.div(v128.load(b + odd), d), f32x4.gt(d, f32x4.splat(0))));
}

/** The first half sweep (colour 0) from x = 0: b / diagonal. What the other colour holds is never read. */
export function smoothFirst(begin: i32, end: i32, ctx: usize, x: usize, b: usize): void {
  const sx = <usize>load<i32>(ctx, SX) << 2;
  const sp = <usize>load<i32>(ctx, SP) << 2;
  const diag = <usize>load<u32>(ctx, DIAG);
  for (let t = begin; t < end; ++t) {
    const rec = <usize>load<u32>(ctx, TILES) + (<usize>t << TILE_SHIFT);
    const base = <usize>load<i32>(rec, T_BASE) << 2;
    const cut = cutOf(rec);
    const run = cut == 0 ? runOf(rec, end - t) : 1;
    const bytes = <usize>run << 5;
    for (let row: usize = 0; row < 64; ++row) {
      const o = base + (row >> 3) * sp + (row & 7) * sx;
      const even = (((row >> 3) + row) & 1) == 0;
      if (cut != 0) {
        const q = cut + (row << 5);
        if (even) firstGroup(x + o, b + o, diag + (o >> 2), 0, q);
        else firstGroup(x + o, b + o, diag + (o >> 2), 16, q);
      } else if (even) {
        for (let p = o; p < o + bytes; p += 32) firstGroup(x + p, b + p, diag + (p >> 2), 0, 0);
      } else {
        for (let p = o; p < o + bytes; p += 32) firstGroup(x + p, b + p, diag + (p >> 2), 16, 0);
      }
    }
    t += run - 1;
  }
}

@inline
function operator(x: usize, d: v128, odd: usize, sx: usize, sp: usize, q: usize): v128 {
  return f32x4.sub(f32x4.mul(d, v128.load(x + odd)), neighbours(x, odd, sx, sp, q));
}

@inline
function applyGroup(x: usize, to: usize, diag: usize, sx: usize, sp: usize, q: usize, sum: usize): void {
  const zero = f32x4.splat(0);
  const d0 = diagonal(diag, 0, q);
  const d1 = diagonal(diag, 16, q);
  const v0 = v128.and(operator(x, d0, 0, sx, sp, q), f32x4.gt(d0, zero));
  const v1 = v128.and(operator(x, d1, 16, sx, sp, q), f32x4.gt(d1, zero));
  v128.store(to, v0);
  v128.store(to, v1, 16);
  addSum(sum, f32x4.add(f32x4.mul(v0, v128.load(x)), f32x4.mul(v1, v128.load(x, 16))));
}

/** q = A x; per tile the dot product x . q, f64 at 32 bytes a tile. */
export function applyPoisson(begin: i32, end: i32, ctx: usize, x: usize, q: usize, partial: usize): void {
  const sx = <usize>load<i32>(ctx, SX) << 2;
  const sp = <usize>load<i32>(ctx, SP) << 2;
  const diag = <usize>load<u32>(ctx, DIAG);
  for (let t = begin; t < end; ++t) {
    const rec = <usize>load<u32>(ctx, TILES) + (<usize>t << TILE_SHIFT);
    const base = <usize>load<i32>(rec, T_BASE) << 2;
    const cut = cutOf(rec);
    const run = cut == 0 ? runOf(rec, end - t) : 1;
    const bytes = <usize>run << 5;
    const sums = partial + (<usize>t << 5);
    clearSums(partial, t, run);
    for (let row: usize = 0; row < 64; ++row) {
      const o = base + (row >> 3) * sp + (row & 7) * sx;
      if (cut != 0) applyGroup(x + o, q + o, diag + (o >> 2), sx, sp, cut + (row << 5), sums);
      else for (let p: usize = 0; p < bytes; p += 32) applyGroup(x + o + p, q + o + p, diag + ((o + p) >> 2), sx, sp, 0, sums + p);
    }
    foldSums(partial, t, run);
    t += run - 1;
  }
}

@inline
function residualGroup(x: usize, b: usize, to: usize, diag: usize, sx: usize, sp: usize, q: usize, sum: usize): void {
  const v0 = residualOf(x, b, diag, 0, sx, sp, q);
  const v1 = residualOf(x, b, diag, 16, sx, sp, q);
  v128.store(to, v0);
  v128.store(to, v1, 16);
  addSum(sum, f32x4.add(f32x4.mul(v0, v0), f32x4.mul(v1, v1)));
  // Passes NaNs on: they must not be lost.
  v128.store(sum, f32x4.max(v128.load(sum, 16), f32x4.max(f32x4.abs(v0), f32x4.abs(v1))), 16);
}

/** r = b - A x; per tile, 32 bytes: the square sum of r and its largest magnitude, f64. */
export function residual(begin: i32, end: i32, ctx: usize, x: usize, b: usize, r: usize, partial: usize): void {
  const sx = <usize>load<i32>(ctx, SX) << 2;
  const sp = <usize>load<i32>(ctx, SP) << 2;
  const diag = <usize>load<u32>(ctx, DIAG);
  for (let t = begin; t < end; ++t) {
    const rec = <usize>load<u32>(ctx, TILES) + (<usize>t << TILE_SHIFT);
    const base = <usize>load<i32>(rec, T_BASE) << 2;
    const cut = cutOf(rec);
    const run = cut == 0 ? runOf(rec, end - t) : 1;
    const bytes = <usize>run << 5;
    const sums = partial + (<usize>t << 5);
    clearSums(partial, t, run);
    for (let row: usize = 0; row < 64; ++row) {
      const o = base + (row >> 3) * sp + (row & 7) * sx;
      if (cut != 0) residualGroup(x + o, b + o, r + o, diag + (o >> 2), sx, sp, cut + (row << 5), sums);
      else {
        for (let p: usize = 0; p < bytes; p += 32) {
          residualGroup(x + o + p, b + o + p, r + o + p, diag + ((o + p) >> 2), sx, sp, 0, sums + p);
        }
      }
    }
    foldSums(partial, t, run);
    t += run - 1;
  }
}

/** Where a fine tile's first coarse cell lies in its group of paired rows: the address of its even cells, from that of the natural order. */
@inline
function coarseGroup(field: usize, index: usize): usize {
  const half = (index >> 2) & 1;
  // Rows begin four entries after a multiple of eight: the first half of a group has an odd quarter.
  return half == 1 ? field + (index << 2) : field + (index << 2) - 8;
}

/**
 * Coarse right-hand side = half the sum of the eight children's residual b - A x, without storing the residual. After a sweep that ended with colour 1 the
 * residual of those cells is 0 but for rounding: only colour 0 is looked at.
 */
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
  for (let t = begin; t < end; ++t) {
    const rec = <usize>load<u32>(ctx, TILES) + (<usize>t << TILE_SHIFT);
    const base = <usize>load<i32>(rec, T_BASE) << 2;
    const cut = cutOf(rec);
    const run = cut == 0 ? runOf(rec, end - t) : 1;
    const coarse = <usize>load<i32>(rec, T_COARSE);
    for (let k: usize = 0; k < 4; ++k) {
      for (let j: usize = 0; j < 4; ++j) {
        const o = base + (k << 1) * sp + (j << 1) * sx;
        const to = coarse + k * <usize>coarseSp + j * <usize>coarseSx;
        if (cut != 0) {
          const q = cut + (((k << 4) + (j << 1)) << 5);
          keepCoarse(coarseB, to, fourRows(x + o, b + o, diag, o, sx, sp, q));
        } else {
          for (let n: usize = 0; n < <usize>run; ++n) {
            const p = n << 5;
            keepCoarse(coarseB, to + (n << 2), fourRows(x + o + p, b + o + p, diag, o + p, sx, sp, 0));
          }
        }
      }
    }
    t += run - 1;
  }
}

/** Half the sum of the residuals of four rows' cells of colour 0: lane i of either colour lies over coarse cell i. */
@inline
function fourRows(x: usize, b: usize, diag: usize, o: usize, sx: usize, sp: usize, q: usize): v128 {
  const a = residualOf(x, b, diag + (o >> 2), 0, sx, sp, q);
  const c = residualOf(x + sx, b + sx, diag + ((o + sx) >> 2), 16, sx, sp, q == 0 ? 0 : q + 32);
  const d = residualOf(x + sp, b + sp, diag + ((o + sp) >> 2), 16, sx, sp, q == 0 ? 0 : q + 256);
  const e = residualOf(x + sp + sx, b + sp + sx, diag + ((o + sp + sx) >> 2), 0, sx, sp, q == 0 ? 0 : q + 288);
  return f32x4.mul(f32x4.splat(0.5), f32x4.add(f32x4.add(a, c), f32x4.add(d, e)));
}

@inline
function keepCoarse(field: usize, index: usize, sum: v128): void {
  const to = coarseGroup(field, index);
  const apart = v128.shuffle<f32>(sum, sum, 0, 2, 1, 3);
  v128.store64_lane(to, apart, 0);
  v128.store64_lane(to, apart, 1, 16);
}

@inline
function residualOf(x: usize, b: usize, diag: usize, odd: usize, sx: usize, sp: usize, q: usize): v128 {
  const d = diagonal(diag, odd, q);
  return v128.and(f32x4.sub(v128.load(b + odd), operator(x, d, odd, sx, sp, q)), f32x4.gt(d, f32x4.splat(0)));
}

/** x += coarse x over it, on unknown cells of colour 0: the sweep that follows begins with colour 1, and reads none of it. */
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
      const from = coarseGroup(coarseX, coarse + (row >> 4) * <usize>coarseSp + ((row & 7) >> 1) * <usize>coarseSx);
      const c = v128.shuffle<f32>(v128.load64_zero(from), v128.load64_zero(from, 16), 0, 4, 1, 5);
      const odd = (((row >> 3) + row) & 1) << 4;
      const p = x + (o << 2) + odd;
      v128.store(p, f32x4.add(v128.load(p), v128.and(c, f32x4.gt(bytesToFloats(diag + o + (odd >> 2)), zero))));
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

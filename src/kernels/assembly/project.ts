// Divergence, pressure gradient, closed faces and what lies behind them.
import { SX, SP, TILES, STATUS, TILE_SHIFT, T_BASE, T_CUT, T_FLAGS, CUT_STRIDE } from './layout';

@inline
function bytes(p: usize): v128 {
  return i32x4.extend_low_i16x8_u(i16x8.extend_low_i8x16_u(v128.load32_zero(p)));
}

@inline
function dotInto(sum: v128, a: v128): v128 {
  const low = f64x2.promote_low_f32x4(a);
  const high = f64x2.promote_low_f32x4(v128.shuffle<u64>(a, a, 1, 0));
  return f64x2.add(sum, f64x2.add(f64x2.mul(low, low), f64x2.mul(high, high)));
}

/** b = minus the flux out of each unknown cell (metres a second, face area 1); per tile the f64 square sum of b. */
export function divergence(
  begin: i32,
  end: i32,
  ctx: usize,
  u: usize,
  v: usize,
  w: usize,
  b: usize,
  partial: usize,
): void {
  const sx = <usize>load<i32>(ctx, SX) << 2;
  const sp = <usize>load<i32>(ctx, SP) << 2;
  const status = <usize>load<u32>(ctx, STATUS);
  for (let t = begin; t < end; ++t) {
    const rec = <usize>load<u32>(ctx, TILES) + (<usize>t << TILE_SHIFT);
    const base = <usize>load<i32>(rec, T_BASE);
    const cut = <usize>load<u32>(rec, T_CUT);
    let sum = f64x2.splat(0);
    for (let row: usize = 0; row < 64; ++row) {
      for (let h: usize = 0; h < 8; h += 4) {
        const o = (base << 2) + (row >> 3) * sp + (row & 7) * sx + (h << 2);
        let um = v128.load(u + o);
        let up = v128.load(u + o + 4);
        let vm = v128.load(v + o);
        let vp = v128.load(v + o + sx);
        let wm = v128.load(w + o);
        let wp = v128.load(w + o + sp);
        if (cut != 0) {
          const q = cut + (row << 5) + (h << 2);
          um = f32x4.mul(um, v128.load(q));
          up = f32x4.mul(up, v128.load(q + CUT_STRIDE));
          vm = f32x4.mul(vm, v128.load(q + 2 * CUT_STRIDE));
          vp = f32x4.mul(vp, v128.load(q + 3 * CUT_STRIDE));
          wm = f32x4.mul(wm, v128.load(q + 4 * CUT_STRIDE));
          wp = f32x4.mul(wp, v128.load(q + 5 * CUT_STRIDE));
        }
        const out = f32x4.add(f32x4.add(f32x4.sub(um, up), f32x4.sub(vm, vp)), f32x4.sub(wm, wp));
        const value = v128.and(out, i32x4.eq(bytes(status + (o >> 2)), i32x4.splat(1)));
        v128.store(b + o, value);
        sum = dotInto(sum, value);
      }
    }
    store<f64>(partial + (<usize>t << 3), f64x2.extract_lane(sum, 0) + f64x2.extract_lane(sum, 1));
  }
}

@inline
function gradientRow(field: usize, x: usize, status: usize, o: usize, s: usize, cutFace: usize): void {
  const here = bytes(status + (o >> 2));
  const there = bytes(status + ((o - s) >> 2));
  const two = i32x4.splat(2);
  // A face to an open cell lies half a voxel from the unknown: twice the difference.
  const open = v128.or(i32x4.eq(here, two), i32x4.eq(there, two));
  const factor = v128.bitselect(f32x4.splat(2), f32x4.splat(1), open);
  let d = f32x4.mul(factor, f32x4.sub(v128.load(x + o), v128.load(x + o - s)));
  if (cutFace != 0) d = v128.and(d, f32x4.gt(v128.load(cutFace), f32x4.splat(0)));
  v128.store(field + o, f32x4.sub(v128.load(field + o), d));
}

/** Subtracts the gradient of x (= p dt / (rho h), metres a second) from the low faces of the tiles' cells. */
export function subtractGradient(
  begin: i32,
  end: i32,
  ctx: usize,
  u: usize,
  v: usize,
  w: usize,
  x: usize,
): void {
  const sx = <usize>load<i32>(ctx, SX) << 2;
  const sp = <usize>load<i32>(ctx, SP) << 2;
  const status = <usize>load<u32>(ctx, STATUS);
  for (let t = begin; t < end; ++t) {
    const rec = <usize>load<u32>(ctx, TILES) + (<usize>t << TILE_SHIFT);
    const base = <usize>load<i32>(rec, T_BASE);
    const cut = <usize>load<u32>(rec, T_CUT);
    for (let row: usize = 0; row < 64; ++row) {
      for (let h: usize = 0; h < 8; h += 4) {
        const o = (base << 2) + (row >> 3) * sp + (row & 7) * sx + (h << 2);
        const q = cut == 0 ? 0 : cut + (row << 5) + (h << 2);
        gradientRow(u, x, status, o, 4, q);
        gradientRow(v, x, status, o, sx, cut == 0 ? 0 : q + 2 * CUT_STRIDE);
        gradientRow(w, x, status, o, sp, cut == 0 ? 0 : q + 4 * CUT_STRIDE);
      }
    }
  }
}

/** The same for single faces (index, i, j, k): the open ones that belong to inactive tiles. */
export function subtractGradientList(
  begin: i32,
  end: i32,
  faces: usize,
  field: usize,
  x: usize,
  stride: i32,
): void {
  for (let n = begin; n < end; ++n) {
    const o = <usize>load<i32>(faces + (<usize>n << 4)) << 2;
    const d = load<f32>(x + o) - load<f32>(x + o - (<usize>stride << 2));
    store<f32>(field + o, load<f32>(field + o) - 2 * d);
  }
}

/**
 * Closed low faces of one component in cut tiles: 0 (a solid at rest) where a cell beside them is not solid, else the mean of
 * their neighbours that are open, so that a trace along a wall samples the flow's speed.
 * `begin` and `end` count records that have a cut block; `face` is 0, 2, 4: the component's array in the block.
 * Reads `field`, writes `target`; entries not closed are copied.
 */
export function closeFaces(
  begin: i32,
  end: i32,
  ctx: usize,
  records: usize,
  field: usize,
  stride: i32,
  face: i32,
  target: usize,
): void {
  const sx = load<i32>(ctx, SX);
  const sp = load<i32>(ctx, SP);
  const status = <usize>load<u32>(ctx, STATUS);
  for (let t = begin; t < end; ++t) {
    const rec = records + (<usize>t << TILE_SHIFT);
    const base = load<i32>(rec, T_BASE);
    const cut = <usize>load<u32>(rec, T_CUT) + <usize>face * CUT_STRIDE;
    for (let n = 0; n < 512; ++n) {
      const o = base + (n >> 6) * sp + ((n >> 3) & 7) * sx + (n & 7);
      const out = target + (<usize>(t * 512 + n) << 2);
      if (load<f32>(cut + (<usize>n << 2)) > 0) {
        store<f32>(out, load<f32>(field + (<usize>o << 2)));
        continue;
      }
      if (load<u8>(status + <usize>o) != 0 || load<u8>(status + <usize>(o - stride)) != 0) {
        store<f32>(out, 0);
        continue;
      }
      let sum: f32 = 0;
      let count: f32 = 0;
      for (let m = 0; m < 6; ++m) {
        const step = m < 2 ? 1 : m < 4 ? sx : sp;
        const q = o + ((m & 1) == 0 ? -step : step);
        // A neighbouring face is open, or on a wall, when a cell beside it is not solid.
        if (load<u8>(status + <usize>q) != 0 || load<u8>(status + <usize>(q - stride)) != 0) {
          sum += load<f32>(field + (<usize>q << 2));
          count += 1;
        }
      }
      store<f32>(out, count > 0 ? sum / count : 0);
    }
  }
}

/** Cell values inside solids next to fluid: the mean of the fluid neighbours. Reads `field`, writes `target`. */
export function extendCells(
  begin: i32,
  end: i32,
  ctx: usize,
  records: usize,
  field: usize,
  ambient: f32,
  target: usize,
): void {
  const sx = load<i32>(ctx, SX);
  const sp = load<i32>(ctx, SP);
  const status = <usize>load<u32>(ctx, STATUS);
  for (let t = begin; t < end; ++t) {
    const rec = records + (<usize>t << TILE_SHIFT);
    const base = load<i32>(rec, T_BASE);
    for (let n = 0; n < 512; ++n) {
      const o = base + (n >> 6) * sp + ((n >> 3) & 7) * sx + (n & 7);
      const out = target + (<usize>(t * 512 + n) << 2);
      if (load<u8>(status + <usize>o) != 0) {
        store<f32>(out, load<f32>(field + (<usize>o << 2)));
        continue;
      }
      let sum: f32 = 0;
      let count: f32 = 0;
      for (let m = 0; m < 6; ++m) {
        const step = m < 2 ? 1 : m < 4 ? sx : sp;
        const q = o + ((m & 1) == 0 ? -step : step);
        if (load<u8>(status + <usize>q) != 0) {
          sum += load<f32>(field + (<usize>q << 2));
          count += 1;
        }
      }
      store<f32>(out, count > 0 ? sum / count : ambient);
    }
  }
}

/** Copies what closeFaces or extendCells wrote back into the field. */
export function scatterTiles(begin: i32, end: i32, ctx: usize, records: usize, source: usize, field: usize): void {
  const sx = <usize>load<i32>(ctx, SX) << 2;
  const sp = <usize>load<i32>(ctx, SP) << 2;
  for (let t = begin; t < end; ++t) {
    const rec = records + (<usize>t << TILE_SHIFT);
    const base = field + (<usize>load<i32>(rec, T_BASE) << 2);
    const from = source + (<usize>t << 11);
    for (let row: usize = 0; row < 64; ++row) {
      const p = base + (row >> 3) * sp + (row & 7) * sx;
      v128.store(p, v128.load(from + (row << 5)));
      v128.store(p, v128.load(from + (row << 5), 16), 16);
    }
  }
}

/** In tiles that reach beyond an open wall (flag bit 0): open cells get the ambient value. */
export function clearOpenCells(begin: i32, end: i32, ctx: usize, field: usize, ambient: f32): void {
  const sx = load<i32>(ctx, SX);
  const sp = load<i32>(ctx, SP);
  const status = <usize>load<u32>(ctx, STATUS);
  for (let t = begin; t < end; ++t) {
    const rec = <usize>load<u32>(ctx, TILES) + (<usize>t << TILE_SHIFT);
    if ((load<i32>(rec, T_FLAGS) & 1) == 0) continue;
    const base = load<i32>(rec, T_BASE);
    for (let n = 0; n < 512; ++n) {
      const o = base + (n >> 6) * sp + ((n >> 3) & 7) * sx + (n & 7);
      if (load<u8>(status + <usize>o) == 2) store<f32>(field + (<usize>o << 2), ambient);
    }
  }
}

/** The same for faces: those with no unknown cell on either side. */
export function clearOpenFaces(begin: i32, end: i32, ctx: usize, field: usize, stride: i32, ambient: f32): void {
  const sx = load<i32>(ctx, SX);
  const sp = load<i32>(ctx, SP);
  const status = <usize>load<u32>(ctx, STATUS);
  for (let t = begin; t < end; ++t) {
    const rec = <usize>load<u32>(ctx, TILES) + (<usize>t << TILE_SHIFT);
    if ((load<i32>(rec, T_FLAGS) & 1) == 0) continue;
    const base = load<i32>(rec, T_BASE);
    for (let n = 0; n < 512; ++n) {
      const o = base + (n >> 6) * sp + ((n >> 3) & 7) * sx + (n & 7);
      const here = load<u8>(status + <usize>o);
      const there = load<u8>(status + <usize>(o - stride));
      if (here != 1 && there != 1 && (here == 2 || there == 2)) store<f32>(field + (<usize>o << 2), ambient);
    }
  }
}

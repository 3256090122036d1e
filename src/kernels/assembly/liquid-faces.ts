// Velocities beyond the liquid, and along walls.
import { SX, SP, TILES, STATUS, TILE_SHIFT, T_BASE, T_CUT, CUT_STRIDE } from './layout';

/**
 * One layer: faces that are not known take the mean of those beside that were known before this layer; they are known as `layer` + 1 then. `other`: a second
 * field that goes with it, or 0.
 */
export function spreadFaces(begin: i32, end: i32, ctx: usize, field: usize, other: usize, known: usize, layer: i32): void {
  const sx = <usize>load<i32>(ctx, SX);
  const sp = <usize>load<i32>(ctx, SP);
  for (let t = begin; t < end; ++t) {
    const base = <usize>load<i32>(<usize>load<u32>(ctx, TILES) + (<usize>t << TILE_SHIFT), T_BASE);
    for (let row: usize = 0; row < 64; ++row) {
      const at = base + (row >> 3) * sp + (row & 7) * sx;
      // Most rows are known, or far from all that is.
      const own = load<u64>(known + at);
      if (own != 0 && ((own - 0x0101010101010101) & ~own & 0x8080808080808080) == 0) continue;
      if (
        (own | load<u64>(known + at - sx) | load<u64>(known + at + sx) | load<u64>(known + at - sp) | load<u64>(known + at + sp)) == 0 &&
        load<u8>(known + at - 1) == 0 &&
        load<u8>(known + at + 8) == 0
      )
        continue;
      for (let n = at; n < at + 8; ++n) {
        if (load<u8>(known + n) != 0) continue;
        let sum: f32 = 0;
        let sum2: f32 = 0;
        let count: i32 = 0;
        for (let s = 0; s < 6; ++s) {
          const step: usize = s < 2 ? <usize>1 : s < 4 ? sx : sp;
          const m: usize = s & 1 ? n + step : n - step;
          const from = <i32>load<u8>(known + m);
          if (from == 0 || from > layer) continue;
          sum += load<f32>(field + (m << 2));
          if (other != 0) sum2 += load<f32>(other + (m << 2));
          ++count;
        }
        if (count == 0) continue;
        store<f32>(field + (n << 2), sum / <f32>count);
        if (other != 0) store<f32>(other + (n << 2), sum2 / <f32>count);
        store<u8>(known + n, <u8>(layer + 1));
      }
    }
  }
}

/** field += value on all faces of the tiles that are known. */
export function addToKnown(begin: i32, end: i32, ctx: usize, field: usize, known: usize, value: f32): void {
  const sx = <usize>load<i32>(ctx, SX);
  const sp = <usize>load<i32>(ctx, SP);
  for (let t = begin; t < end; ++t) {
    const base = <usize>load<i32>(<usize>load<u32>(ctx, TILES) + (<usize>t << TILE_SHIFT), T_BASE);
    for (let row: usize = 0; row < 64; ++row) {
      const at = base + (row >> 3) * sp + (row & 7) * sx;
      for (let n = at; n < at + 8; ++n) if (load<u8>(known + n) != 0) store<f32>(field + (n << 2), load<f32>(field + (n << 2)) + value);
    }
  }
}

/** Known bytes of the tiles become 0. */
export function forgetFaces(begin: i32, end: i32, ctx: usize, known: usize): void {
  const sx = <usize>load<i32>(ctx, SX);
  const sp = <usize>load<i32>(ctx, SP);
  for (let t = begin; t < end; ++t) {
    const base = <usize>load<i32>(<usize>load<u32>(ctx, TILES) + (<usize>t << TILE_SHIFT), T_BASE);
    for (let row: usize = 0; row < 64; ++row) store<u64>(known + base + (row >> 3) * sp + (row & 7) * sx, 0);
  }
}

/** into = field - other, on the tiles. */
export function differenceOf(begin: i32, end: i32, ctx: usize, field: usize, other: usize, into: usize): void {
  const sx = <usize>load<i32>(ctx, SX) << 2;
  const sp = <usize>load<i32>(ctx, SP) << 2;
  for (let t = begin; t < end; ++t) {
    const base = <usize>load<i32>(<usize>load<u32>(ctx, TILES) + (<usize>t << TILE_SHIFT), T_BASE) << 2;
    for (let row: usize = 0; row < 64; ++row) {
      for (let h: usize = 0; h < 32; h += 16) {
        const o = base + (row >> 3) * sp + (row & 7) * sx + h;
        v128.store(into + o, f32x4.sub(v128.load(field + o), v128.load(other + o)));
      }
    }
  }
}

@inline
function meanOf(field: usize, o: usize, along: usize, across: usize): f32 {
  // The four faces of another component around a face.
  return (
    <f32>0.25 *
    (load<f32>(field + (o << 2)) +
      load<f32>(field + ((o - along) << 2)) +
      load<f32>(field + ((o + across) << 2)) +
      load<f32>(field + ((o + across - along) << 2)))
  );
}

/** A corner's solid distance within a tile. */
@inline
function corner(corners: usize, i: usize, j: usize, k: usize): f32 {
  return load<f32>(corners + ((k * 81 + j * 9 + i) << 2));
}

/**
 * Closed low faces of one component: of the velocity that has been spread there what goes into the wall is taken off, what runs along it stays (a wall that liquid
 * slips along). Walls that move give `wall` (a field of their velocity, of this component first), or 0. Reads the three components, writes `into`; faces that are
 * not closed are copied.
 */
export function slipFaces(
  begin: i32,
  end: i32,
  ctx: usize,
  sdf: usize,
  axis: i32,
  u: usize,
  v: usize,
  w: usize,
  wallU: usize,
  wallV: usize,
  wallW: usize,
  into: usize,
): void {
  const sx = <usize>load<i32>(ctx, SX);
  const sp = <usize>load<i32>(ctx, SP);
  const own = axis == 0 ? u : axis == 1 ? v : w;
  const ax: usize = axis == 0 ? <usize>1 : axis == 1 ? sx : sp;
  const face = <usize>(2 * axis);
  for (let t = begin; t < end; ++t) {
    const rec = <usize>load<u32>(ctx, TILES) + (<usize>t << TILE_SHIFT);
    const base = <usize>load<i32>(rec, T_BASE);
    const cut = <usize>load<u32>(rec, T_CUT);
    const corners = <usize>load<u32>(sdf + (<usize>t << 2));
    for (let row: usize = 0; row < 64; ++row) {
      const at = base + (row >> 3) * sp + (row & 7) * sx;
      if (cut == 0 || corners == 0) {
        v128.store(into + (at << 2), v128.load(own + (at << 2)));
        v128.store(into + (at << 2), v128.load(own + (at << 2), 16), 16);
        continue;
      }
      const j = row & 7;
      const k = row >> 3;
      for (let i: usize = 0; i < 8; ++i) {
        const o = at + i;
        const value = load<f32>(own + (o << 2));
        if (load<f32>(cut + ((row * 8 + i) << 2) + face * CUT_STRIDE) > 0) {
          store<f32>(into + (o << 2), value);
          continue;
        }
        // The direction out of the wall, from the corners of the cell behind the face.
        const gx =
          corner(corners, i + 1, j, k) + corner(corners, i + 1, j + 1, k) + corner(corners, i + 1, j, k + 1) + corner(corners, i + 1, j + 1, k + 1) -
          corner(corners, i, j, k) - corner(corners, i, j + 1, k) - corner(corners, i, j, k + 1) - corner(corners, i, j + 1, k + 1);
        const gy =
          corner(corners, i, j + 1, k) + corner(corners, i + 1, j + 1, k) + corner(corners, i, j + 1, k + 1) + corner(corners, i + 1, j + 1, k + 1) -
          corner(corners, i, j, k) - corner(corners, i + 1, j, k) - corner(corners, i, j, k + 1) - corner(corners, i + 1, j, k + 1);
        const gz =
          corner(corners, i, j, k + 1) + corner(corners, i + 1, j, k + 1) + corner(corners, i, j + 1, k + 1) + corner(corners, i + 1, j + 1, k + 1) -
          corner(corners, i, j, k) - corner(corners, i + 1, j, k) - corner(corners, i, j + 1, k) - corner(corners, i + 1, j + 1, k);
        const square = gx * gx + gy * gy + gz * gz;
        if (square < <f32>1e-8) {
          store<f32>(into + (o << 2), value);
          continue;
        }
        let du = axis == 0 ? value : meanOf(u, o, ax, 1);
        let dv = axis == 1 ? value : meanOf(v, o, ax, sx);
        let dw = axis == 2 ? value : meanOf(w, o, ax, sp);
        let wall: f32 = 0;
        if (wallU != 0) {
          du -= load<f32>(wallU + (o << 2));
          dv -= load<f32>(wallV + (o << 2));
          dw -= load<f32>(wallW + (o << 2));
          wall = load<f32>((axis == 0 ? wallU : axis == 1 ? wallV : wallW) + (o << 2));
        }
        const inwards = (du * gx + dv * gy + dw * gz) / square;
        const own1 = value - wall;
        const g = axis == 0 ? gx : axis == 1 ? gy : gz;
        store<f32>(into + (o << 2), wall + own1 - inwards * g);
      }
    }
  }
}

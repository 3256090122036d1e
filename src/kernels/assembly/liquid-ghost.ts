// The surface in the pressure's system: its diagonal, its right hand side, and the gradient across it (ghost fluid, Gibou et al. 2002).
import { SX, SP, TILES, STATUS, TILE_SHIFT, T_BASE, T_CUT, T_FLAGS, CUT_STRIDE } from './layout';

/** Each item: a tile of the pressure. Whether it has a liquid cell with air beside it. */
export function findSurface(begin: i32, end: i32, ctx: usize, flags: usize): void {
  const sx = <usize>load<i32>(ctx, SX);
  const sp = <usize>load<i32>(ctx, SP);
  const status = <usize>load<u32>(ctx, STATUS);
  for (let t = begin; t < end; ++t) {
    const base = <usize>load<i32>(<usize>load<u32>(ctx, TILES) + (<usize>t << TILE_SHIFT), T_BASE);
    let found: u8 = 0;
    for (let n: usize = 0; n < 512 && found == 0; ++n) {
      const s = status + base + (n >> 6) * sp + ((n >> 3) & 7) * sx + (n & 7);
      if (load<u8>(s) != 1) continue;
      if (
        load<u8>(s - 1) == 2 ||
        load<u8>(s + 1) == 2 ||
        load<u8>(s - sx) == 2 ||
        load<u8>(s + sx) == 2 ||
        load<u8>(s - sp) == 2 ||
        load<u8>(s + sp) == 2
      )
        found = 1;
    }
    store<u8>(flags + <usize>t, found);
  }
}

/** Nearest that the surface may lie to a cell's middle, as part of the way to the next: a matrix must not become singular. */
const NEAREST: f32 = 0.02;
/** Bit of a record's flags: see poisson.ts. */
const WHOLE_FACES: i32 = 2;

/** How far from liquid to air the surface lies, as part of the way. */
@inline
export function crossing(liquid: f32, air: f32): f32 {
  return max<f32>(NEAREST, min<f32>(1, liquid / (liquid - air)));
}

/** The pressure's unknown where the surface crosses the way from a wet cell to a dry one. */
@inline
export function atSurface(curved: usize, wet: usize, dry: usize, part: f32): f32 {
  return load<f32>(curved + (wet << 2)) + (load<f32>(curved + (dry << 2)) - load<f32>(curved + (wet << 2))) * part;
}

/**
 * The diagonal of cells at the surface (ghost fluid, Gibou et al. 2002): the pressure is 0 where the surface crosses the way to the next cell, not at the face.
 * Behind an open wall it is 0 at the face, as for gas. Tiles without a cut block have no such cell.
 */
export function surfaceDiagonal(begin: i32, end: i32, ctx: usize, solid: usize, phi: usize): void {
  const sx = <usize>load<i32>(ctx, SX);
  const sp = <usize>load<i32>(ctx, SP);
  const status = <usize>load<u32>(ctx, STATUS);
  for (let t = begin; t < end; ++t) {
    const rec = <usize>load<u32>(ctx, TILES) + (<usize>t << TILE_SHIFT);
    const cut = <usize>load<u32>(rec, T_CUT);
    if (cut == 0) continue;
    const base = <usize>load<i32>(rec, T_BASE);
    let changed = false;
    for (let n: usize = 0; n < 512; ++n) {
      const o = base + (n >> 6) * sp + ((n >> 3) & 7) * sx + (n & 7);
      if (load<u8>(status + o) != 1) continue;
      let more: f32 = 0;
      for (let face: usize = 0; face < 6; ++face) {
        const step = face < 2 ? <usize>1 : face < 4 ? sx : sp;
        const m = (face & 1) == 0 ? o - step : o + step;
        if (load<u8>(status + m) != 2 || load<u8>(solid + m) == 2) continue;
        const open = load<f32>(cut + (n << 2) + face * CUT_STRIDE);
        more += open * (1 / crossing(load<f32>(phi + (o << 2)), load<f32>(phi + (m << 2))) - 2);
      }
      if (more == 0) continue;
      changed = true;
      const at = cut + (n << 2) + 6 * CUT_STRIDE;
      store<f32>(at, load<f32>(at) + more);
    }
    if (changed) store<i32>(rec, load<i32>(rec, T_FLAGS) & ~WHOLE_FACES, T_FLAGS);
  }
}

/** b += what the pressure at the surface pushes: the right hand side of surfaceDiagonal's system. */
export function pushSurface(begin: i32, end: i32, ctx: usize, solid: usize, phi: usize, curved: usize, b: usize): void {
  const sx = <usize>load<i32>(ctx, SX);
  const sp = <usize>load<i32>(ctx, SP);
  const status = <usize>load<u32>(ctx, STATUS);
  for (let t = begin; t < end; ++t) {
    const rec = <usize>load<u32>(ctx, TILES) + (<usize>t << TILE_SHIFT);
    const cut = <usize>load<u32>(rec, T_CUT);
    if (cut == 0) continue;
    const base = <usize>load<i32>(rec, T_BASE);
    for (let n: usize = 0; n < 512; ++n) {
      const o = base + (n >> 6) * sp + ((n >> 3) & 7) * sx + (n & 7);
      if (load<u8>(status + o) != 1) continue;
      let more: f32 = 0;
      for (let face: usize = 0; face < 6; ++face) {
        const step = face < 2 ? <usize>1 : face < 4 ? sx : sp;
        const m = (face & 1) == 0 ? o - step : o + step;
        if (load<u8>(status + m) != 2 || load<u8>(solid + m) == 2) continue;
        const part = crossing(load<f32>(phi + (o << 2)), load<f32>(phi + (m << 2)));
        more += (load<f32>(cut + (n << 2) + face * CUT_STRIDE) * atSurface(curved, o, m, part)) / part;
      }
      store<f32>(b + (o << 2), load<f32>(b + (o << 2)) + more);
    }
  }
}

/** Known byte of a face along the liquid that a cell hangs on, until it has been pushed. */
const HANGING: u8 = 255;
/** Of one that has been pushed, and of one with nothing beside it that was. */
const PUSHED: u8 = 254;
const ALONE: u8 = 253;

/** Farthest from the surface that a cell of air still belongs to the liquid below it, voxels. */
const ATTACHED: f32 = 1;

/**
 * Whether a cell of air hangs on liquid beside it: up to half a voxel of liquid lies in it. Its other faces feel no pressure, and if they kept what particles and
 * gravity gave them the half layer would fall onto the liquid below, to be lifted again by the volume correction: pools boiled and waves grew by 9 % a period.
 */
@inline
function hangsOn(c: usize, sx: usize, sp: usize, status: usize, solid: usize, phi: usize): bool {
  if (load<u8>(solid + c) != 1 || load<f32>(phi + (c << 2)) >= ATTACHED) return false;
  const s = status + c;
  return (
    load<u8>(s - 1) == 1 ||
    load<u8>(s + 1) == 1 ||
    load<u8>(s - sx) == 1 ||
    load<u8>(s + sx) == 1 ||
    load<u8>(s - sp) == 1 ||
    load<u8>(s + sp) == 1
  );
}

/**
 * Takes the gradient of x (= p dt / (rho h), m/s) off the low faces of the tiles' cells where liquid is on one side. What it changed is known (1) from then on;
 * faces that only particles gave a velocity keep it, but for those of cells that hang on the liquid: these are spread from what the pressure made. `curved`: the pressure that tension gives the surface (liquid-tension.ts), or 0.
 */
export function subtractLiquidGradient(
  begin: i32,
  end: i32,
  ctx: usize,
  solid: usize,
  phi: usize,
  x: usize,
  field: usize,
  known: usize,
  stride: i32,
  face: i32,
  curved: usize,
): void {
  const sx = <usize>load<i32>(ctx, SX);
  const sp = <usize>load<i32>(ctx, SP);
  const status = <usize>load<u32>(ctx, STATUS);
  const step = <usize>stride;
  for (let t = begin; t < end; ++t) {
    const rec = <usize>load<u32>(ctx, TILES) + (<usize>t << TILE_SHIFT);
    const cut = <usize>load<u32>(rec, T_CUT);
    const base = <usize>load<i32>(rec, T_BASE);
    for (let n: usize = 0; n < 512; ++n) {
      const o = base + (n >> 6) * sp + ((n >> 3) & 7) * sx + (n & 7);
      const m = o - step;
      const here = load<u8>(status + o);
      const there = load<u8>(status + m);
      if (cut != 0 && load<f32>(cut + (n << 2) + <usize>face * CUT_STRIDE) <= 0) {
        store<u8>(known + o, 0);
        continue;
      }
      if (here != 1 && there != 1) {
        // Spread before the pressure, but no liquid is there: it is spread anew from what the pressure made.
        const from = load<u8>(known + o);
        if (from == 0) continue;
        if (here == 0 || there == 0 || from > 1) store<u8>(known + o, 0);
        else {
          const low = hangsOn(m, sx, sp, status, solid, phi);
          const high = hangsOn(o, sx, sp, status, solid, phi);
          // Away from the liquid as fast as the liquid itself: the cell keeps its volume. Along the liquid it keeps its own shear, and is pushed as the liquid is.
          if ((low && load<u8>(status + m - step) == 1) || (high && load<u8>(status + o + step) == 1)) store<u8>(known + o, 0);
          else if (low || high) store<u8>(known + o, HANGING);
        }
        continue;
      }
      const at = o << 2;
      let d: f32 = 0;
      if (here == 1 && there == 1) d = load<f32>(x + at) - load<f32>(x + (m << 2));
      else if (here == 0 || there == 0) {
        store<u8>(known + o, 0);
        continue;
      } else {
        const wet = here == 1 ? o : m;
        const dry = here == 1 ? m : o;
        const theta = load<u8>(solid + dry) == 2 ? <f32>0.5 : crossing(load<f32>(phi + (wet << 2)), load<f32>(phi + (dry << 2)));
        const jump: f32 = curved == 0 || load<u8>(solid + dry) == 2 ? 0 : atSurface(curved, wet, dry, theta);
        d = (load<f32>(x + (wet << 2)) - jump) / theta;
        if (wet == m) d = -d;
      }
      store<f32>(field + at, load<f32>(field + at) - d);
      store<u8>(known + o, 1);
    }
  }
}

/**
 * Faces that hang on the liquid change by as much as those beside them that the pressure knows. `before`: the field before forces and pressure, or 0: nothing. As
 * velocities carried on from the liquid they lost the spin of what turns (a box lost 3 % in half a second).
 */
export function pushHanging(begin: i32, end: i32, ctx: usize, field: usize, before: usize, known: usize): void {
  const sx = <usize>load<i32>(ctx, SX);
  const sp = <usize>load<i32>(ctx, SP);
  for (let t = begin; t < end; ++t) {
    const base = <usize>load<i32>(<usize>load<u32>(ctx, TILES) + (<usize>t << TILE_SHIFT), T_BASE);
    for (let n: usize = 0; n < 512; ++n) {
      const o = base + (n >> 6) * sp + ((n >> 3) & 7) * sx + (n & 7);
      if (load<u8>(known + o) != HANGING) continue;
      let sum: f32 = 0;
      let count = 0;
      for (let face = 0; face < 6; ++face) {
        const step = face < 2 ? <usize>1 : face < 4 ? sx : sp;
        const m = (face & 1) == 0 ? o - step : o + step;
        if (load<u8>(known + m) != 1) continue;
        sum += load<f32>(field + (m << 2));
        if (before != 0) sum -= load<f32>(before + (m << 2));
        ++count;
      }
      if (count > 0) store<f32>(field + (o << 2), (before == 0 ? <f32>0 : load<f32>(before + (o << 2))) + sum / <f32>count);
      store<u8>(known + o, count > 0 ? PUSHED : ALONE);
    }
  }
}

/** After pushHanging: faces that were pushed are known, the others are spread. */
export function settleHanging(begin: i32, end: i32, ctx: usize, known: usize): void {
  const sx = <usize>load<i32>(ctx, SX);
  const sp = <usize>load<i32>(ctx, SP);
  for (let t = begin; t < end; ++t) {
    const base = <usize>load<i32>(<usize>load<u32>(ctx, TILES) + (<usize>t << TILE_SHIFT), T_BASE);
    for (let n: usize = 0; n < 512; ++n) {
      const o = known + base + (n >> 6) * sp + ((n >> 3) & 7) * sx + (n & 7);
      const from = load<u8>(o);
      if (from == PUSHED) store<u8>(o, 1);
      else if (from == ALONE) store<u8>(o, 0);
    }
  }
}

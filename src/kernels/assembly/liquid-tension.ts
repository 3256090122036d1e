// Surface tension: how the surface is curved, and what its pressure adds to the system.
//
// The fraction of liquid in cells is smoothed and its level sets' curvature taken (Brackbill, Kothe, Zemach 1992): those of a ball are balls, so that it is right
// on either side of the surface. The pressure jump goes where the ghost-fluid surface lies (Gibou et al. 2002), not into a body force.
import { SX, SP, TILES, TILE_SHIFT, T_BASE } from './layout';
import { RADIUS } from './liquid-skin';

/** Most that a surface is curved, over a voxel: a drop of one voxel across. */
const MOST_CURVED: f32 = 4;
/** Least slope of the smoothed fraction, a voxel, that a direction is taken from. */
const LEAST_SLOPE: f32 = 1e-3;

@inline
function at(field: usize, o: usize): f32 {
  return load<f32>(field + (o << 2));
}

/** Part of each cell that the surface leaves to the liquid. */
export function liquidFraction(begin: i32, end: i32, ctx: usize, solid: usize, phi: usize, into: usize): void {
  const sx = <usize>load<i32>(ctx, SX);
  const sp = <usize>load<i32>(ctx, SP);
  for (let t = begin; t < end; ++t) {
    const base = <usize>load<i32>(<usize>load<u32>(ctx, TILES) + (<usize>t << TILE_SHIFT), T_BASE);
    for (let n: usize = 0; n < 512; ++n) {
      const o = base + (n >> 6) * sp + ((n >> 3) & 7) * sx + (n & 7);
      const value: f32 = load<u8>(solid + o) == 0 ? 0 : max<f32>(0, min<f32>(1, <f32>0.5 - at(phi, o)));
      store<f32>(into + (o << 2), value);
    }
  }
}

/**
 * into = the mean of the 27 cells around, each weighing 1, 2 or 4 along each axis by how near it is; cells in solids count for nothing and take what is around
 * them: the surface meets walls upright.
 */
export function smoothFraction(begin: i32, end: i32, ctx: usize, solid: usize, from: usize, into: usize): void {
  const sx = <usize>load<i32>(ctx, SX);
  const sp = <usize>load<i32>(ctx, SP);
  for (let t = begin; t < end; ++t) {
    const base = <usize>load<i32>(<usize>load<u32>(ctx, TILES) + (<usize>t << TILE_SHIFT), T_BASE);
    for (let row: usize = 0; row < 64; ++row) {
      const first = base + (row >> 3) * sp + (row & 7) * sx;
      // Most rows lie in the middle of liquid or air, where nothing has to be evened out.
      const level = at(from, first);
      let even = true;
      for (let q: usize = 0; even && q < 9; ++q) {
        const o = first + (q / 3) * sp + (q % 3) * sx - sp - sx - 1;
        for (let i: usize = 0; i < 10; ++i) if (at(from, o + i) != level) even = false;
      }
      for (let i: usize = 0; i < 8; ++i) {
        const o = first + i;
        let value = level;
        if (!even) {
          let sum: f32 = 0;
          let all: f32 = 0;
          for (let m: usize = 0; m < 27; ++m) {
            const q = o + (m / 9) * sp + ((m / 3) % 3) * sx + (m % 3) - sp - sx - 1;
            if (load<u8>(solid + q) == 0) continue;
            const weight: f32 = (m / 9 == 1 ? <f32>2 : <f32>1) * ((m / 3) % 3 == 1 ? <f32>2 : <f32>1) * (m % 3 == 1 ? <f32>2 : <f32>1);
            sum += weight * at(from, q);
            all += weight;
          }
          value = all > 0 ? sum / all : at(from, o);
        }
        store<f32>(into + (o << 2), value);
      }
    }
  }
}

/**
 * into = factor x the curvature (over a voxel; positive where liquid bulges) within a voxel and a half of the surface, 0 elsewhere. factor: tension dt /
 * (density h^2), so that it is what the pressure's unknown (p dt / (density h), m/s) is at the surface.
 */
export function surfaceCurvature(begin: i32, end: i32, ctx: usize, phi: usize, fraction: usize, factor: f32, into: usize): void {
  const sx = <usize>load<i32>(ctx, SX);
  const sp = <usize>load<i32>(ctx, SP);
  for (let t = begin; t < end; ++t) {
    const base = <usize>load<i32>(<usize>load<u32>(ctx, TILES) + (<usize>t << TILE_SHIFT), T_BASE);
    for (let n: usize = 0; n < 512; ++n) {
      const o = base + (n >> 6) * sp + ((n >> 3) & 7) * sx + (n & 7);
      let value: f32 = 0;
      if (abs<f32>(at(phi, o)) < RADIUS) {
        const c = at(fraction, o);
        const xm = at(fraction, o - 1);
        const xp = at(fraction, o + 1);
        const ym = at(fraction, o - sx);
        const yp = at(fraction, o + sx);
        const zm = at(fraction, o - sp);
        const zp = at(fraction, o + sp);
        const x = <f32>0.5 * (xp - xm);
        const y = <f32>0.5 * (yp - ym);
        const z = <f32>0.5 * (zp - zm);
        const square = x * x + y * y + z * z;
        if (square > LEAST_SLOPE * LEAST_SLOPE) {
          const xx = xp + xm - 2 * c;
          const yy = yp + ym - 2 * c;
          const zz = zp + zm - 2 * c;
          const xy = <f32>0.25 * (at(fraction, o + 1 + sx) - at(fraction, o - 1 + sx) - at(fraction, o + 1 - sx) + at(fraction, o - 1 - sx));
          const xz = <f32>0.25 * (at(fraction, o + 1 + sp) - at(fraction, o - 1 + sp) - at(fraction, o + 1 - sp) + at(fraction, o - 1 - sp));
          const yz = <f32>0.25 * (at(fraction, o + sx + sp) - at(fraction, o - sx + sp) - at(fraction, o + sx - sp) + at(fraction, o - sx - sp));
          const bent = x * x * (yy + zz) + y * y * (xx + zz) + z * z * (xx + yy) - 2 * (x * y * xy + x * z * xz + y * z * yz);
          value = factor * max<f32>(-MOST_CURVED, min<f32>(MOST_CURVED, -bent / (square * sqrt<f32>(square))));
        }
      }
      store<f32>(into + (o << 2), value);
    }
  }
}

/** Farthest that a cell may lie from the smoothed surface, voxels. */
const FARTHEST: f32 = 1.5;

/**
 * into = the curvature where the smoothed surface is nearest to each cell, instead of that of the level set through the cell. What is too short to be seen by the
 * smoothed surface must get no push at all: a bump on a ball that takes the curvature of where it lies, 2 / r, is pulled out, and a drop at rest bursts after 30
 * frames.
 */
export function nearestCurvature(begin: i32, end: i32, ctx: usize, phi: usize, fraction: usize, curved: usize, into: usize): void {
  const sx = <usize>load<i32>(ctx, SX);
  const sp = <usize>load<i32>(ctx, SP);
  for (let t = begin; t < end; ++t) {
    const base = <usize>load<i32>(<usize>load<u32>(ctx, TILES) + (<usize>t << TILE_SHIFT), T_BASE);
    for (let n: usize = 0; n < 512; ++n) {
      const o = base + (n >> 6) * sp + ((n >> 3) & 7) * sx + (n & 7);
      let value: f32 = 0;
      if (abs<f32>(at(phi, o)) < RADIUS) {
        const x = <f32>0.5 * (at(fraction, o + 1) - at(fraction, o - 1));
        const y = <f32>0.5 * (at(fraction, o + sx) - at(fraction, o - sx));
        const z = <f32>0.5 * (at(fraction, o + sp) - at(fraction, o - sp));
        const square = x * x + y * y + z * z;
        if (square > LEAST_SLOPE * LEAST_SLOPE) {
          const way = max<f32>(-FARTHEST, min<f32>(FARTHEST, (<f32>0.5 - at(fraction, o)) / sqrt<f32>(square))) / sqrt<f32>(square);
          value = between(curved, o, way * x, way * y, way * z, sx, sp);
        }
      }
      store<f32>(into + (o << 2), value);
    }
  }
}

/** Between the cells around a place that lies (x, y, z) from the middle of one; cells without a curvature count for nothing. */
@inline
function between(field: usize, o: usize, x: f32, y: f32, z: f32, sx: usize, sp: usize): f32 {
  const i = floor<f32>(x);
  const j = floor<f32>(y);
  const k = floor<f32>(z);
  const corner = <i32>o + <i32>k * <i32>sp + <i32>j * <i32>sx + <i32>i;
  let sum: f32 = 0;
  let all: f32 = 0;
  for (let c = 0; c < 8; ++c) {
    const value = at(field, <usize>(corner + (c & 1) + ((c >> 1) & 1) * <i32>sx + (c >> 2) * <i32>sp));
    if (value == 0) continue;
    const weight = (c & 1 ? x - i : 1 - x + i) * (c & 2 ? y - j : 1 - y + j) * (c & 4 ? z - k : 1 - z + k);
    sum += weight * value;
    all += weight;
  }
  return all > 0 ? sum / all : 0;
}

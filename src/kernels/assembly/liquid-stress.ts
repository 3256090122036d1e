// Viscosity, implicit and with the full stress (variational: Batty & Bridson 2008), on the liquid's own cells: stresses lie at cell middles and at edges, those
// that touch air are 0 (a free surface), and a face weighs what of its two cells is liquid. Faces that a wall closes have the wall's velocity. With a constant
// viscosity or not the matrix is symmetric and positive definite.
//
// Lists of pointers: x (u, v, w), stress (xx, yy, zz, xy, xz, yz) and so on. `inverse`: of each face 1 / diagonal, 0 where it is no unknown.
import { SX, SP, TILES, STATUS, TILE_SHIFT, T_BASE, T_CUT, CUT_STRIDE } from './layout';

@inline
function item(list: usize, n: usize): usize {
  return <usize>load<u32>(list + (n << 2));
}

/** Viscosity of cells from what particles gave them. */
export function viscosityOfCells(begin: i32, end: i32, ctx: usize, thick: usize, amount: usize): void {
  const sx = <usize>load<i32>(ctx, SX);
  const sp = <usize>load<i32>(ctx, SP);
  for (let t = begin; t < end; ++t) {
    const base = <usize>load<i32>(<usize>load<u32>(ctx, TILES) + (<usize>t << TILE_SHIFT), T_BASE);
    for (let n: usize = 0; n < 512; ++n) {
      const o = (base + (n >> 6) * sp + ((n >> 3) & 7) * sx + (n & 7)) << 2;
      const held = load<f32>(amount + o);
      store<f32>(thick + o, held > <f32>1e-6 ? load<f32>(thick + o) / held : 0);
    }
  }
}

/** Of an edge: mean viscosity of its liquid cells; 0 where one of the four is air. `o`: the cell above it, `a`, `b`: steps to those beside. */
@inline
function edge(status: usize, thick: usize, o: usize, a: usize, b: usize): f32 {
  const s0 = load<u8>(status + o);
  const s1 = load<u8>(status + o - a);
  const s2 = load<u8>(status + o - b);
  const s3 = load<u8>(status + o - a - b);
  if (s0 == 2 || s1 == 2 || s2 == 2 || s3 == 2) return 0;
  let sum: f32 = 0;
  let count: f32 = 0;
  if (s0 == 1) {
    sum += load<f32>(thick + (o << 2));
    count += 1;
  }
  if (s1 == 1) {
    sum += load<f32>(thick + ((o - a) << 2));
    count += 1;
  }
  if (s2 == 1) {
    sum += load<f32>(thick + ((o - b) << 2));
    count += 1;
  }
  if (s3 == 1) {
    sum += load<f32>(thick + ((o - a - b) << 2));
    count += 1;
  }
  return count > 0 ? sum / count : 0;
}

@inline
function cell(status: usize, thick: usize, o: usize): f32 {
  return load<u8>(status + o) == 1 ? load<f32>(thick + (o << 2)) : 0;
}

/** Part of a face's volume that is liquid. */
@inline
function weightOf(status: usize, o: usize, step: usize): f32 {
  return (load<u8>(status + o) == 1 ? <f32>0.5 : 0) + (load<u8>(status + o - step) == 1 ? <f32>0.5 : 0);
}

/** Inverse diagonals: `scale` = dt / h^2. Faces that a wall closes get `closed` velocities: 0 (walls that move are set after it). */
export function prepareViscosity(begin: i32, end: i32, ctx: usize, thick: usize, x: usize, inverse: usize, scale: f32): void {
  const sx = <usize>load<i32>(ctx, SX);
  const sp = <usize>load<i32>(ctx, SP);
  const status = <usize>load<u32>(ctx, STATUS);
  for (let t = begin; t < end; ++t) {
    const rec = <usize>load<u32>(ctx, TILES) + (<usize>t << TILE_SHIFT);
    const base = <usize>load<i32>(rec, T_BASE);
    const cut = <usize>load<u32>(rec, T_CUT);
    for (let axis: usize = 0; axis < 3; ++axis) {
      const step: usize = axis == 0 ? <usize>1 : axis == 1 ? sx : sp;
      const a: usize = axis == 0 ? sx : <usize>1;
      const b: usize = axis == 2 ? sx : sp;
      const field = item(x, axis);
      const into = item(inverse, axis);
      for (let n: usize = 0; n < 512; ++n) {
        const o = base + (n >> 6) * sp + ((n >> 3) & 7) * sx + (n & 7);
        if (cut != 0 && load<f32>(cut + (n << 2) + 2 * axis * CUT_STRIDE) <= 0) {
          store<f32>(into + (o << 2), 0);
          store<f32>(field + (o << 2), 0);
          continue;
        }
        const weight = weightOf(status, o, step);
        if (weight == 0) {
          store<f32>(into + (o << 2), 0);
          continue;
        }
        const sum =
          <f32>2 * (cell(status, thick, o) + cell(status, thick, o - step)) +
          edge(status, thick, o, step, a) +
          edge(status, thick, o + a, step, a) +
          edge(status, thick, o, step, b) +
          edge(status, thick, o + b, step, b);
        store<f32>(into + (o << 2), 1 / (weight + scale * sum));
      }
    }
  }
}

/** Stresses / density of a velocity, times the voxel size: at the cell and at its three low edges. */
export function viscousStress(begin: i32, end: i32, ctx: usize, thick: usize, x: usize, stress: usize): void {
  const sx = <usize>load<i32>(ctx, SX);
  const sp = <usize>load<i32>(ctx, SP);
  const status = <usize>load<u32>(ctx, STATUS);
  const u = item(x, 0);
  const v = item(x, 1);
  const w = item(x, 2);
  for (let t = begin; t < end; ++t) {
    const base = <usize>load<i32>(<usize>load<u32>(ctx, TILES) + (<usize>t << TILE_SHIFT), T_BASE);
    for (let n: usize = 0; n < 512; ++n) {
      const o = base + (n >> 6) * sp + ((n >> 3) & 7) * sx + (n & 7);
      const at = o << 2;
      const nu: f32 = 2 * cell(status, thick, o);
      const u0 = load<f32>(u + at);
      const v0 = load<f32>(v + at);
      const w0 = load<f32>(w + at);
      store<f32>(item(stress, 0) + at, nu == 0 ? 0 : nu * (load<f32>(u + at + 4) - u0));
      store<f32>(item(stress, 1) + at, nu == 0 ? 0 : nu * (load<f32>(v + at + (sx << 2)) - v0));
      store<f32>(item(stress, 2) + at, nu == 0 ? 0 : nu * (load<f32>(w + at + (sp << 2)) - w0));
      const xy = edge(status, thick, o, 1, sx);
      const xz = edge(status, thick, o, 1, sp);
      const yz = edge(status, thick, o, sx, sp);
      store<f32>(item(stress, 3) + at, xy == 0 ? 0 : xy * (u0 - load<f32>(u + at - (sx << 2)) + v0 - load<f32>(v + at - 4)));
      store<f32>(item(stress, 4) + at, xz == 0 ? 0 : xz * (u0 - load<f32>(u + at - (sp << 2)) + w0 - load<f32>(w + at - 4)));
      store<f32>(item(stress, 5) + at, yz == 0 ? 0 : yz * (v0 - load<f32>(v + at - (sp << 2)) + w0 - load<f32>(w + at - (sx << 2))));
    }
  }
}

/** out = A x on the unknown faces, 0 elsewhere; per slot the f64 dot product of x and it. */
export function viscousApply(begin: i32, end: i32, ctx: usize, x: usize, stress: usize, inverse: usize, out: usize, scale: f32, sums: usize): void {
  const sx = <usize>load<i32>(ctx, SX);
  const sp = <usize>load<i32>(ctx, SP);
  const status = <usize>load<u32>(ctx, STATUS);
  const xy = item(stress, 3);
  const xz = item(stress, 4);
  const yz = item(stress, 5);
  for (let t = begin; t < end; ++t) {
    const base = <usize>load<i32>(<usize>load<u32>(ctx, TILES) + (<usize>t << TILE_SHIFT), T_BASE);
    let sum: f64 = 0;
    for (let axis: usize = 0; axis < 3; ++axis) {
      const step: usize = axis == 0 ? <usize>1 : axis == 1 ? sx : sp;
      const field = item(x, axis);
      const own = item(stress, axis);
      // Shear on the faces across the two other axes.
      const first = axis == 0 ? xy : axis == 1 ? xy : xz;
      const second = axis == 0 ? xz : yz;
      const a: usize = axis == 0 ? sx : <usize>1;
      const b: usize = axis == 2 ? sx : sp;
      for (let n: usize = 0; n < 512; ++n) {
        const o = base + (n >> 6) * sp + ((n >> 3) & 7) * sx + (n & 7);
        const at = o << 2;
        let value: f32 = 0;
        if (load<f32>(item(inverse, axis) + at) > 0) {
          const here = load<f32>(field + at);
          const pull =
            load<f32>(own + at) -
            load<f32>(own + at - (step << 2)) +
            load<f32>(first + at + (a << 2)) -
            load<f32>(first + at) +
            load<f32>(second + at + (b << 2)) -
            load<f32>(second + at);
          value = weightOf(status, o, step) * here - scale * pull;
          sum += <f64>(value * here);
        }
        store<f32>(item(out, axis) + at, value);
      }
    }
    store<f64>(sums + (<usize>t << 4), sum);
  }
}

/** r = (weighted) x0 - A x, p = r / diagonal; per slot, 16 bytes: r . p (f64), and the largest |r| / weight (f32). `applied` holds A x. */
export function viscousStart(
  begin: i32,
  end: i32,
  ctx: usize,
  x0: usize,
  applied: usize,
  inverse: usize,
  r: usize,
  p: usize,
  sums: usize,
): void {
  const sx = <usize>load<i32>(ctx, SX);
  const sp = <usize>load<i32>(ctx, SP);
  const status = <usize>load<u32>(ctx, STATUS);
  for (let t = begin; t < end; ++t) {
    const base = <usize>load<i32>(<usize>load<u32>(ctx, TILES) + (<usize>t << TILE_SHIFT), T_BASE);
    let sum: f64 = 0;
    let largest: f32 = 0;
    for (let axis: usize = 0; axis < 3; ++axis) {
      const step: usize = axis == 0 ? <usize>1 : axis == 1 ? sx : sp;
      for (let n: usize = 0; n < 512; ++n) {
        const o = base + (n >> 6) * sp + ((n >> 3) & 7) * sx + (n & 7);
        const at = o << 2;
        const d = load<f32>(item(inverse, axis) + at);
        const left: f32 = d > 0 ? weightOf(status, o, step) * load<f32>(item(x0, axis) + at) - load<f32>(item(applied, axis) + at) : 0;
        store<f32>(item(r, axis) + at, left);
        store<f32>(item(p, axis) + at, left * d);
        sum += <f64>(left * left * d);
        largest = max<f32>(largest, abs<f32>(left * d));
      }
    }
    store<f64>(sums + (<usize>t << 4), sum);
    store<f32>(sums + (<usize>t << 4), largest, 8);
  }
}

/** x += alpha p, r -= alpha q; per slot, 16 bytes: r . r / diagonal (f64), and the largest |r| / diagonal (f32), m/s. */
export function viscousAdvance(
  begin: i32,
  end: i32,
  ctx: usize,
  x: usize,
  p: usize,
  r: usize,
  q: usize,
  inverse: usize,
  alpha: f32,
  sums: usize,
): void {
  const sx = <usize>load<i32>(ctx, SX) << 2;
  const sp = <usize>load<i32>(ctx, SP) << 2;
  for (let t = begin; t < end; ++t) {
    const base = <usize>load<i32>(<usize>load<u32>(ctx, TILES) + (<usize>t << TILE_SHIFT), T_BASE) << 2;
    let sum: f64 = 0;
    let largest: f32 = 0;
    for (let axis: usize = 0; axis < 3; ++axis) {
      for (let n: usize = 0; n < 512; ++n) {
        const at = base + (n >> 6) * sp + ((n >> 3) & 7) * sx + ((n & 7) << 2);
        const d = load<f32>(item(inverse, axis) + at);
        if (d == 0) continue;
        store<f32>(item(x, axis) + at, load<f32>(item(x, axis) + at) + alpha * load<f32>(item(p, axis) + at));
        const left = load<f32>(item(r, axis) + at) - alpha * load<f32>(item(q, axis) + at);
        store<f32>(item(r, axis) + at, left);
        sum += <f64>(left * left * d);
        largest = max<f32>(largest, abs<f32>(left * d));
      }
    }
    store<f64>(sums + (<usize>t << 4), sum);
    store<f32>(sums + (<usize>t << 4), largest, 8);
  }
}

/** p = r / diagonal + beta p. */
export function viscousDirection(begin: i32, end: i32, ctx: usize, r: usize, p: usize, inverse: usize, beta: f32): void {
  const sx = <usize>load<i32>(ctx, SX) << 2;
  const sp = <usize>load<i32>(ctx, SP) << 2;
  for (let t = begin; t < end; ++t) {
    const base = <usize>load<i32>(<usize>load<u32>(ctx, TILES) + (<usize>t << TILE_SHIFT), T_BASE) << 2;
    for (let axis: usize = 0; axis < 3; ++axis) {
      for (let n: usize = 0; n < 512; ++n) {
        const at = base + (n >> 6) * sp + ((n >> 3) & 7) * sx + ((n & 7) << 2);
        const d = load<f32>(item(inverse, axis) + at);
        store<f32>(item(p, axis) + at, load<f32>(item(r, axis) + at) * d + beta * load<f32>(item(p, axis) + at));
      }
    }
  }
}

// Forces that act in a region only. `weights` is a field of 0 to 1 at the points that a kernel writes (faces of the component, or cells); 0: everywhere.
// Weights are exponents of rates and factors of accelerations, so that the number of substeps does not change the result.
import { SX, SP, TILES, TILE_SHIFT, T_BASE, T_I, T_J, T_K } from './layout';

/** field += source weight. */
export function addWeighted(begin: i32, end: i32, ctx: usize, field: usize, source: usize, weights: usize): void {
  const sx = <usize>load<i32>(ctx, SX) << 2;
  const sp = <usize>load<i32>(ctx, SP) << 2;
  for (let t = begin; t < end; ++t) {
    const base = <usize>load<i32>(<usize>load<u32>(ctx, TILES) + (<usize>t << TILE_SHIFT), T_BASE) << 2;
    for (let row: usize = 0; row < 64; ++row) {
      for (let h: usize = 0; h < 32; h += 16) {
        const o = base + (row >> 3) * sp + (row & 7) * sx + h;
        const add = f32x4.mul(v128.load(source + o), v128.load(weights + o));
        v128.store(field + o, f32x4.add(v128.load(field + o), add));
      }
    }
  }
}

/** field = field weight. */
export function scaleByWeights(begin: i32, end: i32, ctx: usize, field: usize, weights: usize): void {
  const sx = <usize>load<i32>(ctx, SX) << 2;
  const sp = <usize>load<i32>(ctx, SP) << 2;
  for (let t = begin; t < end; ++t) {
    const base = <usize>load<i32>(<usize>load<u32>(ctx, TILES) + (<usize>t << TILE_SHIFT), T_BASE) << 2;
    for (let row: usize = 0; row < 64; ++row) {
      for (let h: usize = 0; h < 32; h += 16) {
        const o = base + (row >> 3) * sp + (row & 7) * sx + h;
        v128.store(field + o, f32x4.mul(v128.load(field + o), v128.load(weights + o)));
      }
    }
  }
}

/** field = target + (field - target) exp(-rate weight). */
export function relaxWeighted(begin: i32, end: i32, ctx: usize, field: usize, target: f32, rate: f32, weights: usize): void {
  const sx = <usize>load<i32>(ctx, SX) << 2;
  const sp = <usize>load<i32>(ctx, SP) << 2;
  for (let t = begin; t < end; ++t) {
    const base = <usize>load<i32>(<usize>load<u32>(ctx, TILES) + (<usize>t << TILE_SHIFT), T_BASE) << 2;
    for (let row: usize = 0; row < 64; ++row) {
      for (let h: usize = 0; h < 32; h += 4) {
        const o = base + (row >> 3) * sp + (row & 7) * sx + h;
        const w = load<f32>(weights + o);
        if (w > 0) store<f32>(field + o, target + (load<f32>(field + o) - target) * Mathf.exp(-rate * w));
      }
    }
  }
}

/**
 * Faces of an axis: field += gain density 2 r / (1 + r^2) towards a point (in window voxels), r the distance over `reach` (voxels): strongest there, nothing
 * at the point itself. Density at a face is the mean of its two cells.
 */
export function attract(
  begin: i32,
  end: i32,
  ctx: usize,
  field: usize,
  axis: i32,
  density: usize,
  x: f32,
  y: f32,
  z: f32,
  gain: f32,
  reach: f32,
  weights: usize,
): void {
  const sx = <usize>load<i32>(ctx, SX) << 2;
  const sp = <usize>load<i32>(ctx, SP) << 2;
  const back: usize = axis == 0 ? <usize>4 : axis == 1 ? sx : sp;
  const ox: f32 = axis == 0 ? 0 : 0.5;
  const oy: f32 = axis == 1 ? 0 : 0.5;
  const oz: f32 = axis == 2 ? 0 : 0.5;
  const over: f32 = <f32>1 / reach;
  for (let t = begin; t < end; ++t) {
    const rec = <usize>load<u32>(ctx, TILES) + (<usize>t << TILE_SHIFT);
    const base = <usize>load<i32>(rec, T_BASE) << 2;
    for (let row: i32 = 0; row < 64; ++row) {
      const dy = (y - <f32>(load<i32>(rec, T_J) + (row & 7)) - oy) * over;
      const dz = (z - <f32>(load<i32>(rec, T_K) + (row >> 3)) - oz) * over;
      const at = base + <usize>(row >> 3) * sp + <usize>(row & 7) * sx;
      for (let h: i32 = 0; h < 8; ++h) {
        const o = at + (<usize>h << 2);
        const d: f32 = <f32>0.5 * (load<f32>(density + o) + load<f32>(density + o - back));
        const dx = (x - <f32>(load<i32>(rec, T_I) + h) - ox) * over;
        const along = axis == 0 ? dx : axis == 1 ? dy : dz;
        // Direction times strength: the distance of the direction's length and the one of the profile cancel.
        const pull: f32 = (gain * d * <f32>2 * along) / (<f32>1 + dx * dx + dy * dy + dz * dz);
        const w = weights == 0 ? <f32>1 : load<f32>(weights + o);
        store<f32>(field + o, load<f32>(field + o) + pull * w);
      }
    }
  }
}

/**
 * into = from + amount (sum of the six neighbours that are unknowns - their number x from): one explicit step of diffusion that nothing crosses a solid by;
 * stable for amount up to 1/6. Cells that are no unknowns keep their value. `status` = 0: all six neighbours count (faces).
 */
export function diffuse(begin: i32, end: i32, ctx: usize, from: usize, into: usize, status: usize, amount: f32): void {
  const sx = <usize>load<i32>(ctx, SX);
  const sp = <usize>load<i32>(ctx, SP);
  for (let t = begin; t < end; ++t) {
    const base = <usize>load<i32>(<usize>load<u32>(ctx, TILES) + (<usize>t << TILE_SHIFT), T_BASE);
    for (let row: usize = 0; row < 64; ++row) {
      const at = base + (row >> 3) * sp + (row & 7) * sx;
      for (let n = at; n < at + 8; ++n) {
        const v = load<f32>(from + (n << 2));
        if (status != 0 && load<u8>(status + n) != 1) {
          store<f32>(into + (n << 2), v);
          continue;
        }
        let sum: f32 = 0;
        for (let s = 0; s < 6; ++s) {
          const step: usize = s < 2 ? <usize>1 : s < 4 ? sx : sp;
          const m: usize = s & 1 ? n + step : n - step;
          if (status == 0 || load<u8>(status + m) == 1) sum += load<f32>(from + (m << 2)) - v;
        }
        store<f32>(into + (n << 2), v + amount * sum);
      }
    }
  }
}

/**
 * One conservative step against diffusion: what crosses the face between two unknowns is amount x (difference), limited so that neither cell leaves the
 * range of its own neighbourhood (a minmod of the differences on either side): edges steepen and nothing is made. `into` is set.
 */
export function sharpen(begin: i32, end: i32, ctx: usize, from: usize, into: usize, status: usize, amount: f32): void {
  const sx = <usize>load<i32>(ctx, SX);
  const sp = <usize>load<i32>(ctx, SP);
  for (let t = begin; t < end; ++t) {
    const base = <usize>load<i32>(<usize>load<u32>(ctx, TILES) + (<usize>t << TILE_SHIFT), T_BASE);
    for (let row: usize = 0; row < 64; ++row) {
      const at = base + (row >> 3) * sp + (row & 7) * sx;
      for (let n = at; n < at + 8; ++n) {
        const v = load<f32>(from + (n << 2));
        store<f32>(into + (n << 2), v);
        if (load<u8>(status + n) != 1) continue;
        let change: f32 = 0;
        for (let a = 0; a < 3; ++a) {
          const step: usize = a == 0 ? <usize>1 : a == 1 ? sx : sp;
          change += flow(from, status, n - step, n, step, amount) - flow(from, status, n, n + step, step, amount);
        }
        store<f32>(into + (n << 2), v + change);
      }
    }
  }
}

/** From the lower to the higher cell: what goes up the slope between two neighbours. */
@inline
function flow(from: usize, status: usize, low: usize, high: usize, step: usize, amount: f32): f32 {
  const l0 = low - step;
  const l1 = high + step;
  if (load<u8>(status + low) != 1 || load<u8>(status + high) != 1 || load<u8>(status + l0) != 1 || load<u8>(status + l1) != 1) return 0;
  const d = load<f32>(from + (high << 2)) - load<f32>(from + (low << 2));
  const before = load<f32>(from + (low << 2)) - load<f32>(from + (l0 << 2));
  const after = load<f32>(from + (l1 << 2)) - load<f32>(from + (high << 2));
  // The giver keeps above what lies beyond it, the taker below: a step of the smallest of the three differences at most.
  if (d > 0) return before > 0 && after > 0 ? amount * min<f32>(d, min<f32>(before, after)) : 0;
  return before < 0 && after < 0 ? amount * max<f32>(d, max<f32>(before, after)) : 0;
}

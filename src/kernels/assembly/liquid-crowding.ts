// Where liquid is too crowded or too empty: what the volume correction evens out.
import { SX, SP, TILES, STATUS, TILE_SHIFT, T_BASE } from './layout';
import { RADIUS, shareBefore, wallOf } from './liquid-skin';

/** Nearest to a wall that a cell may lie and still be too empty: nearer its share of the particles is not known well enough. */
const CLEAR_OF_WALLS: f32 = 1.5;
/**
 * How much too crowded or too empty each liquid cell is: its volume of particles less what it would hold so near to the surface. A wall takes of a cell's weights
 * what lies behind it. `offset`: what all of the liquid is short of. Cells that are not liquid get 0.
 */
export function crowding(begin: i32, end: i32, ctx: usize, sdf: usize, phi: usize, amount: usize, offset: f32, into: usize): void {
  const sx = <usize>load<i32>(ctx, SX);
  const sp = <usize>load<i32>(ctx, SP);
  const status = <usize>load<u32>(ctx, STATUS);
  for (let t = begin; t < end; ++t) {
    const base = <usize>load<i32>(<usize>load<u32>(ctx, TILES) + (<usize>t << TILE_SHIFT), T_BASE);
    const corners = <usize>load<u32>(sdf + (<usize>t << 2));
    for (let n: usize = 0; n < 512; ++n) {
      const o = base + (n >> 6) * sp + ((n >> 3) & 7) * sx + (n & 7);
      let value: f32 = 0;
      if (load<u8>(status + o) == 1) {
        const whole: f32 = corners == 0 ? 1 : shareBefore(wallOf(corners, n));
        value = load<f32>(amount + (o << 2)) / whole - shareBefore(-load<f32>(phi + (o << 2))) + offset;
      }
      store<f32>(into + (o << 2), value);
    }
  }
}

/**
 * What a cell itself weighs against each neighbour along an axis. 1 (a plain mean of 27) answers what goes up and down from cell to cell with the wrong sign: the
 * push then gathers particles, and a tank at rest boiled after 60 frames with 100 particles in a voxel. Above 2 it never does.
 */
const SELF: f32 = 4;

@inline
function along(n: usize): f32 {
  return n == 1 ? SELF : 1;
}

/**
 * into = factor x the weighted mean of the 27 liquid cells around each liquid cell, within +-most; 0 elsewhere. Deep inside it counts either way; at the surface
 * and along walls only what is too crowded, by more than `chance`: the mean is taken first, as chance cut off cell by cell would be taken for crowding
 * (a sloshing tank stood 4 % too high, and was given its whole energy again in 300 frames). Per slot the largest magnitude (f32) before the factor.
 */
export function evenCrowding(
  begin: i32,
  end: i32,
  ctx: usize,
  sdf: usize,
  phi: usize,
  from: usize,
  into: usize,
  factor: f32,
  most: f32,
  chance: f32,
  largest: usize,
): void {
  const sx = <usize>load<i32>(ctx, SX);
  const sp = <usize>load<i32>(ctx, SP);
  const status = <usize>load<u32>(ctx, STATUS);
  for (let t = begin; t < end; ++t) {
    const base = <usize>load<i32>(<usize>load<u32>(ctx, TILES) + (<usize>t << TILE_SHIFT), T_BASE);
    const corners = <usize>load<u32>(sdf + (<usize>t << 2));
    let peak: f32 = 0;
    for (let n: usize = 0; n < 512; ++n) {
      const o = base + (n >> 6) * sp + ((n >> 3) & 7) * sx + (n & 7);
      let value: f32 = 0;
      if (load<u8>(status + o) == 1) {
        let sum: f32 = 0;
        let count: f32 = 0;
        for (let m: usize = 0; m < 27; ++m) {
          const q = o + (m / 9) * sp + ((m / 3) % 3) * sx + (m % 3) - sp - sx - 1;
          if (load<u8>(status + q) != 1) continue;
          const weight: f32 = along(m % 3) * along((m / 3) % 3) * along(m / 9);
          sum += weight * load<f32>(from + (q << 2));
          count += weight;
        }
        value = sum / count;
        const deep = load<f32>(phi + (o << 2)) <= -RADIUS && (corners == 0 || wallOf(corners, n) >= CLEAR_OF_WALLS);
        if (!deep) value = max<f32>(0, value - chance);
        peak = max<f32>(peak, abs<f32>(value));
        value = factor * max<f32>(-most, min<f32>(most, value));
      }
      store<f32>(into + (o << 2), value);
    }
    store<f32>(largest + (<usize>t << 2), peak);
  }
}

// Whole-tile bookkeeping: fills, copies, maxima and sums.
import { SX, SP, TILES, STATUS, TILE_SHIFT, T_BASE } from './layout';

/** Sets every voxel of the tiles to a value. */
export function fillTiles(begin: i32, end: i32, ctx: usize, field: usize, value: f32): void {
  const sx = <usize>load<i32>(ctx, SX) << 2;
  const sp = <usize>load<i32>(ctx, SP) << 2;
  const v = f32x4.splat(value);
  for (let t = begin; t < end; ++t) {
    const rec = <usize>load<u32>(ctx, TILES) + (<usize>t << TILE_SHIFT);
    const p = field + (<usize>load<i32>(rec, T_BASE) << 2);
    for (let row: usize = 0; row < 64; ++row) {
      const o = p + (row >> 3) * sp + (row & 7) * sx;
      v128.store(o, v);
      v128.store(o, v, 16);
    }
  }
}

/** Multiplies every voxel of the tiles by a factor. */
export function scaleTiles(begin: i32, end: i32, ctx: usize, field: usize, factor: f32): void {
  const sx = <usize>load<i32>(ctx, SX) << 2;
  const sp = <usize>load<i32>(ctx, SP) << 2;
  const v = f32x4.splat(factor);
  for (let t = begin; t < end; ++t) {
    const rec = <usize>load<u32>(ctx, TILES) + (<usize>t << TILE_SHIFT);
    const p = field + (<usize>load<i32>(rec, T_BASE) << 2);
    for (let row: usize = 0; row < 64; ++row) {
      const o = p + (row >> 3) * sp + (row & 7) * sx;
      v128.store(o, f32x4.mul(v128.load(o), v));
      v128.store(o, f32x4.mul(v128.load(o, 16), v), 16);
    }
  }
}

/** Copies the tiles of one field into another. */
export function copyTiles(begin: i32, end: i32, ctx: usize, source: usize, target: usize): void {
  const sx = <usize>load<i32>(ctx, SX) << 2;
  const sp = <usize>load<i32>(ctx, SP) << 2;
  for (let t = begin; t < end; ++t) {
    const rec = <usize>load<u32>(ctx, TILES) + (<usize>t << TILE_SHIFT);
    const base = <usize>load<i32>(rec, T_BASE) << 2;
    for (let row: usize = 0; row < 64; ++row) {
      const o = base + (row >> 3) * sp + (row & 7) * sx;
      v128.store(target + o, v128.load(source + o));
      v128.store(target + o, v128.load(source + o, 16), 16);
    }
  }
}

/** Sets whole planes (halo included) to a value; begin and end count planes of `plane` floats. */
export function fillPlanes(begin: i32, end: i32, field: usize, plane: i32, value: f32): void {
  const from = field + ((<usize>begin * <usize>plane) << 2);
  const to = field + ((<usize>end * <usize>plane) << 2);
  const v = f32x4.splat(value);
  for (let p = from; p < to; p += 16) v128.store(p, v);
}

/** Copies rows of a box from one window layout to another. begin and end count planes; offsets are entries. */
export function copyBox(
  begin: i32,
  end: i32,
  source: usize,
  sourceSx: i32,
  sourceSp: i32,
  target: usize,
  targetSx: i32,
  targetSp: i32,
  rows: i32,
  columns: i32,
): void {
  for (let k = begin; k < end; ++k) {
    for (let j = 0; j < rows; ++j) {
      memory.copy(
        target + (<usize>(k * targetSp + j * targetSx) << 2),
        source + (<usize>(k * sourceSp + j * sourceSx) << 2),
        <usize>columns << 2,
      );
    }
  }
}

@inline
function largestOf(v: v128): f32 {
  return max<f32>(
    max<f32>(f32x4.extract_lane(v, 0), f32x4.extract_lane(v, 1)),
    max<f32>(f32x4.extract_lane(v, 2), f32x4.extract_lane(v, 3)),
  );
}

@inline
function addInto(sum: v128, v: v128): v128 {
  const high = v128.shuffle<u64>(v, v, 1, 0);
  return f64x2.add(sum, f64x2.add(f64x2.promote_low_f32x4(v), f64x2.promote_low_f32x4(high)));
}

/**
 * Per tile, 48 bytes: float32 largest density, largest |temperature - ambient|, largest |velocity - wind| of any
 * component, largest |velocity| of any component; float64 sum of density over fluid cells, half the sum of squared
 * face velocities; then one word: where in the tile matter is (density or heat above its quiet level), bit i of the first byte set when any
 * voxel of that i holds some, the second byte for j, the third for k; at byte 40 the float64 sum of temperature - ambient over fluid cells. A value that is
 * not finite makes its maximum not finite.
 */
export function tileStatistics(
  begin: i32,
  end: i32,
  ctx: usize,
  density: usize,
  temperature: usize,
  u: usize,
  v: usize,
  w: usize,
  ambient: f32,
  windX: f32,
  windY: f32,
  windZ: f32,
  quietDensity: f32,
  quietHeat: f32,
  out: usize,
): void {
  const sx = <usize>load<i32>(ctx, SX);
  const sp = <usize>load<i32>(ctx, SP);
  const status = <usize>load<u32>(ctx, STATUS);
  const wx = f32x4.splat(windX);
  const wy = f32x4.splat(windY);
  const wz = f32x4.splat(windZ);
  const ta = f32x4.splat(ambient);
  const qd = f32x4.splat(quietDensity);
  const qh = f32x4.splat(quietHeat);
  const zero = f32x4.splat(0);
  for (let t = begin; t < end; ++t) {
    const rec = <usize>load<u32>(ctx, TILES) + (<usize>t << TILE_SHIFT);
    const base = <usize>load<i32>(rec, T_BASE);
    let md = zero;
    let mt = zero;
    let mo = zero;
    let mv = zero;
    let mass = f64x2.splat(0);
    let heat = f64x2.splat(0);
    let energy = f64x2.splat(0);
    let where: i32 = 0;
    for (let row: usize = 0; row < 64; ++row) {
      const o = base + (row >> 3) * sp + (row & 7) * sx;
      for (let h: usize = 0; h < 8; h += 4) {
        const c = (o + h) << 2;
        const fluid = i32x4.eq(
          i32x4.extend_low_i16x8_u(i16x8.extend_low_i8x16_u(v128.load32_zero(status + o + h))),
          i32x4.splat(1),
        );
        // An all-ones mask keeps a NaN as it is, and max passes it on.
        const d = v128.and(v128.load(density + c), fluid);
        const dT = v128.and(f32x4.sub(v128.load(temperature + c), ta), fluid);
        const a = v128.load(u + c);
        const b = v128.load(v + c);
        const e = v128.load(w + c);
        md = f32x4.max(md, f32x4.abs(d));
        mt = f32x4.max(mt, f32x4.abs(dT));
        const found = i32x4.bitmask(v128.or(f32x4.gt(f32x4.abs(d), qd), f32x4.gt(f32x4.abs(dT), qh)));
        if (found != 0) where |= (found << <i32>h) | (0x100 << <i32>(row & 7)) | (0x10000 << <i32>(row >> 3));
        mo = f32x4.max(mo, f32x4.abs(f32x4.sub(a, wx)));
        mo = f32x4.max(mo, f32x4.abs(f32x4.sub(b, wy)));
        mo = f32x4.max(mo, f32x4.abs(f32x4.sub(e, wz)));
        mv = f32x4.max(mv, f32x4.abs(a));
        mv = f32x4.max(mv, f32x4.abs(b));
        mv = f32x4.max(mv, f32x4.abs(e));
        mass = addInto(mass, d);
        heat = addInto(heat, dT);
        energy = addInto(energy, f32x4.add(f32x4.add(f32x4.mul(a, a), f32x4.mul(b, b)), f32x4.mul(e, e)));
      }
    }
    const p = out + <usize>t * 48;
    store<f32>(p, largestOf(md));
    store<f32>(p, largestOf(mt), 4);
    store<f32>(p, largestOf(mo), 8);
    store<f32>(p, largestOf(mv), 12);
    store<f64>(p, f64x2.extract_lane(mass, 0) + f64x2.extract_lane(mass, 1), 16);
    store<f64>(p, 0.5 * (f64x2.extract_lane(energy, 0) + f64x2.extract_lane(energy, 1)), 24);
    store<i32>(p, where, 32);
    store<f64>(p, f64x2.extract_lane(heat, 0) + f64x2.extract_lane(heat, 1), 40);
  }
}

/** Per tile, f64: the sums of density and of temperature - ambient over unknown cells; then half the sum of squared face velocities. */
export function tileSums(
  begin: i32,
  end: i32,
  ctx: usize,
  density: usize,
  temperature: usize,
  ambient: f32,
  u: usize,
  v: usize,
  w: usize,
  out: usize,
): void {
  const sx = <usize>load<i32>(ctx, SX);
  const sp = <usize>load<i32>(ctx, SP);
  const status = <usize>load<u32>(ctx, STATUS);
  const ta = f32x4.splat(ambient);
  for (let t = begin; t < end; ++t) {
    const rec = <usize>load<u32>(ctx, TILES) + (<usize>t << TILE_SHIFT);
    const base = <usize>load<i32>(rec, T_BASE);
    let mass = f64x2.splat(0);
    let heat = f64x2.splat(0);
    let energy = f64x2.splat(0);
    for (let row: usize = 0; row < 64; ++row) {
      const o = base + (row >> 3) * sp + (row & 7) * sx;
      for (let h: usize = 0; h < 8; h += 4) {
        const c = (o + h) << 2;
        const fluid = i32x4.eq(
          i32x4.extend_low_i16x8_u(i16x8.extend_low_i8x16_u(v128.load32_zero(status + o + h))),
          i32x4.splat(1),
        );
        mass = addInto(mass, v128.and(v128.load(density + c), fluid));
        heat = addInto(heat, v128.and(f32x4.sub(v128.load(temperature + c), ta), fluid));
        const a = v128.load(u + c);
        const b = v128.load(v + c);
        const e = v128.load(w + c);
        energy = addInto(energy, f32x4.add(f32x4.add(f32x4.mul(a, a), f32x4.mul(b, b)), f32x4.mul(e, e)));
      }
    }
    const p = out + <usize>t * 24;
    store<f64>(p, f64x2.extract_lane(mass, 0) + f64x2.extract_lane(mass, 1));
    store<f64>(p, f64x2.extract_lane(heat, 0) + f64x2.extract_lane(heat, 1), 8);
    store<f64>(p, 0.5 * (f64x2.extract_lane(energy, 0) + f64x2.extract_lane(energy, 1)), 16);
  }
}

/** amount *= after / before where there was something, else 0: what rides on a field keeps its share of it. */
export function followCells(begin: i32, end: i32, ctx: usize, before: usize, after: usize, amount: usize): void {
  const sx = <usize>load<i32>(ctx, SX) << 2;
  const sp = <usize>load<i32>(ctx, SP) << 2;
  for (let t = begin; t < end; ++t) {
    const rec = <usize>load<u32>(ctx, TILES) + (<usize>t << TILE_SHIFT);
    const base = <usize>load<i32>(rec, T_BASE) << 2;
    for (let row: usize = 0; row < 64; ++row) {
      const r = base + (row >> 3) * sp + (row & 7) * sx;
      for (let n: usize = 0; n < 32; n += 4) {
        const o = r + n;
        const was = load<f32>(before + o);
        store<f32>(amount + o, was > 0 ? (load<f32>(amount + o) * load<f32>(after + o)) / was : 0);
      }
    }
  }
}

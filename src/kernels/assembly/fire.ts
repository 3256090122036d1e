// Burning: what fuel turns into, and what that does to the volume (Feldman, O'Brien, Arikan 2003); flames cool with the fourth power of their
// temperature (Nguyen, Fedkiw, Jensen 2002). Every rate is exact for any number of substeps.
import { SX, SP, TILES, STATUS, TILE_SHIFT, T_BASE } from './layout';

/**
 * In cells at least as hot as `ignition`: the part 1 - keep of the fuel burns, the heat and soot of it are added, and `flame` becomes the fuel burnt a
 * second; elsewhere `flame` is 0. Then, above ambient by theta: d theta / dt = -loss (theta / 1000)^4, in its closed form. Per tile, three f64:
 * the soot made, the heat given, the heat lost.
 */
export function burn(
  begin: i32,
  end: i32,
  ctx: usize,
  fuel: usize,
  temperature: usize,
  density: usize,
  flame: usize,
  ambient: f32,
  ignition: f32,
  keep: f32,
  heat: f32,
  soot: f32,
  loss: f32,
  dt: f32,
  partial: usize,
): void {
  const sx = load<i32>(ctx, SX);
  const sp = load<i32>(ctx, SP);
  const status = <usize>load<u32>(ctx, STATUS);
  const perSecond: f32 = 1 / dt;
  const cooling: f32 = 3 * loss * dt * 1e-12;
  for (let t = begin; t < end; ++t) {
    const rec = <usize>load<u32>(ctx, TILES) + (<usize>t << TILE_SHIFT);
    const base = load<i32>(rec, T_BASE);
    let made: f64 = 0;
    let given: f64 = 0;
    let lost: f64 = 0;
    for (let n = 0; n < 512; ++n) {
      const o = base + (n >> 6) * sp + ((n >> 3) & 7) * sx + (n & 7);
      const q = <usize>o << 2;
      let burnt: f32 = 0;
      if (load<u8>(status + <usize>o) == 1) {
        let hot = load<f32>(temperature + q);
        const have = load<f32>(fuel + q);
        if (have > 0 && hot >= ignition) {
          burnt = have * (1 - keep);
          store<f32>(fuel + q, have - burnt);
          hot += heat * burnt;
          store<f32>(density + q, load<f32>(density + q) + soot * burnt);
          made += <f64>(soot * burnt);
          given += <f64>(heat * burnt);
        }
        const theta = hot - ambient;
        if (cooling > 0 && theta > 1) {
          const cooled = theta / Mathf.cbrt(1 + cooling * theta * theta * theta);
          lost += <f64>(theta - cooled);
          hot = ambient + cooled;
        }
        store<f32>(temperature + q, hot);
      }
      store<f32>(flame + q, burnt * perSecond);
    }
    store<f64>(partial + <usize>t * 24, made);
    store<f64>(partial + <usize>t * 24, given, 8);
    store<f64>(partial + <usize>t * 24, lost, 16);
  }
}

/** b += gain x flame on unknown cells: what burns takes more room. */
export function expand(begin: i32, end: i32, ctx: usize, b: usize, flame: usize, gain: f32): void {
  const sx = <usize>load<i32>(ctx, SX) << 2;
  const sp = <usize>load<i32>(ctx, SP) << 2;
  const g = f32x4.splat(gain);
  for (let t = begin; t < end; ++t) {
    const rec = <usize>load<u32>(ctx, TILES) + (<usize>t << TILE_SHIFT);
    const base = <usize>load<i32>(rec, T_BASE) << 2;
    for (let row: usize = 0; row < 64; ++row) {
      for (let h: usize = 0; h < 32; h += 16) {
        const o = base + (row >> 3) * sp + (row & 7) * sx + h;
        // The flame is 0 wherever there is no unknown.
        v128.store(b + o, f32x4.add(v128.load(b + o), f32x4.mul(g, v128.load(flame + o))));
      }
    }
  }
}

/**
 * What an expansion leaves of the heat that was carried as an amount: at constant pressure the gas that stays keeps its temperature (rho T does), so the
 * temperature above ambient is divided by the volume that is left of the cell, 1 - gain x flame, no less than `least`. Per tile the sum it added.
 */
export function expandHeat(
  begin: i32,
  end: i32,
  ctx: usize,
  temperature: usize,
  flame: usize,
  ambient: f32,
  gain: f32,
  least: f32,
  partial: usize,
): void {
  const sx = <usize>load<i32>(ctx, SX);
  const sp = <usize>load<i32>(ctx, SP);
  for (let t = begin; t < end; ++t) {
    const rec = <usize>load<u32>(ctx, TILES) + (<usize>t << TILE_SHIFT);
    const base = <usize>load<i32>(rec, T_BASE);
    let added: f64 = 0;
    for (let n: usize = 0; n < 512; ++n) {
      const o = (base + (n >> 6) * sp + ((n >> 3) & 7) * sx + (n & 7)) << 2;
      // The flame is 0 wherever there is no unknown.
      const burns = load<f32>(flame + o);
      if (burns == 0) continue;
      const theta = load<f32>(temperature + o) - ambient;
      const grown = theta / max<f32>(least, 1 - gain * burns);
      added += <f64>(grown - theta);
      store<f32>(temperature + o, ambient + grown);
    }
    store<f64>(partial + (<usize>t << 3), added);
  }
}

import { type KernelTeam, type Level, RECORD_WORDS } from '#core/grid';
import type { GasFields } from './fields';
import type { Fire, GasOptions } from './options';
import { PLACES_WORD, STATISTICS_WORDS } from './statistics';

/** x voxels. */
export interface Burnt {
  soot: number;
  heat: number;
  /** Heat that flames radiated. */
  lost: number;
}

/** Burns what is hot enough for `dt` seconds. `partial`: room for three doubles a tile. */
export function burnFuel(team: KernelTeam, level: Level, f: GasFields, fire: Fire, ambient: number, dt: number, partial: number): Burnt {
  team.launch(
    'burn',
    level.count,
    level.context,
    f.fuel,
    f.temperature,
    f.density,
    f.flame,
    ambient,
    fire.ignition,
    Math.exp(-dt / fire.burnTime),
    fire.heat,
    fire.soot,
    fire.loss,
    dt,
    partial,
  );
  const burnt = { soot: 0, heat: 0, lost: 0 };
  const parts = team.doubles(partial, level.count * 3);
  for (let n = 0; n < parts.length; n += 3) {
    burnt.soot += parts[n] ?? 0;
    burnt.heat += parts[n + 1] ?? 0;
    burnt.lost += parts[n + 2] ?? 0;
  }
  return burnt;
}

/** Fuel is matter too: marks where it is in the places that tileStatistics left . */
export function markFuel(team: KernelTeam, level: Level, fuelField: number, size: number, places: Int32Array, options: GasOptions): void {
  const fuel = team.floats(fuelField, size);
  const status = team.bytes(level.status, size);
  const records = team.pointers(level.records, level.count * RECORD_WORDS);
  for (let t = 0; t < level.count; t++) {
    const base = records[t * RECORD_WORDS] ?? 0;
    let where = places[STATISTICS_WORDS * t + PLACES_WORD] ?? 0;
    for (let row = 0; row < 64; row++) {
      const o = base + (row >> 3) * level.sp + (row & 7) * level.sx;
      for (let n = 0; n < 8; n++) {
        if ((fuel[o + n] ?? 0) > options.bounds.quietDensity && status[o + n] === 1)
          where |= (1 << n) | (0x100 << (row & 7)) | (0x10000 << (row >> 3));
      }
    }
    places[STATISTICS_WORDS * t + PLACES_WORD] = where;
  }
}

import { type Bounds } from '#core/flow';
import { type KernelTeam, RECORD_WORDS, TILE } from '#core/grid';
import { carriedFields } from './carried';
import { type GasFields } from './fields';
import type { Amounts } from './report';

/** What is still missing is spread by a factor no further from 1 than this in a substep; the rest stays in the ledger. */
const MOST_SPREAD = 0.2;

/**
 * After a transport beside moving solids. A cell that a solid is closing gives up volume bit by bit, one that it leaves takes it up, while both count as
 * whole voxels: what they hold is the amount over the volume that is left. That makes in front of a solid what is lost when it covers the cell, and takes
 * behind it what was filled in: over a motion they cancel. What does not cancel (`swept`: what the covering took and the filling gave) is spread over the
 * matter of the tiles around, in proportion to it, so that nothing is made or lost. Returns what was added in all, x voxels.
 */
export function settleAround(team: KernelTeam, bounds: Bounds<GasFields>, f: GasFields, swept: Amounts, ambient: number): Amounts {
  const level = bounds.hierarchy.finest;
  const { window: w, geometry, size } = bounds;
  const records = team.pointers(level.records, level.count * RECORD_WORDS);
  const status = team.bytes(level.status, size);
  const excess = team.floats(f.p, size);
  const density = team.floats(f.density, size);
  const temperature = team.floats(f.temperature, size);
  const riding = carriedFields(f)
    .flat()
    .map((field) => team.floats(field, size));
  const fuel = f.fuel === 0 ? null : team.floats(f.fuel, size);
  const cells: number[] = [];
  for (let r = 0; r < records.length; r += RECORD_WORDS) {
    const tile = [(records[r + 1] ?? 0) + w.ox, (records[r + 2] ?? 0) + w.oy, (records[r + 3] ?? 0) + w.oz].map((v) => v / TILE);
    if (!geometry.isNear(0, tile[0] ?? 0, tile[1] ?? 0, tile[2] ?? 0)) continue;
    for (let n = 0; n < 512; n++) {
      const at = (records[r] ?? 0) + (n >> 6) * level.sp + ((n >> 3) & 7) * level.sx + (n & 7);
      if (status[at] === 1) cells.push(at);
    }
  }
  const made = { mass: 0, heat: 0 };
  const there = { mass: 0, heat: 0 };
  for (const at of cells) {
    const part = 1 / (1 + (excess[at] ?? 0));
    const [d, theta] = [density[at] ?? 0, (temperature[at] ?? 0) - ambient];
    density[at] = d * part;
    temperature[at] = ambient + theta * part;
    for (const field of riding) field[at] = (field[at] ?? 0) * part;
    if (fuel) fuel[at] = (fuel[at] ?? 0) * part;
    made.mass += d * (part - 1);
    made.heat += theta * (part - 1);
    there.mass += d * part;
    there.heat += theta * part;
  }
  const factor = (name: keyof Amounts): number => {
    const wanted = 1 - (swept[name] + made[name]) / there[name];
    return Number.isFinite(wanted) ? Math.min(1 + MOST_SPREAD, Math.max(1 - MOST_SPREAD, wanted)) : 1;
  };
  const [byMass, byHeat] = [factor('mass'), factor('heat')];
  for (const at of cells) {
    density[at] = (density[at] ?? 0) * byMass;
    temperature[at] = ambient + ((temperature[at] ?? 0) - ambient) * byHeat;
    for (const field of riding) field[at] = (field[at] ?? 0) * byMass;
  }
  return { mass: made.mass + there.mass * (byMass - 1), heat: made.heat + there.heat * (byHeat - 1) };
}

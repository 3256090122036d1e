import type { KernelTeam } from '#core/grid';
import type { LiquidGrid } from './grid';
import type { Particles } from './particles';
import type { ParticleLie } from './report';
import type { Sorter } from './sorter';

/** How particles lie in the bulk and along walls: to be called when they are sorted and the surface is known. */
export function lieOf(
  team: KernelTeam,
  grid: LiquidGrid,
  particles: Particles,
  sorter: Sorter,
  coarse: number,
  scratch: number,
  sums: number,
): ParticleLie {
  const { fields: f, window: w, slots } = grid;
  team.launch(
    'findFlaws',
    slots,
    grid.context,
    grid.slotOf,
    ...grid.tilesAcross,
    sorter.cellStart,
    sorter.tileStart,
    particles.places,
    particles.motions,
    coarse,
    grid.solid,
    grid.sdf,
    f.phi,
    f.amount,
    w.ox,
    w.oy,
    w.oz,
    scratch,
    sums,
  );
  const counts = team.words(sums, slots * 8);
  const gaps = team.floats(sums, slots * 8);
  let [bulk, empty, clumps, beside, largest, sum, inside] = [0, 0, 0, 0, 0, 0, 0];
  for (let o = 0; o < 8 * slots; o += 8) {
    bulk += counts[o] ?? 0;
    empty += counts[o + 1] ?? 0;
    clumps += counts[o + 2] ?? 0;
    beside += counts[o + 3] ?? 0;
    largest = Math.max(largest, gaps[o + 4] ?? 0);
    sum += gaps[o + 5] ?? 0;
    inside += counts[o + 6] ?? 0;
  }
  return { bulk, empty, clumps, inside, gap: beside > 0 ? { mean: sum / beside, largest } : null };
}

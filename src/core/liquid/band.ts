import type { KernelTeam } from '#core/grid';
import type { LiquidGrid } from './grid';
import type { LiquidOptions } from './options';
import type { Particles } from './particles';
import type { Sorter } from './sorter';

/** Voxels along walls that are as fine as the surface: a container shows how near the liquid comes. */
const AT_WALLS = 1;
/** Layers between where coarse particles are split and where fine ones are merged: what goes to and fro must not do both all the time. */
const BETWEEN = 1;
/** Of a coarse particle's volume, the least that one has. */
const LEAST_COARSE = 0.5;

/** The inside that has fewer particles than the surface. */
export interface Coarse {
  /** Voxels from the surface down to which particles are fine. */
  readonly band: number;
  /** Voxels of a coarse particle, and the least of one. */
  readonly volume: number;
  readonly least: number;
}

/** null: particles are the same everywhere. */
export function coarseOf({ particles: { along, inside, band } }: Pick<LiquidOptions, 'particles'>): Coarse | null {
  if (band === null || inside >= along) return null;
  return { band, volume: 1 / inside ** 3, least: LEAST_COARSE / inside ** 3 };
}

/** Merges particles where they are deep, and splits them where they are not: volume and momentum stay what they are. */
export class Band {
  readonly #layers: number;
  readonly #counts: number;

  constructor(
    private readonly team: KernelTeam,
    private readonly grid: LiquidGrid,
    private readonly particles: Particles,
    private readonly sorter: Sorter,
    private readonly coarse: Coarse,
    private readonly along: number,
    capacity: number,
  ) {
    this.#layers = team.allocate(capacity);
    this.#counts = team.allocate((Math.ceil(capacity / 512) + 1) * 4);
  }

  /** To be called when the surface is known and the particles are still sorted. */
  merge(): void {
    const { team, grid, particles, sorter, coarse } = this;
    const { slots, context } = grid;
    team.launch('startLayers', slots, context, grid.solid, Math.max(1, coarse.band + 1 - AT_WALLS), this.#layers);
    for (let layer = 1; layer <= coarse.band + BETWEEN; layer++) team.launch('countLayers', slots, context, this.#layers, layer);
    const { places, motions, marks, affine } = particles;
    team.launch('mergeDeep', slots, context, this.#layers, sorter.cellStart, places, motions, marks, affine, coarse.volume);
  }

  /** To be called when the particles have moved. */
  split(): void {
    const { team, grid, particles, sorter, coarse, along } = this;
    const { slots, context, window: w } = grid;
    const around = [w.ox, w.oy, w.oz, ...grid.tilesAcross, coarse.band + 1, along ** 3] as const;
    team.launch(
      'countSplits',
      slots,
      context,
      this.#layers,
      sorter.tileStart,
      particles.places,
      particles.motions,
      ...around,
      this.#counts,
    );
    const counts = team.words(this.#counts, slots);
    let more = 0;
    for (let s = 0; s < slots; s++) {
      const here = counts[s] ?? 0;
      counts[s] = more;
      more += here;
    }
    if (more === 0) return;
    const { count } = particles;
    particles.reserve(count + more);
    const { places, motions, marks, affine } = particles;
    team.launch(
      'splitParticles',
      slots,
      context,
      this.#layers,
      sorter.tileStart,
      places,
      motions,
      marks,
      affine,
      ...around,
      this.#counts,
      count,
      particles.born,
      grid.slotOf,
      grid.sdf,
    );
    particles.count += more;
    particles.born += more;
  }
}

import { type KernelTeam, RECORD_WORDS, TILE } from '#core/grid';
import type { LiquidGrid } from './grid';
import type { Particles } from './particles';

/** Parts that particles are counted in: as many as any machine has threads for, and always the same, so that the order is too. */
const CHUNKS = 16;
const COUNTERS = 2048;
/** Colours of tiles that may be written to at once. */
const COLOURS = 8;

/** Puts particles into the order of their cells, and knows where each tile's and each cell's begin. */
export class Sorter {
  /** First particle of each slot, and one more. */
  tileStart = 0;
  /** First particle of each cell of each slot, 512 a slot, and one more. */
  cellStart = 0;
  /** Slots with particles by colour: pointer and count. */
  readonly colours: { readonly list: number; readonly count: number }[] = [];
  #counts = 0;
  #list = 0;
  #capacity = 0;
  readonly #scratch: number;

  constructor(private readonly team: KernelTeam) {
    this.#scratch = team.allocate(team.threads * COUNTERS);
  }

  /** Of a tile. */
  static readonly bytesEach = CHUNKS * 4 + 4 + 2048 + 4;

  get bytes(): number {
    return this.#capacity * Sorter.bytesEach;
  }

  /** Sorts, and leaves out what is gone. Returns the volume of what was lost outside of the tiles, voxels. */
  sort(particles: Particles, grid: LiquidGrid): number {
    const { team } = this;
    const slots = grid.slots + 1;
    this.#reserve(slots);
    const { count } = particles;
    team.launch(
      'countParticles',
      CHUNKS,
      particles.places,
      particles.motions,
      count,
      CHUNKS,
      particles.keys,
      this.#counts,
      slots,
      grid.slotOf,
      grid.window.ox,
      grid.window.oy,
      grid.window.oz,
      ...grid.tilesAcross,
    );
    const counts = team.words(this.#counts, CHUNKS * slots);
    const starts = team.words(this.tileStart, slots + 1);
    let sum = 0;
    for (let s = 0; s < slots; s++) {
      starts[s] = sum;
      for (let c = 0; c < CHUNKS; c++) {
        const at = c * slots + s;
        const here = counts[at] ?? 0;
        counts[at] = sum;
        sum += here;
      }
    }
    starts[slots] = sum;
    team.launch('orderParticles', CHUNKS, count, CHUNKS, particles.keys, this.#counts, slots, particles.order);
    const kept = starts[grid.slots] ?? 0;
    let lost = 0;
    const order = team.words(particles.order, count);
    const motions = team.floats(particles.motions, count * 4);
    for (let n = kept; n < count; n++) lost += Math.abs(motions[4 * (order[n] ?? 0) + 3] ?? 0);
    const { other } = particles;
    team.launch(
      'sortTiles',
      grid.slots,
      this.tileStart,
      particles.order,
      particles.keys,
      this.cellStart,
      particles.places,
      particles.motions,
      particles.marks,
      particles.affine,
      other.places,
      other.motions,
      other.marks,
      other.affine,
      this.#scratch,
    );
    particles.swap();
    particles.count = kept;
    this.#colour(grid);
    return lost;
  }

  #reserve(slots: number): void {
    if (slots + 1 <= this.#capacity) return;
    const { team } = this;
    this.#capacity = Math.ceil((slots + 1) * 1.25);
    this.#counts = team.allocate(CHUNKS * this.#capacity * 4);
    this.tileStart = team.allocate(this.#capacity * 4);
    this.cellStart = team.allocate(this.#capacity * 2048 + 4);
    this.#list = team.allocate(this.#capacity * 4);
  }

  #colour(grid: LiquidGrid): void {
    const { team } = this;
    const starts = team.words(this.tileStart, grid.slots + 1);
    const records = team.pointers(team.pointers(grid.context, 8)[5] ?? 0, grid.slots * RECORD_WORDS);
    const list = team.words(this.#list, grid.slots);
    this.colours.length = 0;
    let at = 0;
    for (let colour = 0; colour < COLOURS; colour++) {
      const from = at;
      for (let s = 0; s < grid.slots; s++) {
        if (starts[s] === starts[s + 1]) continue;
        const r = s * RECORD_WORDS;
        const parity = [1, 2, 3].reduce((c, a) => c | ((((records[r + a] ?? 0) / TILE) & 1) << (a - 1)), 0);
        if (parity === colour) list[at++] = s;
      }
      this.colours.push({ list: this.#list + from * 4, count: at - from });
    }
  }
}

import { type KernelTeam, type Level, RECORD_WORDS, TILE } from '#core/grid';

/** Runs of one axis as the kernels take them, see src/kernels/assembly/lines.ts. */
export interface RunsOfAxis {
  /** Pointer to two words a run: where it begins in `order`, tiles. */
  readonly runs: number;
  /** Pointer to the numbers of the tile records, run after run. */
  readonly order: number;
  count: number;
}

/** Active tiles that follow each other along each axis: what is swept through in one go. Rebuilt whenever the active tiles changed. */
export class TileRuns {
  readonly axes: readonly [RunsOfAxis, RunsOfAxis, RunsOfAxis];

  constructor(
    private readonly team: KernelTeam,
    tileCapacity: number,
  ) {
    const axis = (): RunsOfAxis => ({ runs: team.allocate(tileCapacity * 8), order: team.allocate(tileCapacity * 4), count: 0 });
    this.axes = [axis(), axis(), axis()];
  }

  rebuild(level: Level): void {
    const { window: w } = level;
    const records = this.team.pointers(level.records, level.count * RECORD_WORDS);
    const sizes = [w.nx / TILE, w.ny / TILE, w.nz / TILE] as const;
    const steps = [1, sizes[0], sizes[0] * sizes[1]] as const;
    const recordOf = new Int32Array(steps[2] * sizes[2]).fill(-1);
    for (let t = 0; t < level.count; t++) recordOf[records[t * RECORD_WORDS + 5] ?? 0] = t;
    this.axes.forEach((axis, a) => {
      const runs = this.team.words(axis.runs, level.count * 2);
      const order = this.team.words(axis.order, level.count);
      const [b, c] = a === 0 ? [1, 2] : a === 1 ? [0, 2] : [0, 1];
      let at = 0;
      let count = 0;
      for (let q = 0; q < (sizes[c as 0] ?? 0); q++) {
        for (let p = 0; p < (sizes[b as 0] ?? 0); p++) {
          let began = at;
          for (let n = 0; n <= (sizes[a as 0] ?? 0); n++) {
            const tile = q * (steps[c as 0] ?? 0) + p * (steps[b as 0] ?? 0) + n * (steps[a as 0] ?? 0);
            const record = n < (sizes[a as 0] ?? 0) ? (recordOf[tile] ?? -1) : -1;
            if (record >= 0) {
              order[at++] = record;
            } else if (at > began) {
              runs[2 * count] = began;
              runs[2 * count + 1] = at - began;
              count++;
              began = at;
            }
          }
        }
      }
      axis.count = count;
    });
  }
}

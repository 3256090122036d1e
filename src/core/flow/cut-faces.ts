import { type KernelTeam, RECORD_WORDS } from '#core/grid';
import type { PlainBounds } from './bounds';
import type { FlowFields } from './fields';
import { type MovingWalls, NO_WALLS } from './moving-walls';

/** The tiles that solids cut, and what is done to fields there. */
export class CutFaces {
  /** Velocities of the solids that move. */
  walls: MovingWalls = NO_WALLS;
  readonly #records: number;
  #count = 0;
  #gather = 0;
  #gatherTiles = 0;

  constructor(
    private readonly team: KernelTeam,
    private readonly bounds: PlainBounds,
    tileCapacity: number,
  ) {
    this.#records = team.allocate(tileCapacity * RECORD_WORDS * 4);
  }

  /** To be called whenever the bounds changed. */
  boundsChanged(): void {
    const level = this.bounds.hierarchy.finest;
    const records = this.team.pointers(level.records, level.count * RECORD_WORDS);
    const cut = this.team.pointers(this.#records, records.length);
    let n = 0;
    for (let r = 0; r < records.length; r += RECORD_WORDS) {
      if (records[r + 4] === 0) continue;
      cut.set(records.subarray(r, r + RECORD_WORDS), n);
      n += RECORD_WORDS;
    }
    this.#count = n / RECORD_WORDS;
    if (this.#count > this.#gatherTiles) {
      this.#gatherTiles = this.#count * 2;
      this.#gather = this.team.allocate(this.#gatherTiles * 2048);
    }
  }

  /** Faces that are closed get the velocity of what stands or moves there. */
  close(f: Pick<FlowFields, 'u' | 'v' | 'w'>): void {
    const level = this.bounds.hierarchy.finest;
    [
      [f.u, 1, 0],
      [f.v, level.sx, 2],
      [f.w, level.sp, 4],
    ].forEach(([field, stride, face]) => {
      this.team.launch('closeFaces', this.#count, level.context, this.#records, field ?? 0, stride ?? 1, face ?? 0, this.#gather);
      this.team.launch('scatterTiles', this.#count, level.context, this.#records, this.#gather, field ?? 0);
    });
    [f.u, f.v, f.w].forEach((pointer, axis) => {
      const { index, velocity } = this.walls.closed[axis as 0 | 1 | 2];
      const field = this.team.floats(pointer, this.bounds.size);
      for (let n = 0; n < index.length; n++) field[index[n] ?? 0] = velocity[n] ?? 0;
    });
  }

  /** A field of cells goes on one cell into solids: what is read at a wall is not thinned by it. */
  extend(field: number, ambient: number): void {
    const level = this.bounds.hierarchy.finest;
    this.team.launch('extendCells', this.#count, level.context, this.#records, field, ambient, this.#gather);
    this.team.launch('scatterTiles', this.#count, level.context, this.#records, this.#gather, field);
  }
}

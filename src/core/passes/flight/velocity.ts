import { type KernelTeam, type TileGrid, TileLookup } from '#core/grid';

export interface VelocityPart {
  readonly voxelSize: number;
  readonly grid: TileGrid;
}

/** Words of a part's record; see src/kernels/assembly/particles.ts. */
const RECORD = 12;
const MOST_PARTS = 8;

/** A frame's velocities in a team's memory, for the kernel that carries particles. Loaded anew, frame after frame. */
export class VelocityField {
  /** Pointer to the records, and how many there are. */
  readonly records: number;
  parts = 0;
  /** Where no part has anything, m/s. */
  background: readonly [number, number, number] = [0, 0, 0];
  /** Fastest component of any voxel, m/s, and the smallest voxel. */
  fastest = 0;
  finest = 1;
  #values = { at: 0, tiles: 0 };
  #index = { at: 0, words: 0 };

  constructor(private readonly team: KernelTeam) {
    this.records = team.allocate(4 * RECORD * MOST_PARTS);
  }

  load(parts: readonly VelocityPart[]): void {
    const sorted = [...parts].sort((a, b) => a.voxelSize - b.voxelSize).slice(0, MOST_PARTS);
    const lookups = sorted.map((p) => new TileLookup(p.grid.origins));
    const tiles = sorted.reduce((n, p) => n + p.grid.origins.length / 3, 0);
    const words = lookups.reduce((n, l) => n + l.index.length, 0);
    if (tiles > this.#values.tiles) this.#values = { at: this.team.allocate(Math.ceil(1.5 * tiles) * 8192), tiles: Math.ceil(1.5 * tiles) };
    if (words > this.#index.words) this.#index = { at: this.team.allocate(Math.ceil(1.5 * words) * 4), words: Math.ceil(1.5 * words) };
    this.parts = sorted.length;
    const [x, y, z] = sorted[0]?.grid.background ?? [0, 0, 0];
    this.background = [x ?? 0, y ?? 0, z ?? 0];
    this.finest = sorted[0]?.voxelSize ?? 1;
    this.fastest = Math.max(...this.background.map(Math.abs));
    let { at: values } = this.#values;
    let { at: index } = this.#index;
    sorted.forEach(({ voxelSize, grid }, p) => {
      const lookup = lookups[p] as TileLookup;
      const record = this.team.pointers(this.records + 4 * RECORD * p, RECORD);
      record.set([values, index, ...lookup.low, ...lookup.size]);
      this.team.floats(this.records + 4 * RECORD * p, RECORD)[8] = 1 / voxelSize;
      this.team.words(index, lookup.index.length).set(lookup.index);
      this.#copy(values, grid.values);
      values += (grid.origins.length / 3) * 8192;
      index += 4 * lookup.index.length;
    });
  }

  /** Three floats a voxel become four. */
  #copy(pointer: number, from: Float32Array): void {
    const voxels = from.length / 3;
    const to = this.team.floats(pointer, 4 * voxels);
    let fastest = this.fastest;
    for (let n = 0, o = 0, t = 0; n < voxels; n++, o += 3, t += 4) {
      const x = from[o] as number;
      const y = from[o + 1] as number;
      const z = from[o + 2] as number;
      to[t] = x;
      to[t + 1] = y;
      to[t + 2] = z;
      const most = Math.max(Math.abs(x), Math.abs(y), Math.abs(z));
      if (most > fastest) fastest = most;
    }
    this.fastest = fastest;
  }
}

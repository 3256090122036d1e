import type { Pool } from './pool';
import { mayBe } from './window';

/** Parts that particles are counted in: always the same, so that the order is too. */
const CHUNKS = 16;
const COUNTERS = 2048;

/** Particles as a surface takes them: metres, m/s. */
export interface SurfaceParticles {
  readonly count: number;
  /** x, y, z and one more (not read) of each. */
  readonly places: Float32Array;
  /** vx, vy, vz and one more (not read) of each. */
  readonly motions: Float32Array;
  /** Metres, of each; null: all have one. */
  readonly radii: Float32Array | null;
}

/** Particles in the order of their cells (layout: src/kernels/assembly/liquid-sort.ts, surface-distance.ts). */
export interface Cells {
  readonly count: number;
  /** Metres a side. */
  readonly size: number;
  readonly tiles: number;
  /** First tile of the table, and tiles along each axis. */
  readonly origin: readonly [number, number, number];
  readonly across: readonly [number, number, number];
  readonly slotOf: number;
  /** i, j, k of each tile in the table (3 x i32). */
  readonly list: number;
  readonly cellStart: number;
  readonly tileStart: number;
  /** 2: the cell and all around it hold particles, 1: it does; 512 bytes a tile. */
  readonly deep: number;
  /** x, y, z in cells, radius in voxels. */
  readonly places: number;
  /** vx, vy, vz in m/s, volume in voxels. */
  readonly motions: number;
  /** The number of each before it was sorted, and three words more. */
  readonly marks: number;
}

/** What kernels take to find a cell. */
export const cellArguments = ({ slotOf, origin, across }: Cells): readonly number[] => [slotOf, ...origin, ...across];

interface SortOptions {
  readonly cellSize: number;
  readonly voxelSize: number;
  /** Of those whose radius is not given, and what stands for a particle's volume: metres. */
  readonly radius: number;
  /** Of a particle of the radius `radius`, cubic metres. */
  readonly volume: number;
}

/** Sorts particles into cells. `give` all of its buffers back when done (`cellBuffers`). */
export function sortIntoCells(pool: Pool, particles: SurfaceParticles, { cellSize, voxelSize, radius, volume }: SortOptions): Cells {
  const { team } = pool;
  const { count, radii } = particles;
  const bytes = Math.max(1, count) * 16;
  const raw = [pool.take(bytes), pool.take(bytes), pool.take(bytes)] as const;
  const [places, motions, marks] = [team.floats(raw[0], 4 * count), team.floats(raw[1], 4 * count), team.words(raw[2], 4 * count)];
  const low = [Infinity, Infinity, Infinity];
  const high = [-Infinity, -Infinity, -Infinity];
  const [overCell, own] = [1 / cellSize, volume / voxelSize ** 3];
  for (let n = 0, o = 0; n < count; n++, o += 4) {
    const r = radii ? (radii[n] ?? 0) : radius;
    for (let a = 0; a < 3; a++) {
      const at = (particles.places[o + a] as number) * overCell;
      places[o + a] = at;
      if (at < (low[a] as number)) low[a] = at;
      if (at > (high[a] as number)) high[a] = at;
      motions[o + a] = particles.motions[o + a] as number;
    }
    places[o + 3] = r / voxelSize;
    motions[o + 3] = radii ? own * (r / radius) ** 3 : own;
    marks[o] = n;
  }
  const first = low.map((v) => Math.floor(v) >> 3) as [number, number, number];
  const across = high.map((v, a) => (count > 0 ? (Math.floor(v) >> 3) - (first[a] ?? 0) + 1 : 0)) as [number, number, number];
  // The tiles of voxels lie as far apart as those of cells, times as many as a voxel is finer.
  const finer = cellSize / voxelSize;
  mayBe([across[0] * finer, across[1] * finer, across[2] * finer], voxelSize);
  const table = across[0] * across[1] * across[2];
  const slotOf = pool.take(Math.max(1, table) * 4);
  const slots = team.words(slotOf, table);
  slots.fill(-1);
  for (let n = 0, o = 0; n < count; n++, o += 4) {
    const x = (Math.floor(places[o] as number) >> 3) - first[0];
    const y = (Math.floor(places[o + 1] as number) >> 3) - first[1];
    const z = (Math.floor(places[o + 2] as number) >> 3) - first[2];
    slots[(z * across[1] + y) * across[0] + x] = 0;
  }
  const found: number[] = [];
  for (let n = 0; n < table; n++) {
    if (slots[n] !== 0) continue;
    slots[n] = found.length / 3;
    found.push(n % across[0], Math.floor(n / across[0]) % across[1], Math.floor(n / (across[0] * across[1])));
  }
  const tiles = found.length / 3;
  const list = pool.take(Math.max(1, tiles) * 12);
  team.words(list, found.length).set(found);
  const keys = pool.take(Math.max(1, count) * 4);
  const counts = pool.take(CHUNKS * (tiles + 1) * 4);
  const tileStart = pool.take((tiles + 2) * 4);
  const order = pool.take(Math.max(1, count) * 4);
  const cellStart = pool.take(tiles * 2048 + 64);
  const scratch = pool.take(team.threads * COUNTERS);
  const corner = first.map((v) => v * 8) as [number, number, number];
  team.launch('countParticles', CHUNKS, raw[0], raw[1], count, CHUNKS, keys, counts, tiles + 1, slotOf, ...corner, ...across);
  const sums = team.words(counts, CHUNKS * (tiles + 1));
  const starts = team.words(tileStart, tiles + 2);
  let sum = 0;
  for (let s = 0; s <= tiles; s++) {
    starts[s] = sum;
    for (let c = 0; c < CHUNKS; c++) {
      const at = c * (tiles + 1) + s;
      const here = sums[at] ?? 0;
      sums[at] = sum;
      sum += here;
    }
  }
  starts[tiles + 1] = sum;
  team.launch('orderParticles', CHUNKS, count, CHUNKS, keys, counts, tiles + 1, order);
  const sorted = [pool.take(bytes), pool.take(bytes), pool.take(bytes)] as const;
  team.launch('sortTiles', tiles, tileStart, order, keys, cellStart, ...raw, 0, ...sorted, 0, scratch);
  pool.give(...raw, keys, counts, order, scratch);
  const cells: Cells = {
    count,
    size: cellSize,
    tiles,
    origin: first,
    across,
    slotOf,
    list,
    cellStart,
    tileStart,
    deep: pool.take(Math.max(1, tiles) * 512),
    places: sorted[0],
    motions: sorted[1],
    marks: sorted[2],
  };
  team.launch('deepCells', tiles, list, ...cellArguments(cells), cellStart, cells.deep);
  return cells;
}

export const cellBuffers = (c: Cells): readonly number[] => [
  c.slotOf,
  c.list,
  c.cellStart,
  c.tileStart,
  c.deep,
  c.places,
  c.motions,
  c.marks,
];

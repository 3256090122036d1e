import { distanceTable, offsetOfHalfSpace } from '#core/math';
import { BAND, bandOfCells } from './band';
import { type Cells, cellArguments } from './cells';
import { Level } from './level';
import type { Pool } from './pool';

export const METHODS = ['averaged', 'balls', 'kernels'] as const;
/** Averaged position (Zhu & Bridson 2005), union of balls, anisotropic kernels (Yu & Turk 2013). */
export type Method = (typeof METHODS)[number];

export interface DistanceOptions {
  readonly method: Method;
  /** Metres. */
  readonly voxelSize: number;
  readonly spacing: number;
  readonly radius: number;
  /** Of each particle its own, in its place's fourth. */
  readonly each: boolean;
  /** How far a particle counts, metres: averaged position, and neighbours of the kernels. */
  readonly reach: number;
  /** Surfaces less far apart than this flow together, metres; null: as the method has it. */
  readonly joining: number | null;
  /** Kernels: with fewer particles around one is a ball. */
  readonly fewest: number;
}

/** Radius, in parts of the reach, at which a flat surface by the mean place lies half a spacing beyond the outermost particles. */
export const NATURAL = offsetOfHalfSpace(0);
/** Cells of a particle's reach. */
const CELLS = 1.5;
const ENTRIES = 256;
/** Bytes of a thread. */
const SUMS = 6 * 2048 + 128;

/** Cells that particles are to be sorted into for such a distance, metres. */
export const cellSizeOf = (reach: number): number => reach / CELLS;

/** What is known of each particle's surroundings (in the order of the cells). */
export interface Surroundings {
  /** 16 floats of each, for `kernels`; 0: none. */
  readonly shapes: number;
  /** How thick the liquid is there, voxels; 1e9 deep inside. */
  readonly thickness: number;
}

/** Looks at the particles around each. `shapes`: for the anisotropic kernels too. */
export function surroundings(pool: Pool, cells: Cells, o: DistanceOptions): Surroundings {
  const { team } = pool;
  const thickness = pool.take(Math.max(1, cells.count) * 4);
  const shapes = o.method === 'kernels' ? pool.take(Math.max(1, cells.count) * 64) : 0;
  const scratch = pool.take(team.threads * 192);
  const ratio = cells.size / o.voxelSize;
  team.launch(
    'neighbourhoods',
    cells.tiles,
    cells.list,
    ...cellArguments(cells),
    cells.cellStart,
    cells.deep,
    cells.places,
    cells.motions,
    ratio,
    CELLS,
    (o.reach / o.voxelSize) * (2 / 3),
    o.spacing / o.voxelSize,
    shapes,
    thickness,
    scratch,
  );
  pool.give(scratch);
  return { shapes, thickness };
}

/** The surface of particles that are sorted into cells: what the method gives, as a distance. `around` is needed by kernels alone. */
export function distanceOf(pool: Pool, cells: Cells, o: DistanceOptions, around: Surroundings | null): Level {
  const { team } = pool;
  const h = o.voxelSize;
  const ratio = cells.size / h;
  const joins = o.method === 'balls' && o.joining !== null ? o.joining / 2 : 0;
  let largest = o.radius;
  if (o.each) {
    const places = team.floats(cells.places, 4 * cells.count);
    largest = 0;
    for (let n = 0; n < cells.count; n++) largest = Math.max(largest, (places[4 * n + 3] as number) * h);
  }
  // Of kernels the longest axis may be longer than that of a full ball: a line of particles is.
  const stretched = 2.5;
  const reach =
    o.method === 'averaged'
      ? o.reach
      : o.method === 'balls'
        ? largest + joins + 2 * h
        : Math.max(o.reach * (2 / 3) * stretched, largest + 2 * h);
  // No liquid lies further from all particles than this: only tiles that near can hold the surface.
  const near = o.method === 'averaged' && o.joining !== null ? Math.min(reach, (o.joining + o.spacing) / 2 + h) : reach;
  const band = bandOfCells(pool, cells, h, near);
  const field = pool.take(Math.max(1, band.slots) * 2048);
  const scratch = pool.take(team.threads * Math.max(SUMS, 16384));
  const finder = cellArguments(cells);
  if (o.method === 'kernels') {
    const [sum, balls] = [pool.take(Math.max(1, band.slots) * 2048), pool.take(Math.max(1, band.slots) * 2048)];
    const shapes = around?.shapes ?? 0;
    const { slots, records } = band;
    team.launch(
      'tileKernels',
      slots,
      records,
      sum,
      balls,
      ...finder,
      cells.cellStart,
      cells.places,
      shapes,
      ratio,
      reach / h,
      o.radius / h,
      o.each ? 1 : 0,
      o.fewest,
      BAND,
      scratch,
    );
    const shift = (o.radius - NATURAL * o.reach) / h;
    team.launch(
      'levelDistance',
      slots,
      records,
      band.around,
      sum,
      balls,
      field,
      o.each ? 0 : shift,
      BAND,
      ...finder,
      cells.deep,
      ratio,
      scratch,
    );
    pool.give(sum, balls);
  } else {
    const entries = distanceTable(ENTRIES);
    const table = pool.take(4 * ENTRIES);
    team.floats(table, ENTRIES).set(entries);
    const own = (o.radius / o.reach) * (ENTRIES - 1);
    const low = Math.min(ENTRIES - 2, Math.floor(own));
    const at = (entries[low] ?? 0) + ((entries[low + 1] ?? 0) - (entries[low] ?? 0)) * (own - low);
    const averaged = o.method === 'averaged';
    team.launch(
      'tileDistance',
      band.slots,
      band.records,
      field,
      ...finder,
      cells.cellStart,
      cells.deep,
      cells.places,
      cells.motions,
      averaged ? 0 : 1,
      ratio,
      reach / h,
      table,
      averaged ? (o.reach / h) * at : joins / h,
      o.each ? 1 : 0,
      o.joining === null ? 0 : (o.joining + o.spacing) / 2 / h,
      BAND,
      scratch,
    );
    pool.give(table);
  }
  pool.give(scratch);
  const level = new Level(pool, band, field);
  level.redistance();
  if (joins > 0) level.offset(-joins / h);
  return level;
}

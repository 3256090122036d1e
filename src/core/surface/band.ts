import type { Cells } from './cells';
import type { Pool } from './pool';
import { mayBe } from './window';

/** Voxels to either side of the surface in which the distance is known. */
export const BAND = 4;
/** Of a tile: words of its neighbours, its record. */
const AROUND_WORDS = 27;
const RECORD_WORDS = 4;
const OUTSIDE = -1;
const INSIDE = -2;
/** Bytes of a tile in a field. */
export const FIELD_BYTES = 2048;

/** The tiles of a band: which there are, and which are around each (layout: src/kernels/assembly/surface-tiles.ts). */
export interface Band {
  readonly slots: number;
  readonly origin: readonly [number, number, number];
  readonly across: readonly [number, number, number];
  /** Slot of each of the window's tiles; -1 outside, -2 inside. */
  readonly table: number;
  readonly records: number;
  readonly around: number;
  /** Tiles of which every voxel is inside. */
  readonly inside: number;
}

export const bandBuffers = (b: Band): readonly number[] => [b.table, b.records, b.around];

type Three = readonly [number, number, number];

/** A band whose tiles are those of `states` that are 1 (0: outside, 2: inside), a window of `across` tiles from `origin`. */
export function makeBand(pool: Pool, origin: Three, across: Three, states: Uint8Array): Band {
  const { team } = pool;
  const [nx, ny, nz] = across;
  const table = pool.take(Math.max(1, states.length) * 4);
  const slotOf = team.words(table, states.length);
  let slots = 0;
  let inside = 0;
  for (let n = 0; n < states.length; n++) {
    const state = states[n];
    slotOf[n] = state === 1 ? slots++ : state === 2 ? INSIDE : OUTSIDE;
    if (state === 2) inside++;
  }
  const records = pool.take(Math.max(1, slots) * RECORD_WORDS * 4);
  const around = pool.take(Math.max(1, slots) * AROUND_WORDS * 4);
  const record = team.words(records, slots * RECORD_WORDS);
  const neighbours = team.words(around, slots * AROUND_WORDS);
  let n = 0;
  for (let z = 0; z < nz; z++) {
    for (let y = 0; y < ny; y++) {
      for (let x = 0; x < nx; x++, n++) {
        const slot = slotOf[n] as number;
        if (slot < 0) continue;
        const r = slot * RECORD_WORDS;
        record[r] = (x + origin[0]) * 8;
        record[r + 1] = (y + origin[1]) * 8;
        record[r + 2] = (z + origin[2]) * 8;
        let a = slot * AROUND_WORDS;
        for (let k = z - 1; k <= z + 1; k++) {
          for (let j = y - 1; j <= y + 1; j++) {
            for (let i = x - 1; i <= x + 1; i++) {
              const there = i >= 0 && j >= 0 && k >= 0 && i < nx && j < ny && k < nz;
              neighbours[a++] = there ? (slotOf[(k * ny + j) * nx + i] as number) : OUTSIDE;
            }
          }
        }
      }
    }
  }
  return { slots, origin, across, table, records, around, inside };
}

/** The tiles within `reach` (metres) of particles that are not deep inside; those that are deep are inside. */
export function bandOfCells(pool: Pool, cells: Cells, voxelSize: number, reach: number): Band {
  const { team } = pool;
  const c = cells.size;
  const tile = 8 * voxelSize;
  if (cells.tiles === 0) return makeBand(pool, [0, 0, 0], [0, 0, 0], new Uint8Array(0));
  const low = (a: 0 | 1 | 2): number => Math.floor((cells.origin[a] * 8 * c - reach) / tile) - 1;
  const high = (a: 0 | 1 | 2): number => Math.floor(((cells.origin[a] + cells.across[a]) * 8 * c + reach) / tile) + 1;
  const origin = [low(0), low(1), low(2)] as const;
  const across = [high(0) - low(0) + 1, high(1) - low(1) + 1, high(2) - low(2) + 1] as const;
  mayBe(across, voxelSize);
  const [nx] = across;
  const states = new Uint8Array(across[0] * across[1] * across[2]);
  const list = team.words(cells.list, cells.tiles * 3);
  const deep = team.bytes(cells.deep, cells.tiles * 512);
  const over = 1 / tile;
  // A sample lies in the middle of its voxel: tiles whose samples a cell's particles reach.
  const first = (cell: number, o: number, grow: number): number => Math.floor((cell * c - grow) * over) - o;
  for (let t = 0; t < cells.tiles; t++) {
    const i0 = ((list[3 * t] ?? 0) + cells.origin[0]) * 8;
    const j0 = ((list[3 * t + 1] ?? 0) + cells.origin[1]) * 8;
    const k0 = ((list[3 * t + 2] ?? 0) + cells.origin[2]) * 8;
    for (let n = 0; n < 512; n++) {
      const state = deep[t * 512 + n];
      if (state === 0) continue;
      const grow = state === 1 ? reach : 0;
      const mark = state === 1 ? 1 : 2;
      const [i, j, k] = [i0 + (n & 7), j0 + ((n >> 3) & 7), k0 + (n >> 6)];
      const [x0, x1] = [first(i, origin[0], grow), first(i + 1, origin[0], -grow)];
      const [y0, y1] = [first(j, origin[1], grow), first(j + 1, origin[1], -grow)];
      const [z0, z1] = [first(k, origin[2], grow), first(k + 1, origin[2], -grow)];
      for (let z = z0; z <= z1; z++) {
        for (let y = y0; y <= y1; y++) {
          const row = (z * across[1] + y) * nx;
          for (let x = x0; x <= x1; x++) if (states[row + x] !== 1) states[row + x] = mark;
        }
      }
    }
  }
  return makeBand(pool, origin, across, states);
}

/** A field of a band that goes over to another, and what it is where it was not: a number, or the band's width by the side that lies there. */
export interface Carried {
  readonly pointer: number;
  readonly otherwise: number | 'side';
}

/**
 * The tiles within the band of the zero line of `field`, and fields carried over to them (in their order). What is left out is all inside or all outside. The band
 * that was given is given back, and its fields.
 */
export function followZero(
  pool: Pool,
  band: Band,
  field: number,
  carried: readonly Carried[],
): { readonly band: Band; readonly fields: readonly number[] } {
  const { team } = pool;
  const boxes = pool.take(Math.max(1, band.slots) * 8);
  const scratch = pool.take(team.threads * 16384);
  team.launch('findNear', band.slots, band.around, field, BAND, boxes, scratch);
  const box = team.bytes(boxes, band.slots * 8);
  const record = team.words(band.records, band.slots * RECORD_WORDS);
  const was = team.words(band.table, band.across[0] * band.across[1] * band.across[2]);
  // A tile around the window may be needed.
  const origin = band.origin.map((v) => v - 1) as [number, number, number];
  const across = band.across.map((v) => (v === 0 ? 0 : v + 2)) as [number, number, number];
  const [nx, ny, nz] = across;
  const states = new Uint8Array(nx * ny * nz);
  const values = team.floats(field, band.slots * 512);
  for (let z = 1, n = 0; z < nz - 1; z++) {
    for (let y = 1; y < ny - 1; y++) {
      for (let x = 1; x < nx - 1; x++, n++) {
        const slot = was[n] as number;
        const inside = slot === INSIDE || (slot >= 0 && (values[slot * 512] as number) < 0);
        if (inside) states[(z * ny + y) * nx + x] = 2;
      }
    }
  }
  for (let s = 0; s < band.slots; s++) {
    const b = s * 8;
    if (box[b + 6] === 0) continue;
    const at = [0, 1, 2].map((a) => ((record[s * RECORD_WORDS + a] ?? 0) >> 3) - (origin[a] ?? 0));
    const from = (a: number): number => (at[a] ?? 0) - ((box[b + a] ?? 0) < BAND ? 1 : 0);
    const to = (a: number): number => (at[a] ?? 0) + ((box[b + 3 + a] ?? 0) > 7 - BAND ? 1 : 0);
    for (let z = from(2); z <= to(2); z++)
      for (let y = from(1); y <= to(1); y++) for (let x = from(0); x <= to(0); x++) states[(z * ny + y) * nx + x] = 1;
  }
  const made = makeBand(pool, origin, across, states);
  const fields = carryFields(pool, band, made, carried);
  pool.give(boxes, scratch, ...bandBuffers(band), ...carried.map((f) => f.pointer));
  return { band: made, fields };
}

/** State of a tile of a band: 1 it is there, 0 outside, 2 inside. */
const stateOf = (slot: number): 0 | 1 | 2 => (slot >= 0 ? 1 : slot === OUTSIDE ? 0 : 2);

/** Slots of a band by tile. */
function finderOf(pool: Pool, { origin, across, table }: Band): (x: number, y: number, z: number) => number {
  const slots = pool.team.words(table, across[0] * across[1] * across[2]);
  return (x, y, z) => {
    const [i, j, k] = [x - origin[0], y - origin[1], z - origin[2]];
    const there = i >= 0 && j >= 0 && k >= 0 && i < across[0] && j < across[1] && k < across[2];
    return there ? (slots[(k * across[1] + j) * across[0] + i] as number) : OUTSIDE;
  };
}

/** Fields of a band in the order of another's tiles. */
export function carryFields(pool: Pool, from: Band, to: Band, carried: readonly Carried[]): number[] {
  const { team } = pool;
  const find = finderOf(pool, from);
  const record = team.words(to.records, to.slots * RECORD_WORDS);
  return carried.map(({ pointer, otherwise }) => {
    const target = pool.take(Math.max(1, to.slots) * FIELD_BYTES);
    const values = team.floats(pointer, from.slots * 512);
    const into = team.floats(target, to.slots * 512);
    for (let s = 0; s < to.slots; s++) {
      const r = s * RECORD_WORDS;
      const old = find((record[r] as number) >> 3, (record[r + 1] as number) >> 3, (record[r + 2] as number) >> 3);
      if (old >= 0) into.set(values.subarray(old * 512, old * 512 + 512), s * 512);
      else into.fill(otherwise === 'side' ? (old === INSIDE ? -BAND : BAND) : otherwise, s * 512, s * 512 + 512);
    }
    return target;
  });
}

/** The tiles of two bands; what neither has is as the second says. */
export function unionBand(pool: Pool, a: Band, b: Band): Band {
  const bands = [a, b].filter((band) => band.across[0] > 0);
  if (bands.length === 0) return makeBand(pool, [0, 0, 0], [0, 0, 0], new Uint8Array(0));
  const low = (n: 0 | 1 | 2): number => Math.min(...bands.map((band) => band.origin[n]));
  const high = (n: 0 | 1 | 2): number => Math.max(...bands.map((band) => band.origin[n] + band.across[n]));
  const origin = [low(0), low(1), low(2)] as const;
  const across = [high(0) - low(0), high(1) - low(1), high(2) - low(2)] as const;
  const [first, second] = [finderOf(pool, a), finderOf(pool, b)];
  const states = new Uint8Array(across[0] * across[1] * across[2]);
  for (let z = 0, n = 0; z < across[2]; z++)
    for (let y = 0; y < across[1]; y++)
      for (let x = 0; x < across[0]; x++, n++) {
        const at = [x + origin[0], y + origin[1], z + origin[2]] as const;
        states[n] = first(...at) >= 0 ? 1 : stateOf(second(...at));
      }
  return makeBand(pool, origin, across, states);
}

import { RuddleError } from '#core/errors';
import { formatBytes } from '#core/units';
import { type KernelTeam, TILE, type Window, entries, hierarchyBytes, planeStride } from '#core/grid';
import type { GasOptions } from './options';

/**
 * Pointers to the fields of a gas run: 13 float32 arrays in the window's layout, 2 more where something burns, 3 for each vector that is carried along. u, v, w lie on the low faces of their cell, the
 * scalars at its centre. The scratch arrays are 0 outside active tiles between stages.
 */
export interface GasFields {
  u: number;
  v: number;
  w: number;
  density: number;
  temperature: number;
  /** Only where something burns, else 0 (no memory): fuel, and the fuel burnt a second. */
  fuel: number;
  flame: number;
  /** Only where they are carried, else 0: density x colour, and density x texture coordinate (carried.ts). */
  red: number;
  green: number;
  blue: number;
  across: number;
  up: number;
  along: number;
  /** Pressure x dt / (rho h), m/s; kept as the next solve's first guess. */
  phi: number;
  a: number;
  b: number;
  c: number;
  r: number;
  z: number;
  p: number;
  q: number;
}

export const FIELD_NAMES = [
  'u',
  'v',
  'w',
  'density',
  'temperature',
  'phi',
  'a',
  'b',
  'c',
  'r',
  'z',
  'p',
  'q',
] as const satisfies readonly (keyof GasFields)[];
const FIRE_NAMES = ['fuel', 'flame'] as const satisfies readonly (keyof GasFields)[];
export const COLOUR_NAMES = ['red', 'green', 'blue'] as const satisfies readonly (keyof GasFields)[];
export const COORDINATE_NAMES = ['across', 'up', 'along'] as const satisfies readonly (keyof GasFields)[];
const EXTRA_NAMES = [...FIRE_NAMES, ...COLOUR_NAMES, ...COORDINATE_NAMES] as const;
export type FieldName = (typeof FIELD_NAMES)[number] | (typeof EXTRA_NAMES)[number];

/** What of matter decides which fields a run has. */
export type Contents = Pick<GasOptions['matter'], 'fire' | 'colour' | 'coordinates'>;

/** Fields that a run has. */
export const fieldNames = ({ fire, colour, coordinates }: Contents): readonly FieldName[] => [
  ...FIELD_NAMES,
  ...(fire ? FIRE_NAMES : []),
  ...(colour ? COLOUR_NAMES : []),
  ...(coordinates ? COORDINATE_NAMES : []),
];

/** Those that hold nothing between stages. */
export const SCRATCH = ['a', 'b', 'c', 'r', 'z', 'p', 'q'] as const satisfies readonly (keyof GasFields)[];

/** For cut blocks, lists and noise lattices. */
const EXTRA = 256 * 1024 * 1024;

/** Bytes that a window of this size would touch. */
export const windowBytes = (w: Window, contents: Contents): number => {
  const size = entries(w.nx, w.ny, w.nz);
  return size * fieldNames(contents).length * 4 + hierarchyBytes(w, size);
};

/** Entries to set aside for each field: enough for the whole limit box, or as many as the arena holds. */
export function capacityFor(limit: Window, availableBytes: number, contents: Contents): number {
  const full = entries(limit.nx, limit.ny, limit.nz);
  if (windowBytes(limit, contents) + EXTRA <= availableBytes) return full;
  // The coarse levels take about a quarter of the finest one's bytes on top.
  const possible = Math.floor((availableBytes - EXTRA) / ((fieldNames(contents).length * 4 + 2) * 1.2));
  if (possible < entries(TILE, TILE, TILE)) checkFits(windowBytes(limit, contents), availableBytes);
  return Math.min(full, possible);
}

/** Said before a run; needed and available named, and what to do. */
export const doNotFit = (needed: number, available: number): string =>
  `The bounds do not fit into memory at this voxel size: ${formatBytes(needed)} are needed, ${formatBytes(available)} are there. Make the limit box or the sources smaller, the voxels larger, or the bounds adaptive.`;

/** Refuses, before anything is computed, windows that the arena cannot hold. */
export function checkFits(windowsBytes: number, availableBytes: number): void {
  const needed = windowsBytes + EXTRA;
  if (needed > availableBytes) {
    throw new RuddleError('arena-too-small', doNotFit(needed, availableBytes), {
      neededBytes: needed,
      availableBytes,
      frame: null,
    });
  }
}

export function allocateFields(team: KernelTeam, capacity: number, contents: Contents): GasFields {
  const fields = Object.fromEntries(EXTRA_NAMES.map((name) => [name, 0])) as unknown as GasFields;
  for (const name of fieldNames(contents)) fields[name] = team.allocate(capacity * 4);
  return fields;
}

/** Sets a whole window of a field, halo included. */
export function fillWindow(team: KernelTeam, w: Window, field: number, value: number): void {
  team.launch('fillPlanes', w.nz + 2, field, planeStride(w.nx, w.ny), value);
}

import { RuddleError } from '#core/errors';
import { formatBytes } from '#core/units';
import { type KernelTeam, TILE, type Window, entries, hierarchyBytes, planeStride } from '#core/grid';

/**
 * Pointers to the fields of a gas run: 13 float32 arrays (15 where something burns) in the window's layout. u, v, w lie on the low faces of their cell, the
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
export type FieldName = (typeof FIELD_NAMES)[number] | 'fuel' | 'flame';

/** Fields that a run has. */
export const fieldNames = (fire: boolean): readonly FieldName[] => (fire ? [...FIELD_NAMES, 'fuel', 'flame'] : FIELD_NAMES);

/** Those that hold nothing between stages. */
export const SCRATCH = ['a', 'b', 'c', 'r', 'z', 'p', 'q'] as const satisfies readonly (keyof GasFields)[];

/** For cut blocks, lists and noise lattices. */
const EXTRA = 256 * 1024 * 1024;

/** Bytes that a window of this size would touch. */
export const windowBytes = (w: Window, fire: boolean): number => {
  const size = entries(w.nx, w.ny, w.nz);
  return size * fieldNames(fire).length * 4 + hierarchyBytes(w, size);
};

/** Entries to set aside for each field: enough for the whole limit box, or as many as the arena holds. */
export function capacityFor(limit: Window, availableBytes: number, fire: boolean): number {
  const full = entries(limit.nx, limit.ny, limit.nz);
  if (windowBytes(limit, fire) + EXTRA <= availableBytes) return full;
  // The coarse levels take about a quarter of the finest one's bytes on top.
  const possible = Math.floor((availableBytes - EXTRA) / ((fieldNames(fire).length * 4 + 2) * 1.2));
  if (possible < entries(TILE, TILE, TILE)) checkFits(limit, availableBytes, fire);
  return Math.min(full, possible);
}

/** Said before a run; needed and available named, and what to do. */
export const doNotFit = (needed: number, available: number): string =>
  `The bounds do not fit into memory at this voxel size: ${formatBytes(needed)} are needed, ${formatBytes(available)} are there. Make the limit box smaller, the voxels larger, or the bounds adaptive.`;

/** Refuses, before anything is computed, a window that the arena cannot hold. */
export function checkFits(limit: Window, availableBytes: number, fire: boolean): void {
  const needed = windowBytes(limit, fire) + EXTRA;
  if (needed > availableBytes) {
    throw new RuddleError('arena-too-small', doNotFit(needed, availableBytes), {
      neededBytes: needed,
      availableBytes,
      frame: null,
    });
  }
}

export function allocateFields(team: KernelTeam, capacity: number, fire: boolean): GasFields {
  const fields = { fuel: 0, flame: 0 } as GasFields;
  for (const name of fieldNames(fire)) fields[name] = team.allocate(capacity * 4);
  return fields;
}

/** Sets a whole window of a field, halo included. */
export function fillWindow(team: KernelTeam, w: Window, field: number, value: number): void {
  team.launch('fillPlanes', w.nz + 2, field, planeStride(w.nx, w.ny), value);
}

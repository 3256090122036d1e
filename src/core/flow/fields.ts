import { RuddleError } from '#core/errors';
import { type KernelTeam, TILE, type Window, entries, hierarchyBytes, planeStride } from '#core/grid';
import { formatBytes } from '#core/units';

/**
 * Pointers to the fields that every flow has: float32 arrays in the window's layout. u, v, w lie on the low faces of their cell, scalars at its centre. The
 * scratch arrays are 0 outside active tiles between stages.
 */
export interface FlowFields {
  u: number;
  v: number;
  w: number;
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

/** Those that hold nothing between stages. */
export const SCRATCH = ['a', 'b', 'c', 'r', 'z', 'p', 'q'] as const satisfies readonly (keyof FlowFields)[];

/** What a flow holds: all its fields, what scalars hold where nothing is (0 when they are not named), and those that are counted. */
export interface Contents<F extends FlowFields> {
  readonly names: readonly (keyof F & string)[];
  readonly ambient: Readonly<Partial<Record<keyof F, number>>>;
  /** Matter whose sums are told when tiles go to sleep, or solids sweep them; and what rides on it. */
  readonly counted: readonly (keyof F & string)[];
  readonly riding: readonly (keyof F & string)[];
}

/** For cut blocks, lists and noise lattices. */
const EXTRA = 256 * 1024 * 1024;

/** Bytes that a window of this size would touch, with so many fields. */
export const bytesOfWindow = (w: Window, fields: number): number => {
  const size = entries(w.nx, w.ny, w.nz);
  return size * fields * 4 + hierarchyBytes(w, size);
};

/** Entries to set aside for each field: enough for the whole limit box, or as many as the arena holds. */
export function capacityFor(limit: Window, availableBytes: number, fields: number): number {
  const full = entries(limit.nx, limit.ny, limit.nz);
  if (bytesOfWindow(limit, fields) + EXTRA <= availableBytes) return full;
  // The coarse levels take about a quarter of the finest one's bytes on top.
  const possible = Math.floor((availableBytes - EXTRA) / ((fields * 4 + 2) * 1.2));
  if (possible < entries(TILE, TILE, TILE)) checkFits(bytesOfWindow(limit, fields), availableBytes);
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

/** Sets a whole window of a field, halo included. */
export function fillWindow(team: KernelTeam, w: Window, field: number, value: number): void {
  team.launch('fillPlanes', w.nz + 2, field, planeStride(w.nx, w.ny), value);
}

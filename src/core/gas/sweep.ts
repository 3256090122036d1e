import type { KernelTeam, Level, MovingSolid } from '#core/grid';
import { carriedFields } from './carried';
import type { GasFields } from './fields';
import type { Amounts } from './report';

/** Amounts x voxels. */
export interface Swept {
  /** In cells that a solid covered. */
  readonly lost: Amounts;
  /** Filled into cells that a solid left, as their neighbours have it. */
  readonly filled: Amounts;
}

export interface Sweep {
  readonly team: KernelTeam;
  readonly level: Level;
  readonly fields: GasFields;
  /** Status bytes of the same window before the solids moved. */
  readonly before: Uint8Array;
  readonly moving: readonly MovingSolid[];
  readonly voxelSize: number;
  readonly ambient: number;
}

/** Layers of cells that are filled behind a solid from what lies beside them; it moves less than a few voxels in a substep. */
const LAYERS = 6;

/**
 * What moving solids do to the cells that they cover and leave in one substep. The flow carries matter out of their way; what is in a cell when it is
 * covered goes, and cells that are left take the values of the open cells beside, layer by layer (decisions.md). Both are booked: over a motion they
 * nearly cancel.
 *
 * Rejected: pushing the covered density into the open cells beside. What the flow has already carried ahead is then counted twice: a uniform density of
 * 1 stirred by a paddle rose to 1.66.
 */
export function sweep({ team, level, fields, before, moving, voxelSize: h, ambient }: Sweep): Swept {
  const { window: w, sx, sp } = level;
  const size = before.length;
  const status = team.bytes(level.status, size);
  const density = team.floats(fields.density, size);
  const temperature = team.floats(fields.temperature, size);
  const phi = team.floats(fields.phi, size);
  /** What else is 0 where nothing is. */
  const others = [...(fields.fuel === 0 ? [] : [fields.fuel]), ...carriedFields(fields).flat()].map((field) => team.floats(field, size));
  const steps = [-1, 1, -sx, sx, -sp, sp] as const;
  const covered: number[] = [];
  let left: number[] = [];
  // Near the solids only, and one layer around: nothing else can have changed.
  const seen = new Set<number>();
  for (const { bounds } of moving) {
    const low = (a: 0 | 1 | 2, o: number): number => Math.max(0, Math.floor(bounds.min[a] / h) - MARGIN - o);
    const high = (a: 0 | 1 | 2, o: number, n: number): number => Math.min(n, Math.ceil(bounds.max[a] / h) + MARGIN - o);
    for (let k = low(2, w.oz); k < high(2, w.oz, w.nz); k++) {
      for (let j = low(1, w.oy); j < high(1, w.oy, w.ny); j++) {
        let at = ((k + 1) * (w.ny + 2) + (j + 1)) * sx + 4 + low(0, w.ox);
        for (let i = low(0, w.ox); i < high(0, w.ox, w.nx); i++, at++) {
          if (before[at] === status[at]) continue;
          if (moving.length > 1) {
            if (seen.has(at)) continue;
            seen.add(at);
          }
          if (before[at] === 1 && status[at] === 0) covered.push(at);
          else if (before[at] === 0 && status[at] === 1) left.push(at);
        }
      }
    }
  }
  const lost = { mass: 0, heat: 0 };
  for (const at of covered) {
    lost.mass += density[at] ?? 0;
    lost.heat += (temperature[at] ?? 0) - ambient;
    density[at] = 0;
    temperature[at] = ambient;
    // The pressure's kernels rely on it: 0 wherever there is no unknown.
    phi[at] = 0;
    for (const other of others) other[at] = 0;
  }
  const filled = { mass: 0, heat: 0 };
  const known = (at: number): boolean => status[at] === 1 && before[at] === 1;
  const done = new Set<number>();
  for (let layer = 0; layer < LAYERS && left.length > 0; layer++) {
    const next: number[] = [];
    const now: [number, number, number, readonly number[]][] = [];
    for (const at of left) {
      const open = steps.filter((s) => known(at + s) || done.has(at + s));
      if (open.length === 0) {
        next.push(at);
        continue;
      }
      const mean = (field: Float32Array): number => open.reduce((sum, s) => sum + (field[at + s] ?? 0), 0) / open.length;
      now.push([at, mean(density), mean(temperature), others.map(mean)]);
    }
    for (const [at, d, t, rest] of now) {
      others.forEach((other, n) => (other[at] = rest[n] ?? 0));
      density[at] = d;
      temperature[at] = t;
      filled.mass += d;
      filled.heat += t - ambient;
      done.add(at);
    }
    left = next;
  }
  for (const at of left) {
    density[at] = 0;
    temperature[at] = ambient;
  }
  return { lost, filled };
}

/** Voxels around a solid's box in which cells may have changed: a substep's travel of an ordinary CFL number and more. */
const MARGIN = 9;

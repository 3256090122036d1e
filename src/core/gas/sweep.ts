import type { GeometryCache, KernelTeam, Level } from '#core/grid';
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

/** An active tile in which solids may have moved. */
export interface TouchedTile {
  readonly tile: readonly [number, number, number];
  /** Index of its first cell. */
  readonly base: number;
  /** Its cells' kinds before the solids moved, as TileGeometry.status. */
  readonly before: Uint8Array | null;
}

export interface Sweep {
  readonly team: KernelTeam;
  readonly level: Level;
  readonly fields: GasFields;
  readonly touched: readonly TouchedTile[];
  readonly geometry: GeometryCache;
  readonly ambient: number;
}

/** Layers of cells that are filled behind a solid from what lies beside them; it moves less than a few voxels in a substep. */
const LAYERS = 6;

/**
 * What moving solids do to the cells that they cover and leave in one substep. The flow carries matter out of their way; what is in a cell when it is
 * covered goes, and cells that are left take the values of the open cells beside, layer by layer (decisions.md). Both are recorded: over a motion they
 * nearly cancel.
 *
 * Rejected: pushing the covered density into the open cells beside. What the flow has already carried ahead is then counted twice: a uniform density of
 * 1 stirred by a paddle rose to 1.66.
 */
export function sweep({ team, level, fields, touched, geometry, ambient }: Sweep): Swept {
  const { window: w, sx, sp } = level;
  const size = (w.nz + 2) * sp + 16;
  const status = team.bytes(level.status, size);
  const density = team.floats(fields.density, size);
  const temperature = team.floats(fields.temperature, size);
  const phi = team.floats(fields.phi, size);
  /** What else is 0 where nothing is. */
  const others = [...(fields.fuel === 0 ? [] : [fields.fuel]), ...carriedFields(fields).flat()].map((field) => team.floats(field, size));
  const steps = [-1, 1, -sx, sx, -sp, sp] as const;
  const covered: number[] = [];
  let left: number[] = [];
  for (const { tile, base, before } of touched) {
    const after = geometry.tile(0, ...tile).status;
    if (!before && !after) continue;
    for (let c = 0; c < 512; c++) {
      const [was, is] = [before?.[c] ?? 1, after?.[c] ?? 1];
      if (was === is) continue;
      const at = base + (c >> 6) * sp + ((c >> 3) & 7) * sx + (c & 7);
      if (is === 0) covered.push(at);
      else left.push(at);
    }
  }
  // In the order of the fields: sums do not depend on that of the tiles.
  covered.sort((p, q) => p - q);
  left.sort((p, q) => p - q);
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
  const unknown = new Set(left);
  for (let layer = 0; layer < LAYERS && left.length > 0; layer++) {
    const next: number[] = [];
    const now: [number, number, number, readonly number[]][] = [];
    for (const at of left) {
      const open = steps.filter((s) => status[at + s] === 1 && !unknown.has(at + s));
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
    }
    for (const [at] of now) unknown.delete(at);
    left = next;
  }
  for (const at of left) {
    density[at] = 0;
    temperature[at] = ambient;
  }
  return { lost, filled };
}

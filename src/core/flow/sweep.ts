import type { GeometryCache, KernelTeam, Level } from '#core/grid';

/** Sums over cells of the scalars that are counted, each from what it is where nothing is. */
export interface Swept {
  /** In cells that a solid covered. */
  readonly lost: readonly number[];
  /** Filled into cells that a solid left, as their neighbours have it. */
  readonly filled: readonly number[];
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
  /** Those that are counted first. */
  readonly scalars: readonly { readonly field: number; readonly nothing: number }[];
  readonly counted: number;
  readonly phi: number;
  readonly touched: readonly TouchedTile[];
  readonly geometry: GeometryCache;
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
export function sweep({ team, level, scalars, counted, phi: pressure, touched, geometry }: Sweep): Swept {
  const { window: w, sx, sp } = level;
  const size = (w.nz + 2) * sp + 16;
  const status = team.bytes(level.status, size);
  const phi = team.floats(pressure, size);
  const held = scalars.map(({ field, nothing }) => ({ values: team.floats(field, size), nothing }));
  const count = (sums: number[], at: number): void => {
    for (let k = 0; k < counted; k++) sums[k] = (sums[k] ?? 0) + ((held[k]?.values[at] ?? 0) - (held[k]?.nothing ?? 0));
  };
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
  const none = (): number[] => Array.from({ length: counted }, () => 0);
  const lost = none();
  for (const at of covered) {
    count(lost, at);
    for (const { values, nothing } of held) values[at] = nothing;
    // The pressure's kernels rely on it: 0 wherever there is no unknown.
    phi[at] = 0;
  }
  const filled = none();
  const unknown = new Set(left);
  for (let layer = 0; layer < LAYERS && left.length > 0; layer++) {
    const next: number[] = [];
    const now: [number, readonly number[]][] = [];
    for (const at of left) {
      const open = steps.filter((s) => status[at + s] === 1 && !unknown.has(at + s));
      if (open.length === 0) {
        next.push(at);
        continue;
      }
      now.push([at, held.map(({ values }) => open.reduce((sum, s) => sum + (values[at + s] ?? 0), 0) / open.length)]);
    }
    for (const [at, means] of now) {
      // What is counted is what was meant, not what the field rounds it to.
      for (let k = 0; k < counted; k++) filled[k] = (filled[k] ?? 0) + ((means[k] ?? 0) - (held[k]?.nothing ?? 0));
      held.forEach(({ values }, k) => (values[at] = means[k] ?? 0));
    }
    for (const [at] of now) unknown.delete(at);
    left = next;
  }
  for (const at of left) for (const { values, nothing } of held) values[at] = nothing;
  return { lost, filled };
}

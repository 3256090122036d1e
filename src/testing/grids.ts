import type { Box3, Distance } from '#core/geometry';
import { GeometryCache, Hierarchy, type PressureArrays, type Walls, type Window, entries, indexOf, windowOf } from '#core/grid';
import { type Team, createTeam, newControl } from '#kernels';
import { startHelperThread } from '#workers/node';

/** Runs with a team of some threads and stops it afterwards. */
export async function withTeam<T>(threads: number, body: (team: Team) => T | Promise<T>, arenaStart?: number): Promise<T> {
  const control = newControl(threads);
  const team = createTeam({ threads, startHelper: startHelperThread, control, ...(arenaStart === undefined ? {} : { arenaStart }) });
  try {
    if (threads > 1) await new Promise((resolve) => setTimeout(resolve, 400));
    return await body(team);
  } finally {
    team.stop();
  }
}

export interface TestGrid {
  readonly hierarchy: Hierarchy;
  readonly geometry: GeometryCache;
  readonly window: Window;
  readonly size: number;
  /** Zeroed field. */
  field(): number;
  /** Index of a window voxel. */
  at(i: number, j: number, k: number): number;
}

/** Arrays of a pressure solve. */
export const pressureArrays = (grid: TestGrid): PressureArrays => ({
  x: grid.field(),
  b: grid.field(),
  r: grid.field(),
  z: grid.field(),
  p: grid.field(),
  q: grid.field(),
  best: grid.field(),
});

export const allClosed: Walls = {
  left: 'closed',
  right: 'closed',
  floor: 'closed',
  ceiling: 'closed',
  back: 'closed',
  front: 'closed',
};
export const allOpen: Walls = {
  left: 'open',
  right: 'open',
  floor: 'open',
  ceiling: 'open',
  back: 'open',
  front: 'open',
};

/** A window of n voxels a side, all tiles active, over a box with given walls and solids. */
export function makeGrid(
  team: Team,
  n: readonly [number, number, number],
  options: { h?: number; walls?: Walls; solids?: Distance; limit?: Box3 } = {},
): TestGrid {
  const h = options.h ?? 1;
  const window = windowOf([0, 0, 0], n);
  const limit = options.limit ?? { min: [0, 0, 0], max: [n[0] * h, n[1] * h, n[2] * h] };
  const geometry = new GeometryCache(team, h, options.solids ?? (() => Infinity), limit, options.walls ?? allClosed);
  const size = entries(window.nx, window.ny, window.nz);
  const hierarchy = new Hierarchy(team, geometry, window, size);
  hierarchy.setWindow(window);
  const tiles: number[] = [];
  for (let z = 0; z < window.nz / 8; z++) {
    for (let y = 0; y < window.ny / 8; y++) for (let x = 0; x < window.nx / 8; x++) tiles.push(x, y, z);
  }
  hierarchy.setActive(Int32Array.from(tiles));
  return {
    hierarchy,
    geometry,
    window,
    size,
    field: () => team.allocate(size * 4),
    at: (i, j, k) => indexOf(window.nx, window.ny, i, j, k),
  };
}

import { PressureSolver, findPockets } from '#core/grid';
import { Carrying } from '#core/flow';
import type { Team } from '#kernels';
import { type TestGrid, allClosed, makeGrid, pressureArrays, withTeam } from '#testing';
import { LIBRARIES, type Reference, librarySolver, nativeReference } from './native';
import { type Row, type Section, row, shortest } from './section';

interface Times {
  semiLagrangian: number;
  macCormack: number;
  macCormackTwo: number;
  carriedTwo: number;
  bytes: number;
  bytesIterations: number;
  fractions: number;
  fractionsIterations: number;
}

const ball =
  (n: number) =>
  (x: number, y: number, z: number): number =>
    Math.hypot(x - n / 2, y - n / 2, z - n / 2) - n / 5;

/**
 * Semi-Lagrangian, MacCormack and the conservative sweeps, as the solver launches them: one scalar for the first two, two for a comparison of the last two.
 * The flow is a discrete curl, 0 at the walls, of at most two voxels a step.
 */
function advection(team: Team, n: number): Record<'linear' | 'corrected' | 'correctedTwo' | 'carriedTwo', () => void> {
  const grid = makeGrid(team, [n, n, n]);
  const names = ['u', 'v', 'w', 'f', 'g', 'a', 'b', 'p', 'r', 'z', 'q'] as const;
  const at = Object.fromEntries(names.map((name) => [name, grid.field()])) as Record<(typeof names)[number], number>;
  const [u, v, w, f, g] = (['u', 'v', 'w', 'f', 'g'] as const).map((name) => team.floats(at[name], grid.size)) as [
    Float32Array,
    Float32Array,
    Float32Array,
    Float32Array,
    Float32Array,
  ];
  const psi = (x: number, y: number): number => ((0.5 * n) / Math.PI) * Math.sin((Math.PI * x) / n) * Math.sin((Math.PI * y) / n);
  for (let k = 0; k <= n; k++) {
    for (let j = 0; j <= n; j++) {
      for (let i = 0; i <= n; i++) {
        const here = grid.at(i, j, k);
        u[here] = psi(i, j + 1) - psi(i, j);
        v[here] = psi(i, j) - psi(i + 1, j) + psi(j, k + 1) - psi(j, k);
        w[here] = psi(j, k) - psi(j + 1, k);
        if (i === n || j === n || k === n) continue;
        f[here] = Math.exp(-0.001 * ((i - n / 2) ** 2 + (j - n / 3) ** 2));
        g[here] = 2 * (f[here] ?? 0);
      }
    }
  }
  const list = team.allocate(64);
  const level = grid.hierarchy.finest;
  const limit = { min: [0, 0, 0], max: [n, n, n] } as const;
  const carrying = new Carrying(
    team,
    { voxelSize: 1, limit },
    { hierarchy: grid.hierarchy, window: grid.window, limit: grid.window },
    at,
    level.count,
  );
  carrying.boundsChanged();
  const launch = (kernel: 'advectCells' | 'correctCells', records: readonly (readonly [number, number, number])[]): void => {
    team.words(list, 3 * records.length).set(records.flat());
    team.launch(kernel, level.count, level.context, at.u, at.v, at.w, list, records.length, 4);
  };
  return {
    linear: () => {
      launch('advectCells', [[at.f, 0, at.a]]);
    },
    corrected: () => {
      launch('advectCells', [[at.f, 0, at.a]]);
      launch('correctCells', [[at.f, at.a, at.b]]);
    },
    correctedTwo: () => {
      const records = [
        [at.f, at.a, at.r],
        [at.g, at.b, at.z],
      ] as const;
      launch('advectCells', [
        [at.f, 0, at.a],
        [at.g, 0, at.b],
      ]);
      launch('correctCells', records);
      for (const scratch of [at.r, at.z]) {
        // As the solver does: the result goes back into the field.
        team.launch('copyTiles', level.count, level.context, scratch, at.a);
        team.launch('fillTiles', level.count, level.context, scratch, 0);
      }
    },
    carriedTwo: () => {
      carrying.run(4, [
        { field: at.f, nothing: 0 },
        { field: at.g, nothing: 0 },
      ]);
      carrying.done();
    },
  };
}

/** A pressure solve to a true 1e-4 from nothing; returns its iterations and whether it got there. */
function pressure(team: Team, n: number, curved: boolean): () => { iterations: number; residual: number } {
  const grid: TestGrid = makeGrid(team, [n, n, n], { walls: allClosed, ...(curved ? { solids: ball(n) } : {}) });
  const level = grid.hierarchy.finest;
  const arrays = pressureArrays(grid);
  const b = team.floats(arrays.b, grid.size);
  const status = team.bytes(level.status, grid.size);
  const w = (2 * Math.PI) / n;
  for (let k = 0; k < n; k++) {
    for (let j = 0; j < n; j++) {
      for (let i = 0; i < n; i++) {
        const at = grid.at(i, j, k);
        if (status[at] === 1) b[at] = Math.sin(w * (i + 0.5)) * Math.cos(3 * w * (j + 0.5)) + 0.3 * Math.sin(5 * w * (k + 0.5));
      }
    }
  }
  const pockets = findPockets(level, grid.geometry, team);
  const solver = new PressureSolver(team, grid.hierarchy, level.count);
  return () => {
    team.launch('fillTiles', level.count, level.context, arrays.x, 0);
    const r = solver.solve(arrays, { tolerance: 1e-4, iterations: 60, divergence: Infinity, dtOverH: 1 }, pockets);
    return { iterations: r.iterations, residual: r.relativeResidual };
  };
}

async function ours(n: number, rounds: number): Promise<Times> {
  return await withTeam(1, (team) => {
    // Each kernel has been run before it is timed: the first call is compiled simply.
    const small = advection(team, 16);
    for (let r = 0; r < 200; r++) for (const once of Object.values(small)) once();
    const { linear, corrected, correctedTwo, carriedTwo } = advection(team, n);
    const result = {
      semiLagrangian: shortest(rounds, linear),
      macCormack: shortest(rounds, corrected),
      macCormackTwo: shortest(rounds, correctedTwo),
      carriedTwo: shortest(rounds, carriedTwo),
    };
    const warm = pressure(team, 32, true);
    for (let r = 0; r < 8; r++) warm();
    const solve = (curved: boolean): { seconds: number; iterations: number } => {
      const once = pressure(team, n, curved);
      let iterations = 0;
      return { seconds: shortest(rounds, () => (iterations = once().iterations)), iterations };
    };
    const [bytes, fractions] = [solve(false), solve(true)];
    return {
      ...result,
      bytes: bytes.seconds,
      bytesIterations: bytes.iterations,
      fractions: fractions.seconds,
      fractionsIterations: fractions.iterations,
    };
  });
}

const KINDS = [
  { id: 'semiLagrangian', title: 'semi-Lagrangian', most: 0.7 },
  { id: 'macCormack', title: 'MacCormack', most: 0.7 },
  { id: 'bytes', title: 'MGPCG, byte diagonal', most: 1.2 },
  { id: 'fractions', title: 'MGPCG, face fractions', most: 1.8 },
] as const;

export const kernels: Section = {
  id: 'kernels',
  title: 'Kernels against plain C++ (-O3 -march=native), one thread',
  async run({ quick, say }) {
    const n = quick ? 64 : 128;
    const native = nativeReference(say);
    // Turn by turn, so that a busy minute hits both; the best of each.
    let [mine, theirs]: [Times | null, Reference | null] = [null, null];
    const best = <T extends object>(a: T | null, b: T): T =>
      a === null ? b : (Object.fromEntries(Object.entries(b).map(([k, v]) => [k, Math.min(v as number, a[k as keyof T] as number)])) as T);
    for (let turn = 0; turn < (quick ? 1 : 3); turn++) {
      if (native) theirs = best(theirs, native(n, 2));
      mine = best(mine, await ours(n, 2));
    }
    const rows: Row[] = [];
    const size = `${String(n)}³`;
    for (const { id, title, most } of KINDS) {
      const seconds = mine?.[id] ?? NaN;
      rows.push(row(`${title}, ${size}`, (seconds / n ** 3) * 1e9, 'ns a voxel'));
      const counts = id === 'bytes' || id === 'fractions' ? ([mine?.[`${id}Iterations`], theirs?.[`${id}Iterations`]] as const) : null;
      const note = counts ? `${String(counts[0])} iterations, C++ ${String(counts[1])}` : undefined;
      if (theirs) rows.push(row(`${title}, ${size}, time over C++`, seconds / theirs[id], '×', { most }, note));
    }
    if (mine) {
      const ns = (seconds: number): number => (seconds / n ** 3) * 1e9;
      rows.push(row(`conservative sweeps, two scalars, ${size}`, ns(mine.carriedTwo), 'ns a voxel'));
      rows.push(row('conservative sweeps, time over MacCormack', mine.carriedTwo / mine.macCormackTwo, '×', { most: 1 }));
    }
    if (theirs && mine) {
      // Bytes that a semi-Lagrangian step must move at least: four fields read, one written.
      rows.push(row('memory triad', theirs.triadBytesPerSecond / 1e9, 'GB/s'));
      rows.push(row('semi-Lagrangian, bytes moved', (20 * n ** 3) / mine.semiLagrangian / 1e9, 'GB/s'));
    }
    return rows;
  },
};

export const iterations: Section = {
  id: 'iterations',
  title: 'Pressure iterations to a true 1e-4, a ball in a closed box',
  async run({ quick }) {
    const rows: Row[] = [];
    for (const n of quick ? [64, 96] : [64, 96, 128, 160, 192]) {
      const r = await withTeam(2, (team) => pressure(team, n, true)());
      rows.push(
        row(
          `${String(n)}³`,
          r.residual <= 1e-4 ? r.iterations : NaN,
          'iterations',
          { most: 15 },
          `residual ${r.residual.toExponential(1)}`,
        ),
      );
    }
    return rows;
  },
};

export const libraries: Section = {
  id: 'libraries',
  title: 'Pressure against libraries that could be picked instead: the same system, a true residual of 1e-4, one thread each',
  async run({ quick, say }) {
    const n = quick ? 48 : 96;
    const rows: Row[] = [];
    for (const library of LIBRARIES) {
      const solve = librarySolver(library, say);
      if (!solve) continue;
      const theirs = solve(n);
      const seconds = await withTeam(1, (team) => {
        const once = pressure(team, n, true);
        once();
        return shortest(3, once);
      });
      rows.push(
        row(
          library.name,
          theirs.seconds,
          's',
          null,
          `${String(n)}³, ${String(theirs.iterations)} iterations to ${theirs.residual.toExponential(1)}`,
        ),
        row('Ruddle', seconds, 's'),
        row('times as quick', theirs.seconds / seconds, '×', { least: 30 }),
      );
    }
    return rows;
  },
};

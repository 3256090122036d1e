import { describe, expect, it } from 'vitest';
import { indexOf, planeStride, rowStride } from '#core/grid';
import { allClosed, gasOptions, makeGrid, runGas, voxelsOf, withTeam } from '#testing';
import type { Team } from '#kernels';
import { ADVECTION, type AdvectionName } from '#core/flow';
import { type GasFrame, type GasOptions, type GasState } from '.';

const still = { sources: [], matter: { lift: 0, sinking: 0 } } as const;

/** Taylor-Green cell u = sin(pi x) cos(pi y), v = -cos(pi x) sin(pi y) in a closed unit box: a steady Euler flow. */
function taylorGreen(team: Team, n: number, scheme: GasOptions['matter']['velocityAdvection']): { error: number; kept: number } {
  const h = 1 / n;
  const options = gasOptions({
    ...still,
    voxelSize: h,
    framesPerSecond: 4,
    firstFrame: 1,
    lastFrame: 2,
    firstFrameSolved: true,
    stepping: { cfl: 0.5, minimum: 1, maximum: 64, tolerance: 1e-4 },
    bounds: { mode: 'dense', limit: { min: [0, 0, 0], max: [1, 1, 8 * h] }, walls: allClosed },
    matter: { lift: 0, sinking: 0, velocityAdvection: scheme, scalarAdvection: 'linear' },
  });
  const initial = ({ team: t, fields, window: w, size }: GasState): void => {
    const [u, v] = [t.floats(fields.u, size), t.floats(fields.v, size)];
    for (let k = 0; k < w.nz; k++) {
      for (let j = 0; j <= n; j++) {
        for (let i = 0; i <= n; i++) {
          const at = indexOf(w.nx, w.ny, i, j, k);
          u[at] = Math.sin(Math.PI * i * h) * Math.cos(Math.PI * (j + 0.5) * h);
          v[at] = -Math.cos(Math.PI * (i + 0.5) * h) * Math.sin(Math.PI * j * h);
        }
      }
    }
  };
  const frames = runGas(team, options, { initial });
  const vel = voxelsOf(frames[1] as GasFrame, 'vel');
  let error = 0;
  for (let j = 0; j < n; j++) {
    for (let i = 0; i < n; i++) {
      const [x, y] = [(i + 0.5) * h, (j + 0.5) * h];
      error += Math.abs(vel(i, j, 3, 0) - Math.sin(Math.PI * x) * Math.cos(Math.PI * y) * Math.cos((Math.PI * h) / 2));
    }
  }
  const energy = (f: GasFrame | undefined): number => f?.report.energy.kinetic ?? 0;
  // Exact energy: 1/2 rho (1/4 + 1/4) per unit volume.
  return { error: error / n ** 2, kept: energy(frames[1]) / (1.225 * 0.25 * 8 * h) };
}

describe('Taylor-Green cell', () => {
  it('converges, and MacCormack keeps more energy than linear', async () => {
    await withTeam(1, (team) => {
      const linear = [16, 32, 64].map((n) => taylorGreen(team, n, 'linear'));
      const corrected = [16, 32, 64].map((n) => taylorGreen(team, n, 'maccormack'));
      const bfecc = [16, 32, 64].map((n) => taylorGreen(team, n, 'bfecc'));
      const cubic = [16, 32, 64].map((n) => taylorGreen(team, n, 'cubic'));
      expect(bfecc[2]!.kept).toBeGreaterThan(linear[2]!.kept);
      expect(cubic[2]!.kept).toBeGreaterThan(linear[2]!.kept);
      const reflection = [16, 32, 64].map((n) => taylorGreen(team, n, 'reflection'));
      // Between the two projections the reflection gives back what the first one takes: a quarter of the cubic scheme's loss.
      expect(1 - reflection[2]!.kept).toBeLessThan(0.8 * (1 - cubic[2]!.kept));
      for (const list of [linear, corrected, bfecc, cubic, reflection]) {
        // First order in time (splitting): halving h and dt together must at least divide by about 2 in the end.
        expect(list[0]!.error / list[1]!.error).toBeGreaterThan(1.55);
        expect(list[1]!.error / list[2]!.error).toBeGreaterThan(1.6);
      }
      // At the same order the corrected scheme's constant is smaller.
      expect(corrected[2]!.error).toBeLessThan(linear[2]!.error * 0.7);
      expect(corrected[2]!.kept).toBeGreaterThan(linear[2]!.kept);
      expect(corrected[2]!.kept).toBeGreaterThan(0.95);
      expect(corrected[2]!.kept).toBeLessThan(1.01);
    });
  });
});

/** One turn of a field about the middle, in `steps` steps; returns the field in the middle plane. */
function turn(team: Team, n: number, scheme: AdvectionName, steps: number, shape: (x: number, y: number) => number) {
  const grid = makeGrid(team, [n, n, 8]);
  const { nx, ny } = grid.window;
  const names = ['u', 'v', 'w', 'density', 'temperature', 'fuel', 'flame', 'phi', 'a', 'b', 'c', 'r', 'z', 'p', 'q'] as const;
  const none = { red: 0, green: 0, blue: 0, across: 0, up: 0, along: 0 };
  const fields = { ...none, ...(Object.fromEntries(names.map((name) => [name, grid.field()])) as Record<(typeof names)[number], number>) };
  const [u, v, d] = [fields.u, fields.v, fields.density].map((p) => team.floats(p, grid.size)) as [
    Float32Array,
    Float32Array,
    Float32Array,
  ];
  const middle = n / 2;
  for (let k = -1; k <= 8; k++) {
    for (let j = -1; j <= n; j++) {
      for (let i = -1; i <= n; i++) {
        const at = indexOf(nx, ny, i, j, k);
        u[at] = -(j + 0.5 - middle);
        v[at] = i + 0.5 - middle;
        d[at] = shape((i + 0.5) / n, (j + 0.5) / n);
      }
    }
  }
  const context = { team, level: grid.hierarchy.finest, fields, c: (2 * Math.PI) / steps, list: team.allocate(64) };
  for (let s = 0; s < steps; s++) ADVECTION[scheme].scalars(context, [fields.density]);
  let error = 0;
  let sum = 0;
  for (let j = 0; j < n; j++) {
    for (let i = 0; i < n; i++) {
      const exact = shape((i + 0.5) / n, (j + 0.5) / n);
      error += Math.abs((d[(4 + 1) * planeStride(nx, ny) + (j + 1) * rowStride(nx) + i + 4] ?? 0) - exact);
      sum += exact;
    }
  }
  return error / sum;
}

describe('rotation', () => {
  const blob = (x: number, y: number): number => Math.exp(-(((x - 0.5) ** 2 + (y - 0.72) ** 2) / 0.07 ** 2));
  /** Zalesak's slotted disk. */
  const disk = (x: number, y: number): number => (Math.hypot(x - 0.5, y - 0.75) < 0.15 && !(Math.abs(x - 0.5) < 0.025 && y < 0.85) ? 1 : 0);

  it('a smooth blob converges: linear first order, MacCormack faster', async () => {
    await withTeam(1, (team) => {
      const errors = (scheme: AdvectionName): number[] => [48, 96].map((n) => turn(team, n, scheme, n, blob));
      const linear = errors('linear');
      const corrected = errors('maccormack');
      expect(linear[0]! / linear[1]!).toBeGreaterThan(1.3);
      // Clamping costs order at the extremum; in L1 more than first order is left.
      expect(corrected[0]! / corrected[1]!).toBeGreaterThan(2.5);
      expect(corrected[1]!).toBeLessThan(linear[1]! / 2);
    });
  });

  it('BFECC is second order on it, monotone cubic better than linear and never outside what was there', async () => {
    await withTeam(1, (team) => {
      const errors = (scheme: AdvectionName): number[] => [48, 96].map((n) => turn(team, n, scheme, n, blob));
      const [linear, corrected, bfecc, cubic] = (['linear', 'maccormack', 'bfecc', 'cubic'] as const).map(errors) as [
        number[],
        number[],
        number[],
        number[],
      ];
      expect(bfecc[0]! / bfecc[1]!).toBeGreaterThan(2.5);
      expect(bfecc[1]!).toBeLessThan(corrected[1]! * 1.2);
      expect(cubic[1]!).toBeLessThan(linear[1]! * 0.6);
    });
  });

  it('no scheme makes more or less than there was', async () => {
    await withTeam(1, (team) => {
      for (const scheme of ['linear', 'maccormack', 'bfecc', 'cubic'] as const) {
        const options = gasOptions({ lastFrame: 5, matter: { scalarAdvection: scheme, velocityAdvection: scheme } });
        team.reset();
        const last = runGas(team, options).pop() as GasFrame;
        const density = last.grids.find((g) => g.name === 'density')!.values;
        expect(Math.max(...density), scheme).toBeLessThanOrEqual(1 + 1e-6);
        expect(Math.min(...density), scheme).toBeGreaterThanOrEqual(-1e-6);
        expect(last.report.maxima.temperature, scheme).toBeLessThanOrEqual(493.15 + 1e-2);
      }
    });
  });

  it("Zalesak's disk keeps its slot better with MacCormack", async () => {
    await withTeam(1, (team) => {
      const linear = turn(team, 96, 'linear', 150, disk);
      const corrected = turn(team, 96, 'maccormack', 150, disk);
      expect(corrected).toBeLessThan(linear * 0.8);
    });
  });
});

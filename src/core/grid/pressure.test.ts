import { describe, expect, it } from 'vitest';
import { allClosed, allOpen, makeGrid, pressureArrays, withTeam, type TestGrid } from '#testing';
import type { Team } from '#kernels';
import { PressureSolver, type PressureReport, findPockets } from '.';

function solve(team: Team, grid: TestGrid, rhs: (x: number, y: number, z: number) => number, tolerance = 1e-5) {
  const { nx, ny, nz } = grid.window;
  const arrays = pressureArrays(grid);
  const b = team.floats(arrays.b, grid.size);
  const status = team.bytes(grid.hierarchy.finest.status, grid.size);
  for (let k = 0; k < nz; k++) {
    for (let j = 0; j < ny; j++) {
      for (let i = 0; i < nx; i++) {
        const at = grid.at(i, j, k);
        if (status[at] === 1) b[at] = rhs(i + 0.5, j + 0.5, k + 0.5);
      }
    }
  }
  const pockets = findPockets(grid.hierarchy.finest, grid.geometry, team);
  const solver = new PressureSolver(team, grid.hierarchy, grid.hierarchy.finest.count);
  const report: PressureReport = solver.solve(arrays, { tolerance, iterations: 60, divergence: Infinity, dtOverH: 1 }, pockets);
  return { report, x: team.floats(arrays.x, grid.size), pockets };
}

describe('pressure', () => {
  it('is second order against a manufactured solution with open walls', async () => {
    await withTeam(1, (team) => {
      const errors = [16, 32, 64].map((n) => {
        const f = (v: number): number => Math.sin((Math.PI * v) / n);
        const grid = makeGrid(team, [n, n, n], { walls: allOpen });
        const lambda = 3 * (Math.PI / n) ** 2;
        const { report, x } = solve(team, grid, (a, b, c) => lambda * f(a) * f(b) * f(c), 1e-5);
        // Rounding of x in float32 leaves about eps |A| |x| / |b|, which grows as (n / pi)^2.
        expect(report.relativeResidual).toBeLessThan(Math.max(1.2e-5, (6e-8 * 12) / lambda));
        let worst = 0;
        for (let i = 0; i < n; i++) {
          for (let j = 0; j < n; j++) {
            const c = n / 2;
            worst = Math.max(worst, Math.abs((x[grid.at(i, j, c)] ?? 0) - f(i + 0.5) * f(j + 0.5) * f(c + 0.5)));
          }
        }
        return worst;
      });
      // Halving the voxel must divide the error by about four.
      expect(errors[0]! / errors[1]!).toBeGreaterThan(3.5);
      expect(errors[1]! / errors[2]!).toBeGreaterThan(3.3);
    });
  });

  it('needs slowly growing iterations, with a ball in a closed box', async () => {
    await withTeam(1, (team) => {
      const iterations = [32, 64, 96].map((n) => {
        const ball = (x: number, y: number, z: number): number => Math.hypot(x - n / 2, y - n / 2, z - n / 2) - n / 5;
        const grid = makeGrid(team, [n, n, n], { walls: allClosed, solids: ball });
        const w = (2 * Math.PI) / n;
        const { report, pockets } = solve(team, grid, (a, b, c) => Math.sin(w * a) * Math.cos(3 * w * b) + 0.3 * Math.sin(5 * w * c), 1e-4);
        expect(pockets).toHaveLength(1);
        expect(report.converged).toBe(true);
        return report.iterations;
      });
      expect(iterations[2]!).toBeLessThanOrEqual(iterations[0]! + 5);
      expect(iterations[2]!).toBeLessThan(16);
    });
  });
});

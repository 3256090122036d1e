import { describe, expect, it } from 'vitest';
import { shapeBounds, shapeDistance, type PlainShape } from '#core/geometry';
import { allClosed, allOpen, makeGrid, pressureArrays, oracle, withTeam } from '#testing';
import { PressureSolver, faceFraction, findPockets } from '.';

describe('face fractions', () => {
  it('are areas of the open part', () => {
    expect(faceFraction(1, 1, 1, 1)).toBe(1);
    expect(faceFraction(-1, -1, -1, -1)).toBe(0);
    expect(faceFraction(1, 1, -1, -1)).toBeCloseTo(0.5, 12);
    expect(faceFraction(1, 3, 3, 1)).toBe(1);
    expect(faceFraction(-1, 1, 1, 1)).toBeCloseTo(1 - 1 / 8, 12);
    expect(faceFraction(-1, -1, -1, 1)).toBeCloseTo(1 / 8, 12);
    // Under 2 % closed, over 98 % open.
    expect(faceFraction(-1, -1, -1, 0.05)).toBe(0);
    expect(faceFraction(-0.05, 1, 1, 1)).toBe(1);
  });
  it('add up to the area of a plane through many faces', () => {
    const cut = (x: number): number => 0.37 - x;
    expect(faceFraction(cut(0), cut(1), cut(1), cut(0))).toBeCloseTo(0.37, 12);
  });
});

describe('shapes', () => {
  const shapes: PlainShape[] = [
    { kind: 'box', centre: [1, 2, 3], size: [2, 1, 4], rotation: [10, 20, 30] },
    { kind: 'ball', centre: [1, 0, 0], radius: 2 },
    { kind: 'cylinder', centre: [0, 1, 0], radius: 1, height: 3, rotation: [90, 0, 0] },
  ];
  it('distances change by no more than the way, and are negative at the centre', () => {
    for (const s of shapes) {
      const d = shapeDistance(s);
      expect(d(...(s.centre as [number, number, number]))).toBeLessThan(0);
      for (let n = 0; n < 200; n++) {
        const p = [Math.sin(n) * 5, Math.cos(n * 1.7) * 5, Math.sin(n * 2.3) * 5] as const;
        expect(Math.abs(d(p[0] + 0.1, p[1], p[2]) - d(...p))).toBeLessThanOrEqual(0.1 + 1e-9);
        const b = shapeBounds(s);
        const outside = p.some((v, a) => v < b.min[a as 0 | 1 | 2] - 1e-9 || v > b.max[a as 0 | 1 | 2] + 1e-9);
        if (outside) expect(d(...p)).toBeGreaterThan(0);
      }
    }
  });
  it('a lying cylinder is long along z', () => {
    const b = shapeBounds(shapes[2]!);
    expect(b.max[2] - b.min[2]).toBeCloseTo(3, 9);
    expect(b.max[1] - b.min[1]).toBeCloseTo(2, 9);
  });
});

describe('pressure against other answers', () => {
  it('equals a direct solve with a curved solid', async () => {
    await withTeam(1, (team) => {
      const ball = (x: number, y: number, z: number): number => Math.hypot(x - 3.2, y - 4.1, z - 4.3) - 2.2;
      const grid = makeGrid(team, [8, 8, 8], { walls: { ...allClosed, ceiling: 'open' }, solids: ball });
      const level = grid.hierarchy.finest;
      const o = oracle.sceneOf(team, level);
      const cells: number[] = [];
      o.each((at) => {
        if (o.diagonal(at) > 0) cells.push(at);
      });
      const number = new Map(cells.map((at, n) => [at, n]));
      const n = cells.length;
      const a = cells.map((at) => {
        const row = new Float64Array(n + 1);
        row[number.get(at)!] = o.diagonal(at);
        const cut = o.cutAt(at);
        for (let f = 0; f < 6; f++) {
          const other = number.get(at + (f & 1 ? 1 : -1) * o.steps[(f >> 1) as 0 | 1 | 2]);
          if (other !== undefined) row[other] = row[other]! - (cut ? cut[f]! : 1);
        }
        row[n] = Math.sin(at * 1.3);
        return row;
      });
      const arrays = pressureArrays(grid);
      const b = team.floats(arrays.b, grid.size);
      cells.forEach((at, k) => {
        b[at] = a[k]![n]!;
      });
      const report = new PressureSolver(team, grid.hierarchy, 8).solve(arrays, {
        tolerance: 1e-6,
        iterations: 100,
        divergence: Infinity,
        dtOverH: 1,
      });
      expect(report.relativeResidual).toBeLessThan(1e-5);
      // Gaussian elimination; the matrix is diagonally dominant, so no pivoting.
      for (let k = 0; k < n; k++) {
        for (let r = k + 1; r < n; r++) {
          const f = a[r]![k]! / a[k]![k]!;
          if (f !== 0) for (let c = k; c <= n; c++) a[r]![c] = a[r]![c]! - f * a[k]![c]!;
        }
      }
      const x = new Float64Array(n);
      for (let k = n - 1; k >= 0; k--) {
        let s = a[k]![n]!;
        for (let c = k + 1; c < n; c++) s -= a[k]![c]! * x[c]!;
        x[k] = s / a[k]![k]!;
      }
      const got = team.floats(arrays.x, grid.size);
      const scale = Math.max(...x.map(Math.abs));
      cells.forEach((at, k) => {
        expect(Math.abs(got[at]! - x[k]!)).toBeLessThan(2e-5 * scale);
      });
    });
  });

  it('finds closed pockets: a hollow made of boxes, not the open air around it', async () => {
    await withTeam(1, (team) => {
      // Two nested cubes' shell: solid between half sizes 4 and 8.
      const shell = (x: number, y: number, z: number): number => {
        const m = Math.max(Math.abs(x - 16), Math.abs(y - 16), Math.abs(z - 16));
        return Math.max(4 - m, m - 8) <= 0 ? -Math.min(m - 4, 8 - m) : Math.max(4 - m, m - 8);
      };
      const open = makeGrid(team, [32, 32, 32], { walls: allOpen, solids: shell });
      const pockets = findPockets(open.hierarchy.finest, open.geometry, team);
      expect(pockets.map((p) => p.cells.length)).toEqual([512]);
      const closed = makeGrid(team, [32, 32, 32], { walls: allClosed, solids: shell });
      expect(findPockets(closed.hierarchy.finest, closed.geometry, team)).toHaveLength(2);
    });
  });

  it('solves in several closed pockets at once', async () => {
    await withTeam(1, (team) => {
      const wall = (x: number): number => Math.abs(x - 16) - 1.2;
      const grid = makeGrid(team, [32, 16, 16], { walls: allClosed, solids: wall });
      const pockets = findPockets(grid.hierarchy.finest, grid.geometry, team);
      expect(pockets).toHaveLength(2);
      const arrays = pressureArrays(grid);
      const b = team.floats(arrays.b, grid.size);
      // Not even compatible: each pocket's mean is taken away.
      for (const p of pockets)
        p.cells.forEach((at, n) => {
          b[at] = Math.sin(n * 0.37) + 0.5;
        });
      const report = new PressureSolver(team, grid.hierarchy, 32).solve(
        arrays,
        { tolerance: 1e-4, iterations: 60, divergence: Infinity, dtOverH: 1 },
        pockets,
      );
      expect(report.converged).toBe(true);
      expect(report.iterations).toBeLessThan(14);
    });
  });
});

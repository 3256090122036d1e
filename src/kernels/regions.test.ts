import { describe, expect, it } from 'vitest';
import { mulberry32 } from '#core/math';
import { type TestGrid, allClosed, makeGrid, oracle, withTeam } from '#testing';
import type { Team } from './team';

// Kernels of forces in regions and of smoothing, each against a plain loop over the unknowns.
interface Case {
  readonly team: Team;
  readonly grid: TestGrid;
  readonly field: () => { readonly pointer: number; readonly values: Float32Array };
  /** Calls with index and window voxel of every voxel of the active tiles. */
  readonly each: (body: (at: number, i: number, j: number, k: number) => void) => void;
  readonly status: Uint8Array;
}

const within = (body: (c: Case) => void) => async (): Promise<void> => {
  await withTeam(1, (team) => {
    const random = mulberry32(11);
    const grid = makeGrid(team, [24, 16, 16], {
      walls: allClosed,
      solids: (x, y, z) => Math.hypot(x - 9, y - 8, z - 8) - 4,
      limit: { min: [0, 0, 0], max: [24, 16, 16] },
    });
    const { status } = oracle.sceneOf(team, grid.hierarchy.finest);
    body({
      team,
      grid,
      status,
      field: () => {
        const pointer = grid.field();
        const values = team.floats(pointer, grid.size);
        for (let n = 0; n < values.length; n++) values[n] = random();
        return { pointer, values };
      },
      each: (visit) => {
        for (let k = 0; k < 16; k++) for (let j = 0; j < 16; j++) for (let i = 0; i < 24; i++) visit(grid.at(i, j, k), i, j, k);
      },
    });
  });
};

describe('kernels of regions', () => {
  it(
    'add, scale and relax by weights',
    within(({ team, grid, field, each }) => {
      const { finest: level } = grid.hierarchy;
      const [a, b, w] = [field(), field(), field()];
      const before = a.values.slice();
      team.launch('addWeighted', level.count, level.context, a.pointer, b.pointer, w.pointer);
      each((at) => {
        expect(a.values[at]).toBe(Math.fround(before[at]! + Math.fround(b.values[at]! * w.values[at]!)));
      });
      const added = a.values.slice();
      team.launch('scaleByWeights', level.count, level.context, a.pointer, w.pointer);
      each((at) => {
        expect(a.values[at]).toBe(Math.fround(added[at]! * w.values[at]!));
      });
      const scaled = a.values.slice();
      w.values.fill(0, 0, w.values.length / 2);
      team.launch('relaxWeighted', level.count, level.context, a.pointer, 2, 0.7, w.pointer);
      each((at) => {
        expect(a.values[at]).toBeCloseTo(2 + (scaled[at]! - 2) * Math.exp(-0.7 * w.values[at]!), 5);
      });
    }),
  );

  it(
    'attract matter to a point, most at the reach, not at all at the point',
    within(({ team, grid, field, each }) => {
      const { finest: level } = grid.hierarchy;
      const [u, d, w] = [field(), field(), field()];
      const before = u.values.slice();
      const steps = [1, level.sx, level.sp];
      for (const axis of [0, 1, 2]) {
        u.values.set(before);
        team.launch('attract', level.count, level.context, u.pointer, axis, d.pointer, 10.5, 6, 9, 0.4, 5, w.pointer);
        each((at, i, j, k) => {
          const p = [i, j, k].map((v, a) => v + (a === axis ? 0 : 0.5));
          const r = [10.5, 6, 9].map((v, a) => (v - p[a]!) / 5);
          const density = 0.5 * (d.values[at]! + d.values[at - steps[axis]!]!);
          const pull = (0.4 * density * 2 * r[axis]!) / (1 + r[0]! ** 2 + r[1]! ** 2 + r[2]! ** 2);
          expect(u.values[at]).toBeCloseTo(before[at]! + pull * w.values[at]!, 5);
        });
      }
    }),
  );

  it(
    'diffuse between unknowns only: what is there stays there, and evens out',
    within(({ team, grid, field, each, status }) => {
      const { finest: level } = grid.hierarchy;
      const [a, b] = [field(), field()];
      const steps = [1, level.sx, level.sp];
      team.launch('diffuse', level.count, level.context, a.pointer, b.pointer, level.status, 1 / 6);
      let [sum, after, least, most] = [0, 0, 1, 0];
      each((at) => {
        if (status[at] !== 1) {
          expect(b.values[at]).toBe(a.values[at]);
          return;
        }
        let want = a.values[at]!;
        for (const s of steps) for (const m of [at - s, at + s]) if (status[m] === 1) want += (a.values[m]! - a.values[at]!) / 6;
        expect(b.values[at]).toBeCloseTo(want, 5);
        sum += a.values[at]!;
        after += b.values[at]!;
        least = Math.min(least, b.values[at]!);
        most = Math.max(most, b.values[at]!);
      });
      expect(after).toBeCloseTo(sum, 3);
      expect(least).toBeGreaterThan(0);
      expect(most).toBeLessThan(1);
    }),
  );

  it(
    'sharpen without making any of it, and without leaving the range of the neighbourhood',
    within(({ team, grid, field, each, status }) => {
      const { finest: level } = grid.hierarchy;
      const [a, b] = [field(), field()];
      const smooth = (i: number): number => 1 / (1 + Math.exp(-(i - 17.3) / 1.5));
      each((at, i) => (a.values[at] = smooth(i)));
      const sum = (f: Float32Array): number => {
        let total = 0;
        each((at) => {
          if (status[at] === 1) total += f[at]!;
        });
        return total;
      };
      const before = sum(a.values);
      const slope = (f: Float32Array): number => f[grid.at(18, 3, 3)]! - f[grid.at(16, 3, 3)]!;
      const first = slope(a.values);
      for (let n = 0; n < 6; n++) {
        team.launch('sharpen', level.count, level.context, a.pointer, b.pointer, level.status, 0.3);
        team.launch('copyTiles', level.count, level.context, b.pointer, a.pointer);
      }
      expect(sum(a.values)).toBeCloseTo(before, 2);
      expect(slope(a.values)).toBeGreaterThan(1.3 * first);
      each((at) => {
        expect(a.values[at]).toBeGreaterThanOrEqual(-1e-6);
        expect(a.values[at]).toBeLessThanOrEqual(1 + 1e-6);
      });
    }),
  );
});

import { describe, expect, it } from 'vitest';
import { allClosed, gasOptions, runGas, solid, sumOf, withTeam } from '#testing';
import type { GasFrame } from '.';

describe('advection-reflection', () => {
  const run = (over: Parameters<typeof gasOptions>[0], threads = 1): Promise<GasFrame[]> =>
    withTeam(threads, (team) =>
      runGas(team, gasOptions({ lastFrame: 8, matter: { velocityAdvection: 'reflection', scalarAdvection: 'cubic' }, ...over })),
    );
  it('runs a plume around a solid with its ledger in balance, and counts both pressure solves', async () => {
    const over = {
      bounds: { mode: 'adaptive' as const, limit: { min: [0, 0, 0] as const, max: [3.2, 3.2, 3.2] as const } },
      solids: [solid({ shape: { kind: 'ball', centre: [1.6, 2, 1.6], radius: 0.4 } })],
    };
    const reflected = await run(over);
    const plain = await run({ ...over, matter: { velocityAdvection: 'cubic', scalarAdvection: 'cubic' } });
    const [a, b] = [reflected[7]!.report, plain[7]!.report];
    expect(a.converged).toBe(true);
    expect(Math.abs(a.mass.remainder)).toBeLessThan(1e-4 * a.mass.end);
    expect(a.iterations).toBeGreaterThan(1.3 * b.iterations);
    // The same flow, a little livelier.
    expect(sumOf(reflected[7]!, 'density') / sumOf(plain[7]!, 'density')).toBeCloseTo(1, 0);
    expect(a.energy.kinetic).toBeGreaterThan(b.energy.kinetic);
    expect(a.energy.kinetic).toBeLessThan(1.5 * b.energy.kinetic);
  });
  it('gives the same bits on one thread and two', async () => {
    const over = {
      lastFrame: 4,
      bounds: { mode: 'dense' as const, limit: { min: [0, 0, 0] as const, max: [3.2, 3.2, 3.2] as const }, walls: allClosed },
    };
    const [one, two] = [await run(over), await run(over, 2)];
    expect(two[3]!.grids.map((g) => g.values)).toEqual(one[3]!.grids.map((g) => g.values));
  });
});

import { describe, expect, it } from 'vitest';
import { allClosed, gasOptions, runGas, withTeam } from '#testing';
import type { GasFrame } from '.';

describe('roughness', () => {
  const run = (matter: object, turbulence: boolean): Promise<GasFrame[]> =>
    withTeam(1, (team) => {
      const base = gasOptions({
        lastFrame: 6,
        bounds: { mode: 'dense', limit: { min: [0, 0, 0], max: [3.2, 3.2, 3.2] }, walls: allClosed },
        matter,
      });
      const eddies = { strength: 8, size: 0.5, change: 1, octaves: 3, seed: 3 };
      return runGas(team, { ...base, forces: { ...base.forces, turbulence: turbulence ? eddies : null } });
    });
  it('tells a stirred flow from one that is smooth down to its voxels', async () => {
    const rough = await run({}, true);
    const smooth = await run({ velocityAdvection: 'linear', smoothing: 0.2 }, false);
    expect(rough[5]!.report.roughness).toBeGreaterThan(0.15);
    expect(rough[5]!.report.roughness).toBeLessThan(0.6);
    expect(smooth[5]!.report.roughness).toBeLessThan(0.1);
    expect(smooth[5]!.report.roughness).toBeGreaterThan(0.05);
  });
});

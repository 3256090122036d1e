import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { gasOptions, runGas } from '#testing';
import { type Team, createTeam } from '#kernels';
import { type GasEnvironment, reportOfAll, solveTogether } from '.';

let team: Team;
beforeEach(() => {
  team = createTeam({ threads: 1 });
});
afterEach(() => {
  team.stop();
});

describe('several bounds', () => {
  it('are what each would be alone, in one memory; the report adds them up', () => {
    const [one, two] = [gasOptions({ lastFrame: 3 }), gasOptions({ lastFrame: 3, voxelSize: 0.16, matter: { lift: 0.08 } })];
    let ticks = 0;
    const environment: GasEnvironment = {
      team,
      clock: () => (ticks += 1e-3),
      channels: { names: ['density'] },
      cancelled: () => false,
    };
    const together = [...solveTogether([one, two], environment)];
    team.reset();
    const alone = runGas(team, one);
    team.reset();
    const other = runGas(team, two);
    expect(together.map((f) => f.report.frame)).toEqual([1, 2, 3]);
    together.forEach(({ report, parts }, n) => {
      const [a, b] = [alone[n]!.report, other[n]!.report];
      expect(parts[0]!.report.mass).toEqual(a.mass);
      expect(parts[1]!.report.mass).toEqual(b.mass);
      expect(report.activeVoxels).toBe(a.activeVoxels + b.activeVoxels);
      expect(report.mass.end).toBeCloseTo(a.mass.end + b.mass.end, 10);
      expect(report.fastest).toBe(Math.max(a.fastest, b.fastest));
      expect(report.parts?.length).toBe(2);
    });
  });
  it('one alone is its own report', () => {
    const [frame] = runGas(team, gasOptions({ lastFrame: 1 }));
    expect(reportOfAll([frame!.report])).toBe(frame!.report);
  });
});

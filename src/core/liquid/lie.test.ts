import { describe, expect, it } from 'vitest';
import { body, boxOf, liquidOptions, runLiquid, solid, withTeam } from '#testing';
import type { LiquidOptions } from './options';
import type { LiquidReport } from './report';
import type { LiquidCloud } from './cloud';

async function last(options: LiquidOptions): Promise<{ lie: NonNullable<LiquidReport['lie']>; cloud: LiquidCloud }> {
  return withTeam(1, (team) => {
    const clouds: LiquidCloud[] = [];
    const frames = runLiquid(team, options, { each: (f) => clouds.push(f.cloud()) });
    const report = frames[frames.length - 1]?.report;
    const cloud = clouds[clouds.length - 1];
    if (!report?.lie || !cloud) throw new Error('nothing was stepped');
    return { lie: report.lie, cloud };
  });
}

describe('particles at walls', () => {
  it.each<[string, Partial<LiquidOptions>, (x: number, y: number) => number]>([
    ['a floor', {}, (_x, y) => y],
    [
      'a slope',
      { solids: [solid({ shape: { kind: 'box', centre: [0.6, 0, 0.2], size: [3, 0.4, 3], rotation: [0, 0, 25] } })] },
      // Its upper side, 0.2 m off the middle along the normal.
      (x, y) => -Math.sin(0.43633) * (x - 0.6) + Math.cos(0.43633) * y - 0.2,
    ],
  ])('lie less than half a voxel from %s at rest, as they are measured', async (_name, changes, distance) => {
    const { lie, cloud } = await last(liquidOptions({ lastFrame: 24, ...changes }));
    const { mean, largest } = lie.gap!;
    expect(largest).toBeLessThan(0.5);
    expect(mean).toBeGreaterThan(0.05);
    expect(mean).toBeLessThan(0.25);
    // By hand: the lowest particle over patches of a voxel in the middle of the wall.
    const lowest = new Map<string, number>();
    for (let n = 0; n < cloud.count; n++) {
      const [x, y, z] = [cloud.places[4 * n]!, cloud.places[4 * n + 1]!, cloud.places[4 * n + 2]!];
      if (Math.abs(x - 0.45) > 0.25 || Math.abs(z - 0.2) > 0.1) continue;
      const patch = `${String(Math.floor(x / 0.05))} ${String(Math.floor(z / 0.05))}`;
      lowest.set(patch, Math.min(lowest.get(patch) ?? 9, distance(x, y) / 0.05));
    }
    // The report is of all walls: those along the grid, too, where particles lie as their shares do.
    const nearest = new Map<string, number>();
    for (let n = 0; n < cloud.count; n++) {
      const [x, y, z] = [cloud.places[4 * n]!, cloud.places[4 * n + 1]!, cloud.places[4 * n + 2]!];
      if (Math.abs(x - 0.3) > 0.2 || Math.abs(y - 0.4) > 0.1) continue;
      const patch = `${String(Math.floor(x / 0.05))} ${String(Math.floor(y / 0.05))}`;
      nearest.set(patch, Math.min(nearest.get(patch) ?? 9, z / 0.05));
    }
    const meanOf = (gaps: ReadonlyMap<string, number>): number => [...gaps.values()].reduce((a, b) => a + b, 0) / gaps.size;
    const means = [meanOf(lowest), meanOf(nearest)];
    // A disc of three quarters of a voxel has more particles to choose from than a square of one.
    expect(mean).toBeLessThan(Math.max(...means) + 0.02);
    expect(mean).toBeGreaterThan(Math.min(...means) - 0.1);
  });

  it('lie further off the fewer there are', async () => {
    const { lie } = await last(liquidOptions({ lastFrame: 8, particles: { along: 1 } }));
    expect(lie.gap!.mean).toBeGreaterThan(0.4);
  });
});

describe('particles in the bulk', () => {
  const tank = { bounds: { limit: { min: [0, 0, 0], max: [0.8, 0.8, 0.8] } }, lastFrame: 2, stepping: { maximum: 1 } } as const;
  const full = body(boxOf([0, 0, 0], [0.8, 0.6, 0.8]));
  const drain = (at: number): ReturnType<typeof body> =>
    body(boxOf([at, 0.25, 0.35], [at + 0.05, 0.3, 0.4]), { act: 'drains', name: 'taken out' });

  it('voxels that were emptied are holes, one by one', async () => {
    expect((await last(liquidOptions({ ...tank, sources: [full] }))).lie.empty).toBe(0);
    expect((await last(liquidOptions({ ...tank, sources: [full, drain(0.35)] }))).lie.empty).toBe(1);
    const { lie } = await last(liquidOptions({ ...tank, sources: [full, drain(0.2), drain(0.5)] }));
    expect(lie.empty).toBe(2);
    // 16 x 12 x 16 cells, less those along five walls and the uppermost layer.
    expect(lie.bulk).toBe(14 * 10 * 14);
    expect(lie.clumps).toBe(0);
  });

  it('what runs against a wall faster than it spreads clumps', async () => {
    const jet = { ...tank, lastFrame: 12, matter: { volumeTime: 50 }, stepping: { cfl: 5, maximum: 2 } };
    const { lie } = await last(liquidOptions({ ...jet, sources: [body(boxOf([0, 0.1, 0.2], [0.5, 0.6, 0.6]), { velocity: [9, 0, 0] })] }));
    expect(lie.clumps).toBeGreaterThan(20);
  });
});

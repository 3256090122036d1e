import { describe, expect, it } from 'vitest';
import { gasOptions } from '#testing';
import { type FrameReport, solveGas } from '#core/gas';
import { withTeam } from '#testing';
import { replayWindows } from './replay';

const bounds = (h: number): ReturnType<typeof gasOptions> =>
  gasOptions({ voxelSize: h, lastFrame: 20, bounds: { mode: 'adaptive', limit: { min: [0, 0, 0], max: [6, 6, 6] }, reach: 0.4 } });

describe('windows of a finer run', () => {
  it('are those that the solver takes, to a tile', async () => {
    const reports = async (h: number): Promise<FrameReport[]> =>
      withTeam(1, (team) =>
        [...solveGas(bounds(h), { team, clock: () => 0, channels: { names: [] }, cancelled: () => false })].map((f) => f.report),
      );
    const coarse = await reports(0.1);
    const fine = await reports(0.05);
    const replayed = replayWindows(
      coarse.map((r) => r.matterBox?.slice() ?? null),
      coarse.map((_r, n) => n),
      0.1,
      bounds(0.05),
    );
    // A tile on each side: where a box ends within a voxel of a tile's edge nobody can know.
    fine.forEach((r, n) => {
      for (const a of [0, 1, 2] as const) {
        expect(Math.abs((replayed?.[n]?.[a] ?? 0) - r.window[3 + a]!), `frame ${String(r.frame)}, axis ${String(a)}`).toBeLessThanOrEqual(
          16,
        );
      }
    });
  });

  it('go on beyond the end of what is known, stay in the limit box, and are not guessed from nothing', () => {
    const box = (x: number): number[] => [2, 1, 2, 2 + x, 2, 3];
    const known = [box(1), box(1.1), box(1.2)];
    const windows = replayWindows(known, [0, 1, 2, 3, 8, 500], 0.05, bounds(0.05));
    expect(windows?.[4]?.[0]).toBeGreaterThan(windows?.[0]?.[0] ?? 0);
    expect(windows?.[5]).toEqual([96, windows?.[0]?.[1], windows?.[0]?.[2]]);
    expect(replayWindows([null, null], [0, 1], 0.05, bounds(0.05))).toBeNull();
  });
});

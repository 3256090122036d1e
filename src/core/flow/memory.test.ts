import { describe, expect, it } from 'vitest';
import { type LiquidFrame, solveLiquid } from '#core/liquid';
import { createTeam } from '#kernels';
import { allClosed, body, boxOf, gasOptions, liquidOptions, runGas, runLiquid, solid, still, withTeam } from '#testing';

const small = 300 * 2 ** 20;
/** Two drops: one from the start, one at the other end of the box from frame 3 on. */
const apart = liquidOptions({
  voxelSize: 0.05,
  lastFrame: 4,
  bounds: { limit: { min: [0, 0, 0], max: [12.8, 1.6, 12.8] } },
  sources: [body(boxOf([0, 0, 0], [0.2, 0.2, 0.2])), body(boxOf([12.6, 0, 12.6], [12.8, 0.2, 12.8]), { from: 3 })],
});

function until(arenaBytes: number, options = apart): { frames: readonly LiquidFrame[]; clouds: unknown[]; error: unknown } {
  const team = createTeam({ threads: 1, arenaBytes });
  const frames: LiquidFrame[] = [];
  const clouds: unknown[] = [];
  try {
    for (const frame of solveLiquid(options, { team, clock: () => 0, cancelled: () => false })) {
      frames.push(frame);
      clouds.push(frame.cloud().places);
    }
    return { frames, clouds, error: null };
  } catch (error) {
    return { frames, clouds, error };
  } finally {
    team.stop();
  }
}

describe('a window that outgrows the memory set aside for it', () => {
  it('ends a liquid at that frame with what would fit; frames before are those of a run with room', () => {
    const tight = until(small);
    expect(tight.error).toMatchObject({
      tag: 'arena-too-small',
      fields: { frame: 3 },
      message: expect.stringMatching(
        /^At frame 3: The bounds outgrew the memory: .* are needed, .* are there\. Voxels of 0\.0\d+ m would fit/,
      ) as string,
    });
    expect(tight.frames).toHaveLength(2);
    const roomy = until(2 ** 30);
    expect(roomy.error).toBeNull();
    expect(tight.clouds).toEqual(roomy.clouds.slice(0, 2));
    // The voxel size in the message fits.
    const said = Number(/Voxels of ([\d.]+) m/.exec((tight.error as Error).message)![1]);
    expect(said).toBeLessThan(0.075);
    expect(until(small, { ...apart, voxelSize: said }).error).toBeNull();
  });

  it('says of liquid that does not fit how much it needs, how much there is, and the voxels that fit', () => {
    const tank = liquidOptions({
      voxelSize: 0.02,
      lastFrame: 1,
      bounds: { limit: { min: [0, 0, 0], max: [1.6, 1.6, 1.6] } },
      sources: [body(boxOf([0, 0, 0], [1.6, 1.6, 1.6]))],
    });
    const { frames, error } = until(small, tank);
    expect(frames).toHaveLength(0);
    expect(error).toMatchObject({
      tag: 'arena-too-small',
      fields: { frame: 1 },
      message: expect.stringMatching(
        /^At frame 1: .* particles do not fit into memory: .* are needed, .* are left\. Voxels of 0\.0\d+ m would fit/,
      ) as string,
    });
    const said = Number(/Voxels of ([\d.]+) m/.exec((error as Error).message)![1]);
    expect(until(small, { ...tank, voxelSize: said }).error).toBeNull();
  });

  it('is refused before the first frame where the bounds are fixed: particles need room beside it', () => {
    const fixed = { ...apart, bounds: { ...apart.bounds, mode: 'fixed' as const } };
    const { frames, error } = until(600 * 2 ** 20, fixed);
    expect(frames).toHaveLength(0);
    expect(error).toMatchObject({ tag: 'arena-too-small', fields: { frame: null } });
  });
});

describe('memory beyond 2 GiB', () => {
  const HIGH = 2.2e9;
  const moves = { 'shape.centre.x': { kind: 'expression', text: '0.8 + time' } } as never;
  const block = (at: number) => solid({ shape: boxOf([at, 0.2, 0.2], [at + 0.3, 0.8, 0.8]), moves });

  it('holds the same gas: closed walls, solids that stand and move', async () => {
    const options = gasOptions({
      lastFrame: 3,
      bounds: { limit: { min: [0, 0, 0], max: [1.6, 1.6, 1.6] }, walls: allClosed },
      sources: [{ ...gasOptions().sources[0]!, shape: { kind: 'ball', centre: [0.5, 0.4, 0.8], radius: 0.3 } }],
      solids: [still(boxOf([1, 0, 0], [1.3, 0.6, 0.6])), block(0.8)],
    });
    const run = (at?: number) =>
      withTeam(1, (team) => runGas(team, options).map((f) => [f.grids.map((g) => g.values), f.report.residual]), at);
    expect(await run(HIGH)).toEqual(await run());
  });

  it('holds the same liquid', async () => {
    const options = liquidOptions({
      lastFrame: 3,
      sources: [
        body(boxOf([0, 0, 0], [0.5, 0.6, 0.4])),
        body(boxOf([0.1, 0.9, 0.1], [0.2, 1, 0.2]), { act: 'emits', velocity: [1, 0, 0] }),
      ],
      solids: [still(boxOf([0.9, 0, 0], [1, 0.4, 0.4])), block(0.8)],
      matter: { viscosity: 0.01, tension: 0.07 },
    });
    const run = (at?: number) => withTeam(1, (team) => runLiquid(team, options).map((f) => [f.cloud().places, f.report.volume]), at);
    expect(await run(HIGH)).toEqual(await run());
  });
});

import { beforeAll, describe, expect, it } from 'vitest';
import { refusalOf, withTeam } from '#testing';
import type { BasePart } from '../upscale';
import { solveGas } from '#core/gas';
import type { KernelTeam } from '#core/grid';
import { type ShotFile, heldSettingsSchema, parseShotFile, resolvePlan, gasSolveOf } from '#core/shot';
import { Held, type HeldBody, heldDefinition } from '.';

const LAST = 26;
const plume = (more: object = {}): ShotFile =>
  parseShotFile(
    JSON.stringify({
      ruddle: 1,
      name: 'Made up',
      lastFrame: LAST,
      // What the base has at its first frame is more than a source gives in one.
      preRoll: 8,
      variants: [
        {
          name: 'One',
          settings: {
            detail: { voxelSize: 0.08 },
            bounds: { limit: { min: [0, 0, 0], max: [2.6, 3.8, 2.6] }, reach: 0.3 },
            sources: [
              {
                shape: { kind: 'ball', centre: [1.3, 0.5, 1.3], radius: 0.3 },
                density: 1,
                heat: 400,
                velocity: [0, 2, 0],
                noise: { amount: 0.8, size: 0.3, change: 0.2 },
              },
            ],
            forces: { turbulence: { strength: 5, size: 1.2, change: 0.7 } },
            ...more,
          },
        },
      ],
    }),
    'made-up.json',
  );
const shot = plume();
const solve = gasSolveOf(shot.variants[0]!.settings);
const CHANNELS = ['density', 'temperature', 'vel'] as const;
const base = new Map<number, BasePart[]>();
const coarse = resolvePlan(shot, solve, 'test');

const run = (team: KernelTeam, options = { ...coarse.options, lastFrame: LAST }) =>
  solveGas(options, { team, clock: () => 0, channels: { names: CHANNELS }, cancelled: () => false });

beforeAll(async () => {
  await withTeam(1, (team) => {
    for (const { report, grids, inRange } of run(team))
      if (inRange) base.set(report.frame, [{ voxelSize: coarse.options.voxelSize, grids }]);
  });
});

const input = (channels: readonly string[] = CHANNELS, every = 1) => ({
  output: 'vdb' as const,
  voxelSizes: [coarse.options.voxelSize],
  channels,
  file: coarse.file,
  frames: { first: 1, last: LAST, every },
});
const bodyOf = (own: object, of = shot, reads = input()): HeldBody =>
  heldDefinition.resolve(
    { rung: 'final', beside: {}, shot: of, solve: gasSolveOf(of.variants[0]!.settings), input: reads },
    heldSettingsSchema.parse(own),
  ).body;

const none = (): never => {
  throw new Error('no imports here');
};
const held = (team: KernelTeam, body: HeldBody, from: Uint8Array | null = null, read = (n: number) => base.get(n)!): Held =>
  new Held({ body, team, forms: none, pictures: none, clock: () => 0, from, read });
const frames = (of: Held, first: number, last: number) => Array.from({ length: last - first + 1 }, (_v, n) => of.frame(first + n));

describe('a held solve', () => {
  it('keeps the large motion of the base within 5 %, where the same solve let free goes elsewhere', async () => {
    const apart = async (strength: number): Promise<number> =>
      await withTeam(1, (team) => {
        const all = frames(held(team, bodyOf({ strength, time: 0.02 })), 1, LAST).slice(1);
        return all.reduce((sum, f) => sum + f.apart, 0) / all.length;
      });
    const [kept, free] = [await apart(1), await apart(0)];
    expect(kept).toBeLessThan(0.05);
    expect(free).toBeGreaterThan(2.5 * kept);
  });

  it("begins with the base's matter, at the finer voxels", async () => {
    await withTeam(1, (team) => {
      const [first] = frames(held(team, bodyOf({ factor: 1.5 })), 1, 1);
      const sum = (grids: readonly { name: string; values: Float32Array }[], h: number): number =>
        grids.find((g) => g.name === 'density')!.values.reduce((n, v) => n + v, 0) * h ** 3;
      const h = coarse.options.voxelSize;
      const [fine, was] = [sum(first!.grids, h / 1.5), sum(base.get(1)![0]!.grids, h)];
      expect(was).toBeGreaterThan(0.02);
      expect(fine / was).toBeGreaterThan(0.9);
      expect(fine / was).toBeLessThan(1.3);
    });
  });

  it('goes on from its state to the bit, between frames that the base does not have', async () => {
    const every = 2;
    const body = bodyOf({}, shot, input(CHANNELS, every));
    const values = (f: ReturnType<Held['frame']>) => Buffer.concat(f.grids.map((g) => Buffer.from(g.values.slice().buffer)));
    const { whole, state } = await withTeam(1, (team) => {
      const of = held(team, body);
      const first = frames(of, 1, 5);
      const kept = first[4]!.state();
      return { whole: frames(of, 6, 9).map(values), state: kept };
    });
    const again = await withTeam(1, (team) => frames(held(team, body, state), 6, 9).map(values));
    expect(again.map((b, n) => Buffer.compare(b, whole[n]!))).toEqual([0, 0, 0, 0]);
  });

  it('reads each frame of the base once, and between two of them is held against where the base would be', async () => {
    const asked: number[] = [];
    const all = await withTeam(1, (team) =>
      frames(
        held(team, bodyOf({ time: 0.02 }, shot, input(CHANNELS, 2)), null, (n) => {
          asked.push(n);
          return base.get(n)!;
        }),
        1,
        7,
      ),
    );
    expect(asked).toEqual([1, 3, 5, 7]);
    // No frame of the base, no matter to hold it against; its motion is known there all the same.
    expect(all.map((f) => f.moved !== null)).toEqual([false, false, true, false, true, false, true]);
    const [between, at] = [all[3]!.apart, all[4]!.apart];
    expect(between).toBeLessThan(1.5 * at);
  });

  it('says what it needs and has not', () => {
    const because = (...of: Parameters<typeof bodyOf>): string => refusalOf(() => bodyOf(...of));
    expect(because({}, plume({ matter: { fire: {} } }))).toMatch(/fuel is not kept in what it reads/);
    const beside = [{ limit: { min: [4, 0, 0], max: [5, 1, 1] } }];
    const bounds = { limit: { min: [0, 0, 0], max: [2.6, 3.8, 2.6] }, beside };
    expect(because({}, plume({ bounds }))).toMatch(/bounds beside/);
    expect(because({}, shot, { ...input(), frames: { first: -4, last: 9, every: 1 } })).toMatch(/begins in the pre-roll/);
    expect(because({}, shot, { ...input(), voxelSizes: [] })).toMatch(/voxel size of what it reads is not known/);
  });

  it('solves with the confinement, the schemes and the CFL number of its own, where it has some; else with those of the sheet', () => {
    const moving = plume({
      forces: {
        confinement: 0.4,
        moves: {
          confinement: {
            kind: 'keys',
            keys: [
              { frame: 1, value: 0 },
              { frame: 9, value: 1 },
            ],
          },
        },
      },
    });
    const sheet = bodyOf({}, moving).options;
    expect(sheet.forces).toMatchObject({ confinement: 0.4, moves: { confinement: {} } });
    const own = bodyOf({ confinement: 0.1, velocityAdvection: 'reflection', scalarAdvection: 'cubic', cfl: 1.5 }, moving).options;
    expect(own.forces).toMatchObject({ confinement: 0.1, moves: {} });
    expect(own.matter).toMatchObject({ velocityAdvection: 'reflection', scalarAdvection: 'cubic' });
    expect(own.stepping.cfl).toBe(1.5);
    // Nothing else is another.
    const { forces, matter, stepping } = sheet;
    expect({ ...own, forces, matter, stepping }).toEqual(sheet);
  });

  it('is the same run to a longer range', () => {
    expect(bodyOf({}, shot, { ...input(), frames: { first: 1, last: 40, every: 1 } })).toEqual(bodyOf({}));
  });
});

import { describe, expect, it } from 'vitest';
import type { ParticleColumns } from '#core/formats';
import type { KernelTeam } from '#core/grid';
import { type ShotFile, fedSettingsSchema, parseShotFile, solveOf } from '#core/shot';
import { refusalOf, withTeam } from '#testing';
import { Fed, type FedBody, fedDefinition } from '.';

const H = 0.1;
const FPS = 24;
const shotOf = (more: object = {}): ShotFile =>
  parseShotFile(
    JSON.stringify({
      ruddle: 1,
      name: 'Made up',
      lastFrame: 8,
      preRoll: 0,
      framesPerSecond: FPS,
      variants: [
        {
          name: 'One',
          settings: {
            detail: { voxelSize: H },
            bounds: { limit: { min: [0, 0, 0], max: [4, 4, 4] }, reach: 0.2 },
            sources: [{ shape: { kind: 'ball', centre: [2, 2, 2], radius: 0.3 }, density: 1 }],
            // Nothing lifts or spreads it: what is there was given.
            matter: { lift: 0 },
            ...more,
          },
        },
      ],
    }),
    'made-up.json',
  );

type Particle = { id?: number; at: readonly [number, number, number]; v?: readonly [number, number, number]; age?: number };
const cloud = (list: readonly Particle[]): ParticleColumns => ({
  count: list.length,
  places: Float32Array.from(list.flatMap(({ at, age = 9 }) => [...at, age])),
  motions: Float32Array.from(list.flatMap(({ v = [0, 0, 0] }) => [...v, 18])),
  ids: Uint32Array.from(list.map(({ id }, n) => id ?? n)),
});

const file = { metresPerUnit: 1, upAxis: 'y', timeScale: 1 } as const;
const bodyOf = (own: object, shot = shotOf(), reads: object = {}): FedBody =>
  fedDefinition.resolve(
    {
      shot,
      solve: solveOf(shot.variants[0]!.settings),
      rung: 'final',
      beside: {},
      input: {
        output: 'ply',
        voxelSizes: [],
        channels: ['v', 'age', 'life', 'id'],
        file,
        frames: { first: 1, last: 8, every: 1 },
        ...reads,
      },
    },
    fedSettingsSchema.parse({ sources: false, inherits: 0, ...own }),
  ).body;

const none = (): never => {
  throw new Error('no imports here');
};
const fed = (team: KernelTeam, body: FedBody, points: (frame: number) => ParticleColumns, from: Uint8Array | null = null): Fed =>
  new Fed({ body, team, forms: none, pictures: none, clock: () => 0, from, points });
type Frame = ReturnType<Fed['frame']>;
const frames = (of: Fed, first: number, last: number): Frame[] => Array.from({ length: last - first + 1 }, (_v, n) => of.frame(first + n));

/** Every voxel of a grid that is not 0: its middle and value. */
function voxels({ grids }: Frame, name: string, component = 0): { at: [number, number, number]; value: number }[] {
  const grid = grids.find((g) => g.name === name)!;
  const list: { at: [number, number, number]; value: number }[] = [];
  for (let t = 0; t < grid.origins.length / 3; t++)
    for (let n = 0; n < 512; n++) {
      const value = grid.values[grid.components * (t * 512 + n) + component]!;
      const [i, j, k] = [grid.origins[3 * t]! + (n >> 6), grid.origins[3 * t + 1]! + ((n >> 3) & 7), grid.origins[3 * t + 2]! + (n & 7)];
      if (value !== 0) list.push({ at: [(i + 0.5) * H, (j + 0.5) * H, (k + 0.5) * H], value });
    }
  return list;
}
const far = (a: readonly number[], b: readonly number[]): number => Math.hypot(a[0]! - b[0]!, a[1]! - b[1]!, a[2]! - b[2]!);

describe('gas from particles', () => {
  it('gets a density a second around each, by the weight that is written down, and nothing beyond the radius', async () => {
    await withTeam(1, (team) => {
      const at = [1.23, 2.04, 1.97] as const;
      const [frame] = frames(
        fed(team, bodyOf({ density: 4.8, densityRadius: 0.35 }), () => cloud([{ at }])),
        1,
        1,
      );
      const found = voxels(frame!, 'density');
      for (const { at: p, value } of found) expect(value).toBeCloseTo((4.8 / FPS) * Math.max(0, 1 - (far(p, at) / 0.35) ** 2) ** 2, 4);
      // Each voxel whose middle lies within is there.
      expect(found.length).toBeGreaterThan(0.8 * (4 / 3) * Math.PI * 3.5 ** 3 * 0.9);
      // What the ledger says came in is what is there.
      expect(frame!.report.mass.sources).toBeCloseTo(found.reduce((sum, v) => sum + v.value, 0) * H ** 3, 6);
    });
  });

  it('adds up where they lie close, to a whole voxel and no more', async () => {
    await withTeam(1, (team) => {
      const most = (count: number): number => {
        const [frame] = frames(
          fed(team, bodyOf({ density: 24 }), () => cloud(Array.from({ length: count }, () => ({ at: [2.05, 2.05, 2.05] as const })))),
          1,
          1,
        );
        return Math.max(...voxels(frame!, 'density').map((v) => v.value));
      };
      expect([most(1), most(50)].map((v) => Math.round(1000 * v))).toEqual([1000, 1000]);
    });
  });

  it('leaves no gap behind a fast one, and gives nothing before its birth', async () => {
    await withTeam(1, (team) => {
      // A metre and a half in the frame.
      const v = [36, 0, 0] as const;
      const give = (age: number) =>
        frames(
          fed(team, bodyOf({ density: 24, densityRadius: 0.2 }), () => cloud([{ at: [3, 2, 2], v, age }])),
          1,
          1,
        )[0]!;
      const along = (frame: Frame): number[] => {
        const sums = new Array<number>(40).fill(0);
        for (const { at, value } of voxels(frame, 'density')) sums[Math.floor(at[0] / H)]! += value;
        return sums;
      };
      const old = along(give(9));
      for (let i = 17; i < 28; i++) expect(old[i]! / old[22]!).toBeGreaterThan(0.6);
      const young = along(give(0.5 / FPS));
      // Half a frame ago it was at 2.25 m.
      expect(young.slice(0, 19).every((s) => s === 0)).toBe(true);
      expect(young[26]).toBeGreaterThan(0);
    });
  });

  it('warms, and is drawn to the velocity of the particles within the time, each by its factor', async () => {
    await withTeam(1, (team) => {
      const at = [2.05, 2.05, 2.05] as const;
      const own = { density: null, heat: 2400, heatRadius: 0.3, inherits: 0.5, within: 1e-3, velocityRadius: 0.3 };
      const all = frames(
        fed(team, bodyOf(own), () => cloud([{ at, v: [0, 0, 0] }])),
        1,
        1,
      );
      const warm = voxels(all[0]!, 'temperature').reduce((a, b) => (b.value > a.value ? b : a));
      expect(far(warm.at, at)).toBeLessThan(0.01);
      // Above what surrounds it: a second's heat over the frames of a second.
      expect(warm.value - 293.15).toBeGreaterThan(99);
      expect(warm.value - 293.15).toBeLessThan(101);
      expect(all[0]!.report.heat!.sources).toBeGreaterThan(0);
    });
    await withTeam(1, (team) => {
      // Many that go along together: the projection leaves the middle of a broad stream as it is.
      const stream = Array.from({ length: 512 }, (_v, n) => ({
        at: [1.6 + (n & 7) * 0.1, 1.6 + ((n >> 3) & 7) * 0.1, 1.6 + (n >> 6) * 0.1] as const,
        v: [0, 4, 0] as const,
      }));
      const middle = (body: FedBody): number => {
        const last = frames(
          fed(team, body, () => cloud(stream)),
          1,
          3,
        )[2]!;
        return voxels(last, 'vel', 1).reduce((a, b) => (far(b.at, [1.95, 1.95, 1.95]) < far(a.at, [1.95, 1.95, 1.95]) ? b : a)).value;
      };
      const own = { density: null, heat: 1, velocityRadius: 0.2, within: 1e-3 };
      const [half, whole] = [middle(bodyOf({ ...own, inherits: 0.5 })), middle(bodyOf({ ...own, inherits: 1 }))];
      expect(half).toBeGreaterThan(1);
      expect(half).toBeLessThan(2.1);
      expect(whole / half).toBeCloseTo(2, 1);
    });
  });

  it.each([
    ['age', { least: 1, most: 3 }, [1, 2]],
    ['part', { most: 0.1 }, [0, 1]],
    ['speed', { least: 2.5 }, [3]],
    ['number', { least: 11, most: 12 }, [1, 2]],
  ] as const)('takes those whose %s lies in the range, and no others', async (test, range, wanted) => {
    await withTeam(1, (team) => {
      const list = [0, 1, 2, 3].map((n) => ({ id: 10 + n, at: [0.5 + n, 2, 2] as const, v: [0, 0, n] as const, age: n + 0.5 }));
      const [frame] = frames(
        fed(team, bodyOf({ density: 24, densityRadius: 0.15, test, ...range }), () => cloud(list)),
        1,
        1,
      );
      const near = [0, 1, 2, 3].filter((n) => voxels(frame!, 'density').some((v) => Math.abs(v.at[0] - (0.5 + n)) < 0.2));
      expect(near).toEqual(wanted);
      expect(frame!.particles).toBe(wanted.length);
    });
  });

  it('takes a share by chance, the same ones in all frames, at active frames only', async () => {
    await withTeam(1, (team) => {
      const list = Array.from({ length: 400 }, (_v, n) => ({ at: [2, 2, 2] as const, id: 7 * n }));
      const counts = frames(
        fed(team, bodyOf({ share: 0.25, from: 2, to: 3 }), () => cloud(list)),
        1,
        4,
      ).map((f) => f.particles);
      expect([counts[0], counts[3]]).toEqual([0, 0]);
      expect(counts[1]).toBe(counts[2]);
      expect(Math.abs(counts[1]! - 100)).toBeLessThan(4 * Math.sqrt(75));
    });
  });

  it("solves the sheet's sources too when that is wanted, at the rung's voxels", async () => {
    await withTeam(1, (team) => {
      const [both] = frames(
        fed(team, bodyOf({ sources: true, density: null, heat: 1 }), () => cloud([])),
        1,
        1,
      );
      const [alone] = frames(
        fed(team, bodyOf({ density: null, heat: 1 }), () => cloud([])),
        1,
        1,
      );
      expect(both!.report.mass.end).toBeGreaterThan(0.05);
      expect(alone!.report.mass.end).toBe(0);
    });
  });

  it('carries a colour with what it gives, where colour is carried', async () => {
    await withTeam(1, (team) => {
      const shot = shotOf({ matter: { lift: 0, colour: true }, keep: { colour: true } });
      const [frame] = frames(
        fed(team, bodyOf({ density: 24, colour: [1, 0.5, 0.25] }, shot), () => cloud([{ at: [2.05, 2.05, 2.05] }])),
        1,
        1,
      );
      const at = (c: number): number => voxels(frame!, 'colour', c).find((v) => far(v.at, [2.05, 2.05, 2.05]) < 0.01)!.value;
      expect([at(0), at(1), at(2)].map((v) => Math.round(100 * v))).toEqual([100, 50, 25]);
    });
  });

  it('gives the same bits with two threads, and gone on from a state, between frames that have no particles', async () => {
    const path = (frame: number) =>
      cloud(
        Array.from({ length: 60 }, (_v, n) => ({
          id: n,
          at: [1 + 0.03 * n, 1 + 0.1 * frame, 2 + 0.01 * n] as const,
          v: [0, 0.1 * FPS, 0] as const,
        })),
      );
    const body = bodyOf({ density: 9, inherits: 1, velocitySpread: 0.5 }, shotOf(), { frames: { first: 1, last: 9, every: 2 } });
    const values = (f: Frame) => Buffer.concat(f.grids.map((g) => Buffer.from(g.values.slice().buffer)));
    const asked: number[] = [];
    const one = await withTeam(1, (team) => {
      const of = fed(team, body, (f) => {
        asked.push(f);
        return path(f);
      });
      const first = frames(of, 1, 4);
      const state = first[3]!.state();
      return { state, whole: frames(of, 5, 7).map(values) };
    });
    expect([...new Set(asked)]).toEqual([1, 3, 5, 7]);
    const two = await withTeam(2, (team) => frames(fed(team, body, path, one.state), 5, 7).map(values));
    expect(two.map((b, n) => Buffer.compare(b, one.whole[n]!))).toEqual([0, 0, 0]);
  });
});

describe('what gas from particles can read', () => {
  it('says why it cannot be', () => {
    expect(refusalOf(() => bodyOf({ test: 'age' }, shotOf(), { channels: ['v'] }))).toMatch(/do not have what they are tested by/);
    expect(refusalOf(() => bodyOf({ inherits: 1 }, shotOf(), { channels: ['id'] }))).toMatch(/have no velocity/);
    expect(refusalOf(() => bodyOf({}, shotOf(), { frames: { first: 90, last: 95, every: 1 } }))).toMatch(/no frame in the range/);
  });

  it('needs the frames at which they give something', () => {
    const { reads } = fedDefinition;
    const given = { first: -3, last: 30, every: 3 };
    expect(reads!(bodyOf({ from: 2, to: 7 }), given)).toEqual([3, 6, 9]);
  });
});

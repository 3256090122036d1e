import { contactSlice, gapOf } from '#core/flow';
import { describe, expect, it } from 'vitest';
import type { MeshShape } from '#core/geometry';
import type { GasFrame, GasSource } from '.';
import { type Geometry, type PointsGeometry, formsOf } from '#core/mesh';
import {
  allClosed,
  ballSoup,
  boxSoup,
  gasOptions,
  runGas,
  sheetSoup,
  solid,
  still,
  type Soup,
  sumOf,
  voxelsOf,
  withTeam,
  meshShape,
} from '#testing';

const geometryOf = (mesh: Soup, change: Partial<Geometry> = {}): Geometry => ({
  kind: 'mesh',
  mesh,
  samples: null,
  rate: 0,
  count: 1,
  ...change,
});
const emits = (change: Partial<GasSource>): GasSource => ({ ...gasOptions().sources[0]!, ...change });
const box = (limit: [number, number, number], walls = allClosed) => ({
  mode: 'dense' as const,
  limit: { min: [0, 0, 0] as const, max: limit },
  walls,
});

describe('imported solids', () => {
  const ball = ballSoup(0.4, 40);
  const forms = formsOf(new Map([['ball', geometryOf(ball)]]));
  const plume = { lastFrame: 8, sources: [emits({ shape: { kind: 'ball', centre: [0.8, 0.3, 0.8], radius: 0.2 } })] };

  it('a ball of triangles stops a plume as a ball does', async () => {
    const of = (body: Parameters<typeof solid>[0]) =>
      withTeam(1, (team) => runGas(team, gasOptions({ ...plume, bounds: box([1.6, 2.4, 1.6]), solids: [solid(body)] }), { forms }));
    const meshed = await of({ shape: meshShape('ball', ball, { centre: [0.8, 1, 0.8] }) });
    const exact = await of({ shape: { kind: 'ball', centre: [0.8, 1, 0.8], radius: 0.4 } });
    const [a, b] = [meshed, exact].map((frames) => voxelsOf(frames[frames.length - 1]!, 'density')) as [
      ReturnType<typeof voxelsOf>,
      ReturnType<typeof voxelsOf>,
    ];
    let [difference, sum] = [0, 0];
    for (let n = 0; n < 16 * 24 * 16; n++) {
      const p = [n % 16, Math.floor(n / 16) % 24, Math.floor(n / 384)] as const;
      difference += Math.abs(a(...p) - b(...p));
      sum += b(...p);
    }
    // Facets and trilinear samples move the surface by 2 % of a voxel.
    expect(difference / sum).toBeLessThan(0.03);
    expect(a(8, 10, 8)).toBe(0);
  });

  it('what would go through it goes round it, and no density gets in', async () => {
    const run = (there: boolean): Promise<GasFrame[]> =>
      withTeam(1, (team) =>
        runGas(
          team,
          gasOptions({
            ...plume,
            lastFrame: 24,
            bounds: box([1.6, 2.4, 1.6]),
            solids: there ? [still(meshShape('ball', ball, { centre: [0.8, 1, 0.8] }))] : [],
          }),
          { forms },
        ),
      );
    const [frames, free] = [await run(true), await run(false)];
    const last = frames[frames.length - 1]!;
    expect(last.report.mass.solids).toBe(0);
    // Above the ball on the axis, and beside it: where the plume would be, and where it is pushed to.
    const inShape = (f: GasFrame, within: (r: number, y: number) => boolean): number => {
      const d = voxelsOf(f, 'density');
      let sum = 0;
      for (let n = 0; n < 16 * 24 * 16; n++) {
        const [x, y, z] = [n % 16, Math.floor(n / 16) % 24, Math.floor(n / 384)];
        if (within(Math.hypot(x - 7.5, z - 7.5), y)) sum += d(x, y, z);
      }
      return sum;
    };
    const above = (r: number, y: number): boolean => r < 2.5 && y > 14 && y < 20;
    const beside = (r: number, y: number): boolean => r > 4 && y > 7 && y < 13;
    expect(inShape(last, above)).toBeLessThan(0.2 * inShape(free[23]!, above));
    expect(inShape(last, beside)).toBeGreaterThan(3 * inShape(free[23]!, beside));
    const density = voxelsOf(last, 'density');
    for (const p of [
      [8, 10, 8],
      [6, 10, 8],
      [8, 8, 8],
      [8, 12, 9],
    ] as const)
      expect(density(p[0], p[1], p[2])).toBe(0);
  });

  it('a hollow container keeps what is inside it, a filled one has no room', async () => {
    const cube = boxSoup([-0.5, -0.5, -0.5], [0.5, 0.5, 0.5]);
    const cubes = formsOf(new Map([['cube', geometryOf(cube)]]));
    const run = (body: 'hollow' | 'filled') =>
      withTeam(1, (team) =>
        runGas(
          team,
          gasOptions({
            lastFrame: 6,
            bounds: box([1.6, 1.6, 1.6]),
            sources: [emits({ shape: { kind: 'ball', centre: [0.8, 0.8, 0.8], radius: 0.2 }, heat: 300 })],
            solids: [solid({ shape: meshShape('cube', cube, { centre: [0.8, 0.8, 0.8] }), body, thickness: 0.2 })],
          }),
          { forms: cubes },
        ),
      );
    const hollow = await run('hollow');
    const last = hollow[hollow.length - 1]!;
    const density = voxelsOf(last, 'density');
    expect(density(8, 8, 8)).toBeGreaterThan(0.5);
    let outside = 0;
    for (let n = 0; n < 4096; n++) {
      const [x, y, z] = [n & 15, (n >> 4) & 15, n >> 8];
      if (x < 3 || x > 12 || y < 3 || y > 12 || z < 3 || z > 12) outside += density(x, y, z);
    }
    expect(outside).toBe(0);
    expect(sumOf((await run('filled'))[5]!, 'density')).toBe(0);
  });

  it('an open sheet as a thin wall parts a box in two', async () => {
    const sheet = sheetSoup(4, 8);
    const sheets = formsOf(new Map([['sheet', geometryOf(sheet)]]));
    const frames = await withTeam(1, (team) =>
      runGas(
        team,
        gasOptions({
          lastFrame: 10,
          bounds: box([1.6, 1.6, 1.6]),
          sources: [emits({ shape: { kind: 'ball', centre: [0.8, 0.3, 0.8], radius: 0.2 }, heat: 400 })],
          solids: [solid({ shape: meshShape('sheet', sheet, { centre: [0.8, 0.83, 0.8] }), body: 'thin', thickness: 0.25 })],
        }),
        { forms: sheets },
      ),
    );
    const density = voxelsOf(frames[frames.length - 1]!, 'density');
    let [below, above] = [0, 0];
    for (let n = 0; n < 4096; n++) {
      const [x, y, z] = [n & 15, (n >> 4) & 15, n >> 8];
      if (y < 7) below += density(x, y, z);
      if (y > 9) above += density(x, y, z);
    }
    expect(below).toBeGreaterThan(5);
    expect(above).toBe(0);
  });

  it('a mesh that deforms drives the air at its own speed', async () => {
    // Its right side goes from 0.3 to 0.8 m in a quarter of a second: 2 m/s into an open channel.
    const piston = boxSoup([-0.3, -1, -1], [0.3, 3, 3]);
    const pushed = piston.positions.map((v, n) => (n % 3 === 0 && v > 0 ? v + 0.5 : v));
    const samples = Float32Array.from([...piston.positions, ...pushed]);
    const geometry = geometryOf(piston, { samples, rate: 4, count: 2 });
    const frames = await withTeam(1, (team) =>
      runGas(
        team,
        gasOptions({
          lastFrame: 5,
          sources: [],
          bounds: box([3.2, 1.6, 1.6], { ...allClosed, right: 'open' }),
          forces: { windTime: null },
          matter: { lift: 0, sinking: 0 },
          solids: [solid({ shape: meshShape('piston', piston, { seconds: 0.25, extent: { min: [-0.3, -1, -1], max: [0.8, 3, 3] } }) })],
        }),
        { forms: formsOf(new Map([['piston', geometry]])) },
      ),
    );
    const at = voxelsOf(frames[frames.length - 1]!, 'vel');
    for (const x of [12, 20, 28]) {
      let mean = 0;
      for (let n = 0; n < 256; n++) mean += at(x, n & 15, n >> 4) / 256;
      expect(mean).toBeGreaterThan(1.9);
      expect(mean).toBeLessThan(2.06);
    }
  });

  it('an imported source emits where it is, an animated one leaves no gap', async () => {
    const small = boxSoup([-0.15, -0.15, -0.15], [0.15, 0.15, 0.15]);
    const there = small.positions.map((v, n) => (n % 3 === 0 ? v + 1 : v));
    const geometry = geometryOf(small, { samples: Float32Array.from([...small.positions, ...there]), rate: 24, count: 2 });
    const shape = meshShape('runner', small, {
      centre: [0.3, 0.8, 0.8],
      seconds: 1 / 24,
      extent: { min: [-0.15, -0.15, -0.15], max: [1.15, 0.15, 0.15] },
    });
    const frames = await withTeam(1, (team) =>
      runGas(
        team,
        gasOptions({
          lastFrame: 2,
          stepping: { minimum: 1, maximum: 1 },
          bounds: box([1.6, 1.6, 1.6]),
          sources: [emits({ shape, heat: null, inherits: 0, mode: 'set' })],
          matter: { lift: 0, sinking: 0 },
        }),
        { forms: formsOf(new Map([['runner', geometry]])) },
      ),
    );
    const density = voxelsOf(frames[1]!, 'density');
    for (let x = 3; x <= 12; x++) expect(density(x, 8, 8)).toBeGreaterThan(0.7);
  });
});

describe('points as a source', () => {
  it('emit where they are, with their own velocity, in the frames that they have', async () => {
    const points: PointsGeometry = {
      kind: 'points',
      numbers: Int32Array.from([2, 3]),
      starts: Int32Array.from([0, 2, 4]),
      positions: Float32Array.from([0.4, 0.8, 0.8, 1.2, 0.8, 0.8, 0.45, 0.8, 0.8, 1.2, 0.8, 0.8]),
      velocities: Float32Array.from([1.2, 0, 0, 0, 0, 0, 1.2, 0, 0, 0, 0, 0]),
      ids: null,
      radii: Float32Array.from([0.2, 0.2, 0.2, 0.2]),
      attributes: { speed: Float32Array.from([1.2, 0, 1.2, 0]) },
    };
    const shape = { ...meshShape('spray', boxSoup([0, 0, 0], [1.6, 1.6, 1.6])), seconds: 1, starts: 2, pace: 24 };
    const run = (change: Partial<MeshShape>): Promise<GasFrame[]> =>
      withTeam(1, (team) =>
        runGas(
          team,
          gasOptions({
            lastFrame: 5,
            bounds: box([1.6, 1.6, 1.6]),
            sources: [emits({ shape: { ...shape, ...change }, heat: null, velocity: null })],
            matter: { lift: 0, sinking: 0 },
          }),
          { forms: formsOf(new Map([['spray', points]])) },
        ),
      );
    const all = await run({});
    expect(all.map((f) => f.report.mass.sources > 0)).toEqual([false, true, true, false, false]);
    const density = voxelsOf(all[2]!, 'density');
    expect([density(4, 8, 8), density(12, 8, 8)].map((v) => v > 0.7)).toEqual([true, true]);
    expect(density(8, 8, 8)).toBeLessThan(0.1);
    // What they pass on is their motion: the one that stands does not stir the air.
    const v = voxelsOf(all[2]!, 'vel');
    expect(v(4, 8, 8)).toBeGreaterThan(0.3);
    const fast = voxelsOf((await run({ pick: 'speed', above: 1 }))[2]!, 'density');
    expect(fast(4, 8, 8)).toBeGreaterThan(0.7);
    expect(fast(12, 8, 8)).toBeLessThan(0.1);
  });
});

describe('where matter meets solids', () => {
  const ball = ballSoup(0.5, 40);
  const forms = formsOf(new Map([['ball', geometryOf(ball)]]));
  const options = gasOptions({
    bounds: box([2, 2, 2]),
    solids: [solid({ shape: meshShape('ball', ball, { centre: [1, 1, 1] }), offset: 1 })],
  });
  it('a slice shows the distance of the grown body', () => {
    const slice = contactSlice(options, forms, 0, 2, 0.5);
    const at = (x: number, y: number): number =>
      slice.values[Math.floor((y / 2) * slice.size[1]) * slice.size[0] + Math.floor((x / 2) * slice.size[0])] ?? NaN;
    expect(at(1, 1)).toBeLessThan(-0.4);
    expect(Math.abs(at(1.6, 1))).toBeLessThan(0.06);
    expect(at(1.9, 1)).toBeGreaterThan(0.2);
  });
  it('the gap is the offset, in metres', () => {
    const gap = gapOf(
      options,
      forms,
      0,
      0,
      ball.positions.map((v) => v + 1),
    );
    expect(gap.mean).toBeCloseTo(0.1, 2);
    expect(gap.outside).toBeLessThan(0.125);
    expect(gap.inside).toBe(0);
    const none = gapOf(
      { ...options, solids: [solid({ shape: meshShape('ball', ball, { centre: [1, 1, 1] }) })] },
      forms,
      0,
      0,
      ball.positions.map((v) => v + 1),
    );
    expect(none.mean).toBeLessThan(0.012);
  });
});

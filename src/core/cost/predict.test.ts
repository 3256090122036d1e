import { describe, expect, it } from 'vitest';
import { windowBytes } from '#core/gas';
import { windowOf } from '#core/grid';
import { type GasPlan, type GasSolve, optionsOf, planOfBounds, resolvePlan, solveSchema, shotFieldsSchema } from '#core/shot';
import { makeReport } from '#testing/values';
import { type CostFrame, type CostRun, costRunsOf } from './evidence';
import { expectedSubsteps } from './extrapolate';
import { knowledgeOf, predict, summaryOf } from './predict';
import { type RecordEntry, measuredOf, pairsOf, spreadOf, statisticsOf } from './record';

const shot = shotFieldsSchema.parse({ name: 'Planted', lastFrame: 40 });
const settings = (voxelSize: number, change: object = {}): GasSolve =>
  solveSchema.parse({
    detail: { voxelSize },
    bounds: { limit: { min: [-8, 0, -8], max: [8, 16, 8] }, reach: 0.5 },
    sources: [{ shape: { kind: 'ball', centre: [0, 2, 0], radius: 0.6 } }],
    ...change,
  });
const plan = (h: number, change: object = {}): GasPlan => resolvePlan(shot, settings(h, change), 'final');

/** How the load of a world goes with the voxel size. */
interface World {
  /** Factors of a halving: voxels over those that a coarser run expects, speed, iterations a substep, bytes a voxel. */
  readonly smear: number;
  readonly speed: number;
  readonly iterations: number;
  readonly packing: number;
}
/** What the model takes for granted where nothing was learnt; and one that is unlike it in everything. */
const USUAL: World = { smear: 0.94, speed: 1, iterations: 1, packing: 0.95 };
const UNLIKE: World = { smear: 0.8, speed: 1.7, iterations: 1.5, packing: 0.55 };

/** A world with known laws: a plume of growing size, a speed that grows, times that go with the work. `slow`: how busy the machine is. */
function run(
  title: string,
  p: GasPlan,
  { slow = 1, origin = 'server', world = USUAL }: { slow?: number; origin?: CostRun['origin']; world?: World } = {},
): CostRun {
  const h = p.options.voxelSize;
  const halvings = Math.log2(0.2 / h);
  const frames = Array.from({ length: 40 }, (_v, n): CostFrame => {
    const side = 2 + 0.06 * n;
    // Tiles add six voxels to a side.
    const filled = (size: number): number => ((side + 6 * size) / size) ** 3 * world.smear ** halvings;
    const voxels = filled(h);
    const speed = (2 + 0.1 * n) * world.speed ** halvings;
    const substeps = n === 0 ? 0 : Math.ceil(speed / (24 * 2 * h));
    const iterations = substeps * 4 * world.iterations ** halvings;
    const work = voxels * substeps;
    const wide = 8 * Math.ceil((side / h + 12) / 8);
    return {
      frame: n + 1,
      voxels,
      window: [wide, wide, wide],
      finer: filled(h / 2),
      matter: null,
      memoryBytes: windowBytes(windowOf([0, 0, 0], [wide, wide, wide]), { fire: null, colour: false, coordinates: false }),
      substeps,
      speed,
      iterations,
      // Finer voxels pack better.
      bytes: voxels * 4 * world.packing ** halvings,
      seconds: {
        sources: 0,
        forces: work * 5e-8 * slow,
        advection: work * 4e-7 * slow,
        pressure: voxels * iterations * 4e-8 * slow,
        bounds: 0,
        writing: (voxels * 1e-7 + 0.01) * slow,
      },
      calibration: 6e-4 * slow,
    };
  });
  return { id: title, title, origin, threads: 2, plan: p, frames };
}

const total = (r: CostRun): number => r.frames.reduce((s, f) => s + Object.values(f.seconds).reduce((a, b) => a + b, 0), 0);
const off = (likely: number, true_: number): number => Math.abs(likely / true_ - 1);

const coarse = run('run 1', plan(0.2));
const fine = run('run 2', plan(0.1));

describe('predictions', () => {
  it('of a finer rung from a coarser run come near, in every quantity', () => {
    const p = predict(plan(0.1), [coarse], knowledgeOf([coarse], 2));
    expect(p.basis).toBe('same');
    expect(p.from).toBe('run 1');
    const truth = measuredOf(fine.frames, 6e-4);
    expect(off(p.voxels.likely, truth.voxels)).toBeLessThan(0.25);
    // Windows are whole tiles: one more on a side of seven is half as much again.
    expect(off(p.memory.likely, truth.memory)).toBeLessThan(0.5);
    expect(off(p.disk.likely, truth.disk)).toBeLessThan(0.3);
    expect(off(p.time!.likely, total(fine))).toBeLessThan(0.35);
    expect(p.frames).toHaveLength(40);
  });

  it('learn nothing about times from frames that waited for cores, where others are known', () => {
    // Every stage took three times as long, two thirds of it without a core; the short calibration kernel between felt nothing of it.
    const held = (r: CostRun): CostRun => ({
      ...r,
      frames: r.frames.map((f) => {
        const seconds = Object.fromEntries(Object.entries(f.seconds).map(([s, v]) => [s, 3 * v])) as CostFrame['seconds'];
        return { ...f, seconds, waited: (2 / 3) * Object.values(seconds).reduce((x, y) => x + y, 0) };
      }),
    });
    const crowded = held(run('run 3', plan(0.15)));
    const alone = predict(plan(0.1), [coarse], knowledgeOf([coarse], 2)).time!.likely;
    const [beside, only] = [
      [coarse, crowded],
      [held(coarse), crowded],
    ].map((runs) => predict(plan(0.1), [coarse], knowledgeOf(runs, 2)).time!.likely) as [number, number];
    expect(off(beside, alone)).toBeLessThan(0.05);
    // Where every hour is a busy one, its times are what is known.
    expect(only).toBeGreaterThan(1.5 * alone);
    // What a run came to is told without its waiting.
    expect(off(measuredOf(held(coarse).frames, 6e-4).time, measuredOf(coarse.frames, 6e-4).time)).toBeLessThan(1e-9);
  });

  it('of the very same run repeat what it took', () => {
    const p = predict(plan(0.1), [coarse, fine], knowledgeOf([coarse, fine], 2));
    expect(p.basis).toBe('repeat');
    expect(off(p.time!.likely, total(fine))).toBeLessThan(0.08);
    expect(off(p.memory.likely, measuredOf(fine.frames, 6e-4).memory)).toBeLessThan(0.02);
    const same = predict(plan(0.1), [coarse], knowledgeOf([coarse], 2));
    expect(p.time!.high / p.time!.low).toBeLessThan(same.time!.high / same.time!.low);
  });

  it('are learnt from runs of one thing at two sizes: a world that is unlike all that was taken for granted', () => {
    const free = { stepping: { maxSubsteps: 64 } };
    const unlike = (title: string, h: number): CostRun => run(title, plan(h, free), { world: UNLIKE });
    const runs = [0.1, 0.075, 0.056, 0.042].map((h, n) => unlike(`run ${String(n)}`, h));
    const [two, truth] = [runs[3]!, unlike('truth', 0.021)];
    const known = knowledgeOf(runs, 2);
    expect(known.lessons.pairs).toBe(3);
    expect(known.lessons.smear).toBeLessThan(0.87);
    expect(known.lessons.speedGrowth).toBeGreaterThan(1.45);
    expect(known.lessons.iterationGrowth).toBeGreaterThan(1.3);
    expect(known.lessons.bytesGrowth).toBeLessThan(0.7);
    const learnt = predict(plan(0.021, free), [two], known);
    const blind = predict(plan(0.021, free), [two], { ...known, lessons: knowledgeOf([], 2).lessons });
    const m = measuredOf(truth.frames, 6e-4);
    // Each of the four would be far off if it were not learnt.
    for (const [likely, unlearnt, measured, within] of [
      [learnt.time!.likely, blind.time!.likely, total(truth), 0.3],
      [learnt.disk.likely, blind.disk.likely, m.disk, 0.2],
    ] as const) {
      expect(off(likely, measured)).toBeLessThan(within);
      expect(off(unlearnt, measured)).toBeGreaterThan(1.5 * off(likely, measured));
    }
    expect(off(learnt.voxels.likely, m.voxels)).toBeLessThan(0.1);
  });

  it('know what a further reach adds on every side', () => {
    const of = (reach: number) => {
      const { bounds } = settings(0.1);
      return predict(plan(0.1, { bounds: { ...bounds, reach } }), [fine], knowledgeOf([fine], 2));
    };
    const [near, far] = [of(0.5), of(1.5)];
    // The plume is about 4 m wide at its largest, its voxels 5 with the half metre around it: a metre more on each side.
    const side = Math.cbrt(near.voxels.likely) * 0.1;
    expect(Math.cbrt(far.voxels.likely) * 0.1).toBeCloseTo(side + 2, 1);
    expect(far.memory.likely / near.memory.likely).toBeGreaterThan(1.5);
  });

  it('count frames of the pre-roll in the time, and on the disk only where they are kept', () => {
    const early = shotFieldsSchema.parse({ ...shot, preRoll: 20 });
    const of = (preRoll: boolean) =>
      predict(resolvePlan(early, settings(0.1, { keep: { preRoll } }), 'final'), [fine], knowledgeOf([fine], 2));
    const [without, kept] = [of(false), of(true)];
    expect(without.frames).toHaveLength(60);
    expect(without.frames.filter((f) => f.frame < 1).every((f) => f.bytes === 0)).toBe(true);
    expect(kept.frames.filter((f) => f.frame < 1).every((f) => f.bytes > 0)).toBe(true);
    expect(kept.disk.likely).toBeGreaterThan(1.1 * without.disk.likely);
    expect(off(kept.time!.likely, without.time!.likely)).toBeLessThan(0.05);
  });

  it('are wider the less is known: same settings, other settings, settings alone', () => {
    const known = knowledgeOf([coarse], 2);
    const width = (p: ReturnType<typeof predict>): number => p.memory.high / p.memory.low;
    const same = predict(plan(0.1), [coarse], known);
    const other = predict(plan(0.1, { matter: { lift: 0.05, decayTime: 2 }, forces: { wind: [2, 0, 0] } }), [coarse], known);
    const alone = predict(plan(0.1), [], known);
    expect([same.basis, other.basis, alone.basis]).toEqual(['same', 'relative', 'settings']);
    expect(width(other)).toBeGreaterThan(width(same));
    expect(width(alone)).toBeGreaterThan(width(other));
  });

  it('of a very long shot from its settings alone begin as those of a shorter one, and take not much longer', () => {
    const alone = knowledgeOf([], 2);
    const lasting = (lastFrame: number) => {
      const { options, ...rest } = plan(0.05);
      const began = process.cpuUsage();
      const { frames } = predict({ ...rest, options: { ...options, lastFrame } }, [], alone);
      return { voxels: frames.map((f) => f.voxels), took: process.cpuUsage(began).user };
    };
    // The first time is that of code that is new.
    lasting(900);
    const [short, long] = [lasting(900), lasting(20_000)];
    expect(long.voxels).toHaveLength(20_000);
    expect(long.voxels.slice(0, 900)).toEqual(short.voxels);
    // What is in the limit box stays as much, however far the oldest of it has gone.
    expect(long.voxels.at(-1)! / short.voxels.at(-1)!).toBeGreaterThan(0.8);
    // Twice as many looks, and the frames themselves.
    expect(Math.min(long.took, lasting(20_000).took)).toBeLessThan(5 * short.took);
  });

  it('a busy machine does not spoil them: its calibration was slow as well', () => {
    const busy = run('run 3', plan(0.2), { slow: 3 });
    const quiet = predict(plan(0.1), [coarse], knowledgeOf([coarse], 2)).time!.likely;
    const mixed = predict(plan(0.1), [coarse, busy], knowledgeOf([coarse, coarse, busy], 2)).time!.likely;
    expect(off(mixed, quiet)).toBeLessThan(0.1);
  });

  it('a browser gives voxels and never times', () => {
    const sketch = run('the Sketch', plan(0.4), { origin: 'browser', slow: 50 });
    // Those of another machine, with a wide range, until this one is measured.
    const unmeasured = predict(plan(0.1), [sketch], knowledgeOf([sketch], 2));
    expect(unmeasured).toMatchObject({ unmeasured: true });
    expect(unmeasured.time!.high / unmeasured.time!.low).toBeGreaterThan(9);
    expect(unmeasured.time!.likely).toBeLessThan(3.2 * total(fine));
    expect(unmeasured.time!.likely).toBeGreaterThan(total(fine) / 3.2);
    const entry = { run: 'run 1', title: 'run 1', prediction: summaryOf(unmeasured), measured: measuredOf(fine.frames, 0) };
    expect(['time', 'disk'].map((q) => pairsOf([entry], q as 'time').length)).toEqual([0, 1]);
    const p = predict(plan(0.1), [sketch], knowledgeOf([coarse], 2));
    expect(p.unmeasured).toBeUndefined();
    expect(p.from).toBe('the Sketch');
    expect(off(p.time!.likely, total(fine))).toBeLessThan(0.6);
  });

  it('know the limits of substeps', () => {
    const p = plan(0.1, { stepping: { minSubsteps: 2, maxSubsteps: 4, cfl: 2 } });
    expect(expectedSubsteps(0.01, p)).toBe(2);
    expect(expectedSubsteps(1000, p)).toBe(4);
    // 24 fps x 2 voxels x 0.1 m = 4.8 m/s a substep; the maximum flickers about 12 m/s.
    expect(expectedSubsteps(12, p)).toBeGreaterThan(2.4);
    expect(expectedSubsteps(12, p)).toBeLessThan(3.4);
  });
});

describe('the prediction record', () => {
  const entry = (factor: number): RecordEntry => {
    const p = predict(plan(0.1), [coarse], knowledgeOf([coarse], 2));
    const m = p.time!.likely * factor;
    return { run: 'x', title: 'x', prediction: p, measured: { voxels: 1, memory: 1, disk: 1, time: m } };
  };
  it('says how far off they were, and how many were inside the range', () => {
    const s = statisticsOf([entry(1), entry(1.1), entry(10)], 'time');
    expect(s.count).toBe(3);
    expect(s.medianError).toBeCloseTo(1 - 1 / 1.1, 6);
    expect(s.inside).toBeCloseTo(2 / 3, 6);
  });
  it('widens the ranges when they were wrong, and narrows them when they were right', () => {
    const prior = spreadOf([], 'same', 'time');
    expect(spreadOf([entry(2), entry(0.4), entry(3)], 'same', 'time')).toBeGreaterThan(prior * 1.5);
    expect(spreadOf([entry(1), entry(1.01), entry(0.99), entry(1)], 'same', 'time')).toBeLessThan(prior);
    expect(spreadOf([entry(2)], 'relative', 'time')).toBe(spreadOf([], 'relative', 'time'));
  });
});

describe('what moves', () => {
  const moving = {
    solids: [{ shape: { kind: 'ball', centre: [0, 4, 0], radius: 1 }, moves: { 'shape.centre.x': { kind: 'expression', text: 'time' } } }],
  };
  const still = { solids: [{ shape: { kind: 'ball', centre: [0, 4, 0], radius: 1 } }] };
  /** Tiles near it are made anew in every substep: a microsecond a voxel. */
  const withTiles = (r: CostRun): CostRun => {
    const near = (2 / r.plan.options.voxelSize + 12) ** 3;
    return { ...r, frames: r.frames.map((f) => ({ ...f, seconds: { ...f.seconds, bounds: near * f.substeps * 1e-6 } })) };
  };
  it('costs what it did elsewhere, and standing still it costs nothing', () => {
    const known = knowledgeOf(
      [withTiles(run('moves', plan(0.2, moving))), run('stands', plan(0.2, still)), withTiles(run('moves', plan(0.14, moving)))],
      2,
    );
    const seconds = (p: GasPlan): number => predict(p, [run('run 9', plan(0.1, still))], known).time!.likely;
    const [moves, stands] = [seconds(plan(0.1, moving)), seconds(plan(0.1, still))];
    const truth = total(withTiles(run('truth', plan(0.1, moving)))) - total(run('truth', plan(0.1, still)));
    expect(off(moves - stands, truth)).toBeLessThan(0.35);
  });
});

describe('several bounds', () => {
  const beside = {
    bounds: {
      limit: { min: [-8, 0, -8], max: [8, 16, 8] },
      reach: 0.5,
      beside: [{ limit: { min: [20, 0, -4], max: [28, 8, 4] }, voxelSize: 0.2 }],
    },
  };
  it('cost what each would cost, and a run of them tells of each', () => {
    const both = plan(0.1, beside);
    const known = knowledgeOf([coarse, fine], 2);
    const each = optionsOf(both).map((_o, n) => predict(planOfBounds(both, n), [coarse, fine], known));
    const all = predict(both, [coarse, fine], known);
    for (const q of ['voxels', 'memory', 'disk', 'time'] as const)
      expect(all[q]!.likely).toBeCloseTo(each[0]![q]!.likely + each[1]![q]!.likely, 6);
    expect(all.frames[9]!.voxels).toBeCloseTo(each[0]!.frames[9]!.voxels + each[1]!.frames[9]!.voxels, 6);

    const [a, b] = [makeReport({ activeVoxels: 3000 }), makeReport({ activeVoxels: 1000 })];
    const kept = [{ report: { ...a, activeVoxels: 4000, parts: [a, b] }, bytes: 800 }];
    const runs = costRunsOf({ id: 'r', title: 'run 3', origin: 'server', threads: 4, plan: both }, kept);
    expect(runs.map((r) => [r.threads, r.plan.options.voxelSize, r.frames[0]!.voxels, r.frames[0]!.bytes])).toEqual([
      [2, 0.1, 3000, 600],
      [2, 0.2, 1000, 200],
    ]);
  });
});

describe('whatever a run was like', () => {
  /** A run with nothing in it: files of a few bytes, no voxel. */
  const blank = (p: GasPlan): CostRun => ({
    ...run('run 1', p),
    frames: run('run 1', p).frames.map((f) => ({
      ...f,
      voxels: 0,
      window: [8, 8, 8] as [number, number, number],
      substeps: 0,
      iterations: 0,
      bytes: 900,
      speed: 0,
      calibration: 0,
    })),
  });
  const numbersOf = (value: unknown): number[] =>
    typeof value === 'number' ? [value] : typeof value === 'object' && value !== null ? Object.values(value).flatMap(numbersOf) : [];

  it('what is predicted from it is a number, and so is what was learnt', () => {
    const empty = blank(plan(0.2));
    for (const runs of [[empty], [empty, coarse], [{ ...empty, frames: [] }]]) {
      const known = knowledgeOf(runs, 2);
      expect(numbersOf(known).every(Number.isFinite)).toBe(true);
      for (const p of [plan(0.2), plan(0.1), plan(0.1, { sources: [] })]) {
        const predicted = predict(p, runs, known);
        expect(numbersOf(predicted).every((v) => Number.isFinite(v) && v >= 0)).toBe(true);
      }
    }
    expect(predict(plan(0.2), [empty, coarse], knowledgeOf([empty, coarse], 2)).voxels.likely).toBeGreaterThan(1000);
  });

  it('a box beyond all measure costs more than anybody has, in numbers', () => {
    const huge = plan(1e-4, { bounds: { mode: 'dense', limit: { min: [-1e300, -1e300, -1e300], max: [1e300, 1e300, 1e300] } } });
    const p = predict(huge, [], knowledgeOf([], 2));
    expect(numbersOf(p).every(Number.isFinite)).toBe(true);
    expect(p.memory.likely).toBeGreaterThan(1e20);
  });
});

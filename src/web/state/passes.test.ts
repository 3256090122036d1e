import { describe, expect, it } from 'vitest';
import { Chain } from '#core/passes';
import { type Settings, type GasSolve, gasSolveOf } from '#core/shot';
import type { PassRunDto, ShotDto } from '#protocol';
import { makePassRun, makeRun, makeShot, settingsOf } from '#testing/values';
import { type PassState, costOfInputs, passStates, staleAfter } from './passes';

const base = gasSolveOf(makeShot().variants[0]!.settings);
type Passes = NonNullable<Parameters<typeof settingsOf>[1]>;
const passes = [
  { id: 'coarse', kind: 'resample', name: 'Coarse' },
  { id: 'look', kind: 'stills', name: 'Look', input: { pass: 'coarse' } },
];
const withPasses = (list: Passes = passes, more: Partial<GasSolve> = {}): Settings => settingsOf({ ...base, ...more }, list);
const { fields } = makeShot();
const chainOf = (settings: Settings): Chain => new Chain(fields, settings, { run: () => null, folder: () => null });

const passRun = (settings: Settings, id: string): PassRunDto => makePassRun(settings, id);
const solveRun = (settings: Settings, changes = {}) => makeRun({ key: chainOf(settings).solve('test').key, ...changes });

const states = (settings: Settings, shot: Partial<ShotDto> = {}): PassState[] =>
  passStates({
    shot: { ...makeShot(), ...shot },
    settings,
    fields,
    loads: { test: () => 1e5, final: () => 8e5 },
    threads: 2,
  });
const of = (settings: Settings, shot: Partial<ShotDto> = {}) =>
  Object.fromEntries(states(settings, shot).map((s) => [s.id, s.because === null ? s.state : `${s.state}: ${s.because}`]));

describe('how the passes of a sheet stand', () => {
  const settings = withPasses();
  const runs = [solveRun(settings)];
  const passRuns = [passRun(settings, 'coarse'), passRun(settings, 'look')];

  it('nothing is there, or all is fresh', () => {
    expect(of(settings)).toEqual({ solve: 'missing', coarse: 'missing', look: 'missing' });
    expect(of(settings, { runs, passRuns })).toEqual({ solve: 'fresh', coarse: 'fresh', look: 'fresh' });
  });

  it('what is changed above makes all below stale, and says because of what', () => {
    const finer = withPasses(passes, { detail: { voxelSize: 0.04 } });
    expect(of(finer, { runs, passRuns })).toEqual({
      solve: 'stale: its own settings',
      coarse: 'stale: Solve, which it reads, has other settings',
      look: 'stale: Coarse, which it reads, has other settings',
    });
    const coarser = withPasses([{ ...passes[0], settings: { voxelFactor: 4 } } as Passes[number], passes[1]!]);
    expect(of(coarser, { runs, passRuns })).toEqual({
      solve: 'fresh',
      coarse: 'stale: its own settings',
      look: 'stale: Coarse, which it reads, has other settings',
    });
  });

  it('what changes no result makes nothing stale: names, switches, passes beside', () => {
    const renamed = withPasses([
      { ...passes[0]!, name: 'Another', enabled: false },
      passes[1]!,
      { id: 'more', kind: 'particles', name: 'More' },
    ]);
    expect(of(renamed, { runs, passRuns })).toEqual({ solve: 'fresh', coarse: 'fresh', look: 'fresh', more: 'missing' });
  });

  it('a pinned pass keeps to its run; when that is freed it says so', () => {
    const pinned = withPasses([{ ...passes[0]!, input: { run: 'run-1' } }], { detail: { voxelSize: 0.04 } });
    expect(of(pinned, { runs, passRuns: [passRuns[0]!] })).toEqual({ solve: 'stale: its own settings', coarse: 'fresh' });
    const [, gone] = states(pinned, { runs: [{ ...runs[0]!, freed: true }], passRuns: [] });
    expect(gone!.problem).toMatch(/The run that it is pinned to is gone/);
  });

  it('says what its input is made of: volumes, particles', () => {
    const chain = withPasses([
      { id: 'sparks', kind: 'particles', name: 'Sparks' },
      { id: 'look', kind: 'stills', name: 'Look', input: { pass: 'sparks' } },
    ]);
    expect(states(chain).map((s) => s.reads)).toEqual([null, 'vdb', 'ply']);
  });

  it('says what it lacks', () => {
    const mute = withPasses([{ id: 'sparks', kind: 'particles', name: 'Sparks' }], { keep: { ...base.keep, vel: false } });
    expect(states(mute)[1]!.problem).toMatch(/It needs velocity, which is not kept in what it reads/);
  });

  it('predicts a pass from what it reads, and the pass after it from that', () => {
    const measure = { kind: 'resample', pass: null, secondsPerElement: 1e-6, bytesPerKept: 2, keptOfModel: 1, memoryOfModel: 1 } as const;
    const [, coarse, look] = states(settings, { measures: [measure] });
    // 24 frames of 800 000 voxels on two cores; half as many voxels a side are left.
    expect(coarse!.final).toMatchObject({ from: 'its kind' });
    expect(coarse!.final!.seconds).toBeCloseTo((24 * 8e5 * 1e-6) / 2, 3);
    // And what three channels take that hold nothing.
    expect(coarse!.final!.bytes).toBeCloseTo((24 * 8e5 * 2) / 8 + 24 * 30_000, 0);
    expect(coarse!.final!.gives.get(5)).toBeCloseTo(1e5, 0);
    const [, alone] = states(withPasses([{ ...passes[1]!, input: { pass: 'solve' } }]));
    expect(alone!.final!.seconds).toBeGreaterThan(look!.final!.seconds * 1.9);
  });

  it('knows both that a pass reads: what they cost before it, which of them makes it stale, what its frames will have', () => {
    const sparks = { id: 'sparks', kind: 'particles', name: 'Sparks', settings: { perSecond: 24000, life: 10 } } as const;
    const spray = { id: 'spray', kind: 'refill', name: 'Spray', input: { pass: 'sparks' }, settings: { perSecond: 24, life: 10 } } as const;
    const both = withPasses([sparks, spray]);
    const made = [makePassRun(both, 'spray')];
    const [, flown, filled] = states(both, { runs, passRuns: made });
    expect(filled).toMatchObject({ state: 'fresh', reads: 'ply' });
    // The tenth frame: ten frames' births of each of so many particles.
    expect(filled!.final!.gives.get(10)).toBeCloseTo(flown!.final!.gives.get(10)! * 10, 0);
    // What both of them read is computed once.
    const solve = { test: { seconds: 10, bytes: 100 }, final: { seconds: 80, bytes: 800 } };
    expect(costOfInputs(states(both), both, solve, 'spray', 'final').seconds).toBeCloseTo(80 + flown!.final!.seconds, 6);
    // More voxels that carry them take longer.
    const alone = withPasses([sparks, { ...spray, velocity: { folder: '/caches/wind' } }]);
    const known = {
      '/caches/wind': {
        key: 'wind-1',
        gives: {
          ...runs[0]!.plan.file,
          output: 'vdb',
          voxelSizes: [0.1],
          channels: ['vel'],
          file: runs[0]!.plan.file,
          frames: { first: 1, last: 24, every: 1 },
        },
      },
    } as const;
    const [, , quick] = states(alone, { folders: known });
    expect(quick!.final!.seconds).toBeLessThan(filled!.final!.seconds);
    // A change of the velocity alone is told from one of the particles.
    expect(of(alone, { runs, passRuns: made, folders: known })).toMatchObject({
      spray: 'stale: the files that it reads, which are others',
    });
    expect(staleAfter(states(both, { runs, passRuns: made }), both, solve, 'solve').passes.map((p) => p.name)).toEqual(['Solve', 'Spray']);
  });

  it('says before a change which whole caches it makes stale, and what they cost again', () => {
    const solve = { test: { seconds: 10, bytes: 100 }, final: { seconds: 80, bytes: 800 } };
    const after = (s: Settings, id: string) => staleAfter(states(s, { runs, passRuns }), s, solve, id);
    const [, coarse, look] = states(settings);
    expect(after(settings, 'solve')).toEqual({
      passes: ['Solve', 'Coarse', 'Look'].map((name) => ({ name, rungs: ['test'] })),
      seconds: 10 + coarse!.test!.seconds + look!.test!.seconds,
      bytes: 100 + coarse!.test!.bytes + look!.test!.bytes,
    });
    expect(after(settings, 'look').passes.map((p) => p.name)).toEqual(['Look']);
    // What is pinned follows no sheet; what is stale already is no loss.
    const pinned = withPasses([{ ...passes[0]!, input: { run: 'run-1' } }]);
    expect(after(pinned, 'solve').passes.map((p) => p.name)).toEqual(['Solve']);
    expect(after(withPasses(passes, { detail: { voxelSize: 0.04 } }), 'solve')).toEqual({ passes: [], seconds: 0, bytes: 0 });
  });

  it('says what would be computed before a pass: what is there, at the rung that it reads, and what is above that, is not', () => {
    const solve = { test: { seconds: 10, bytes: 100 }, final: { seconds: 80, bytes: 800 } };
    const before = (s: Settings, id: string, rung: 'test' | 'final', shot: Partial<ShotDto> = {}) =>
      costOfInputs(states(s, shot), s, solve, id, rung);
    const coarse = states(settings)[1]!;
    expect(before(settings, 'look', 'final')).toEqual({ seconds: 80 + coarse.final!.seconds, bytes: 800 + coarse.final!.bytes });
    expect(before(settings, 'look', 'test', { runs })).toEqual({ seconds: coarse.test!.seconds, bytes: coarse.test!.bytes });
    expect(before(settings, 'look', 'test', { runs: [], passRuns: [passRuns[0]!] })).toEqual({ seconds: 0, bytes: 0 });
    // A Final that is on its way, newer than the Test, does not hide that.
    const later = solveRun(settings, {
      id: 'run-9',
      number: 9,
      rung: 'final',
      key: chainOf(settings).solve('final').key,
      state: 'running',
      framesDone: 1,
    });
    expect(before(settings, 'coarse', 'test', { runs: [...runs, later] })).toEqual({ seconds: 0, bytes: 0 });
    // A Final that stands on a Test.
    const onTest = withPasses([{ ...passes[0]!, input: { rung: 'test' } }]);
    expect(before(onTest, 'coarse', 'final')).toEqual({ seconds: 10, bytes: 100 });
    expect(before(withPasses([{ ...passes[0]!, input: { run: 'run-1' } }]), 'coarse', 'final')).toEqual({ seconds: 0, bytes: 0 });
  });
});

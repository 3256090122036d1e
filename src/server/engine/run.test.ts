import { createHash } from 'node:crypto';
import { settingsOf } from '#testing/values';
import { existsSync, mkdtempSync, readFileSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { RuddleError } from '#core/errors';
import { readVdb, summarize } from '#core/formats';
import {
  type SolveInput,
  liquidSolveSchema,
  optionsOf,
  parseWith,
  planOfBounds,
  resolvePlan,
  gasSolveOf,
  shotFieldsSchema,
} from '#core/shot';
import { DiskGuard, type RunRecord } from '#server/cache';
import type { FrameReport } from '#core/gas';
import { leftInFolder, startRun, type RunInput, type StoredFrame } from '.';

let folder = '';
beforeEach(() => {
  folder = mkdtempSync(join(tmpdir(), 'ruddle-run-'));
});
afterEach(() => {
  rmSync(folder, { recursive: true, force: true });
});

const settings = settingsOf({
  bounds: { limit: { min: [0, 0, 0], max: [3.2, 3.2, 3.2] } },
  sources: [{ shape: { kind: 'ball', centre: [1.6, 0.8, 1.6], radius: 0.5 }, velocity: [0, 2, 0] }],
  keep: { preRoll: true },
});
const shot = parseWith(shotFieldsSchema, { name: 'Puff', lastFrame: 4, preRoll: 2 }, 'test');

const input = (over: Partial<RunInput> = {}): RunInput => ({
  shot: 'Puff',
  variant: 'One',
  settings,
  plan: resolvePlan(shot, gasSolveOf(settings), 'test'),
  folder,
  geometryFolder: folder,
  threads: 1,
  disk: new DiskGuard(folder, 0),
  ...over,
});
const record = (): RunRecord<FrameReport> => JSON.parse(readFileSync(join(folder, 'run.json'), 'utf8')) as RunRecord<FrameReport>;
const files = (): string[] =>
  readdirSync(folder)
    .filter((f) => f.endsWith('.vdb'))
    .sort();

describe('a run', () => {
  it('writes frames, pre-roll on request, and says where they come from', async () => {
    expect(await startRun(input()).outcome).toEqual({ state: 'done', error: null, frames: 6, states: [] });
    expect(files()).toEqual(['solve.-0001.vdb', 'solve.0000.vdb', 'solve.0001.vdb', 'solve.0002.vdb', 'solve.0003.vdb', 'solve.0004.vdb']);
    const r = record();
    expect(r).toMatchObject({ state: 'done', shot: 'Puff', variant: 'One', threads: 1 });
    expect(r.key).toMatch(/^[0-9a-f]{64}$/);
    expect(r.codeVersion).toContain('gas-');
    expect(r.machine.cores).toBeGreaterThan(0);
    expect(r.frames).toHaveLength(6);
    const grids = readVdb(readFileSync(join(folder, 'solve.0004.vdb'))).grids.map(summarize);
    expect(grids.map((g) => g.name)).toEqual(['density', 'temperature', 'vel']);
    // What the file holds is what the report says.
    const mass = grids[0]!.sum[0]! * 0.2 ** 3;
    expect(mass / r.frames[5]!.report.mass.end).toBeCloseTo(1, 3);
    expect(grids[1]!.maximum).toBeCloseTo(r.frames[5]!.report.maxima.temperature, -1);
  });

  it('of a liquid writes volumes beside the particles when they are kept, listed and whole', async () => {
    const tank = liquidSolveSchema.parse({
      detail: { voxelSize: 0.1 },
      bounds: { limit: { min: [0, 0, 0], max: [1.6, 1.2, 0.8] } },
      sources: [{ name: 'Column', shape: { kind: 'box', centre: [0.3, 0.4, 0.4], size: [0.6, 0.8, 0.8] } }],
      keep: { distance: true, velocity: true },
    });
    const plan = resolvePlan(parseWith(shotFieldsSchema, { name: 'Tank', lastFrame: 3 }, 'test'), tank, 'final');
    expect(await startRun(input({ plan })).outcome).toMatchObject({ state: 'done', error: null, frames: 3 });
    expect(files()).toEqual(['solve-volumes.0001.vdb', 'solve-volumes.0002.vdb', 'solve-volumes.0003.vdb']);
    const listed = record().frames[2]!.files.map((f) => f.file);
    expect(listed.slice(0, 2)).toEqual(['solve.0003.ply', 'solve-volumes.0003.vdb']);
    const grids = readVdb(readFileSync(join(folder, 'solve-volumes.0003.vdb'))).grids.map(summarize);
    expect(grids.map((g) => g.name)).toEqual(['distance', 'vel']);
    // The column falls apart to the right.
    expect(grids[1]!.sum[0]! / grids[1]!.activeVoxels).toBeGreaterThan(0.05);
    expect(grids[0]!.minimum).toBeCloseTo(-0.15, 3);
  });

  it('the same run on one thread and two writes the same bytes', async () => {
    await startRun(input()).outcome;
    const one = record().frames.map((f) => f.files);
    rmSync(folder, { recursive: true });
    await startRun(input({ threads: 2 })).outcome;
    expect(record().frames.map((f) => f.files)).toEqual(one);
  });

  it('a disk that fills up stops it with whole frames, and says so', async () => {
    let writes = 0;
    const disk = {
      check: () => {
        if (++writes > 3) return Promise.reject(new RuddleError('disk-full', 'The disk is full.', { freeBytes: 1, keepBytes: 2 }));
        return Promise.resolve();
      },
    } as unknown as DiskGuard;
    const outcome = await startRun(input({ disk })).outcome;
    expect(outcome).toMatchObject({ state: 'failed', error: { tag: 'disk-full' }, frames: 2 });
    expect(files()).toHaveLength(2);
    expect(record()).toMatchObject({ state: 'failed', error: { tag: 'disk-full' } });
  });

  it('an error of the solver arrives with its tag and fields, frames before it are kept', async () => {
    const outcome = await startRun(input({ arenaBytes: 50e6 })).outcome;
    expect(outcome.error).toMatchObject({ tag: 'arena-too-small' });
    expect(outcome.frames).toBe(0);
  });

  it('cancelled before it begins, it leaves no frames', async () => {
    const run = startRun(input());
    run.cancel();
    expect((await run.outcome).state).toBe('cancelled');
    expect(files()).toEqual([]);
  });
});

describe('a run with bounds beside', () => {
  const two = (more: object = {}) =>
    settingsOf({
      ...more,
      bounds: {
        limit: { min: [0, 0, 0], max: [3.2, 3.2, 3.2] },
        beside: [{ name: 'Far', limit: { min: [20, 0, 0], max: [22.4, 2.4, 2.4] }, voxelSize: 0.05 }],
      },
      sources: [
        { shape: { kind: 'ball', centre: [1.6, 0.8, 1.6], radius: 0.5 } },
        { shape: { kind: 'ball', centre: [21.2, 0.8, 1.2], radius: 0.3 } },
      ],
    });
  const both = two();

  it('computes them side by side: a file of each, what each would be alone, added up in the report', async () => {
    const plan = resolvePlan(shot, gasSolveOf(both), 'test');
    expect(await startRun(input({ settings: both, plan, threads: 2 })).outcome).toMatchObject({ state: 'done', frames: 6 });
    expect(files()).toEqual(
      [1, 2, 3, 4].flatMap((n) => [`solve-2.000${String(n)}.vdb`]).concat([1, 2, 3, 4].map((n) => `solve.000${String(n)}.vdb`)),
    );
    const r = record();
    const last = r.frames[5]!;
    expect(last.files.slice(0, 2).map((f) => f.file)).toEqual(['solve.0004.vdb', 'solve-2.0004.vdb']);
    expect(
      createHash('sha256')
        .update(readFileSync(join(folder, 'solve-2.0004.vdb')))
        .digest('hex'),
    ).toBe(last.files[1]!.checksum);
    expect(last.report.parts?.map((p) => p.frame)).toEqual([4, 4]);
    expect(last.report.mass.end).toBeCloseTo(
      last.report.parts!.reduce((n, p) => n + p.mass.end, 0),
      12,
    );
    // The second's files hold its own place and voxel size, and are those of a run of it alone.
    const [density] = readVdb(readFileSync(join(folder, 'solve-2.0004.vdb'))).grids;
    expect(density!.transform?.scale[0]).toBeCloseTo(0.1, 6);
    expect(summarize(density!).sum[0]! * 0.1 ** 3).toBeCloseTo(last.report.parts![1]!.mass.end, 2);
    const alone = join(folder, 'alone');
    await startRun(input({ plan: planOfBounds(plan, 1), folder: alone })).outcome;
    const other = readVdb(readFileSync(join(alone, 'solve.0004.vdb'))).grids[0]!;
    expect(summarize(other).sum).toEqual(summarize(density!).sum);
  });

  it('ends as a whole: when one fails the reason is its own, and a cancel ends all', async () => {
    // The second's box alone outgrows the memory that there is.
    const plan = resolvePlan(shot, gasSolveOf(both), 'test');
    const big = { ...plan, beside: plan.beside.map((o) => ({ ...o, voxelSize: 0.002, bounds: { ...o.bounds, mode: 'dense' as const } })) };
    const failed = await startRun(input({ plan: big, arenaBytes: 2 ** 29 })).outcome;
    expect(failed).toMatchObject({ state: 'failed', error: { tag: 'arena-too-small' } });
    const running = startRun(
      input({
        plan,
        onFrame: () => {
          running.cancel();
        },
      }),
    );
    const ended = await running.outcome;
    expect(ended.state).toBe('cancelled');
    expect(ended.frames).toBeLessThan(6);
  });
});

describe('a run that goes on', () => {
  const long = parseWith(shotFieldsSchema, { name: 'Puff', lastFrame: 900 }, 'test');
  const limit = { min: [0, 0, 0], max: [3.2, 3.2, 3.2] };
  const sources: SolveInput['sources'] = [{ shape: { kind: 'ball', centre: [1.6, 0.8, 1.6], radius: 0.5 }, velocity: [0, 2, 0] }];
  const beside = [{ name: 'Left half', limit: { min: [0, 0, 0], max: [1.6, 3.2, 3.2] }, voxelSize: 0.1 }];

  it.each([
    ['one bounds', {}],
    ['two bounds', { beside }],
  ])('begins with the state of each of its bounds, and writes the same files: %s', async (_name, more) => {
    const set = settingsOf({ sources, bounds: { limit, ...more } });
    const plan = resolvePlan(long, gasSolveOf(set), 'test');
    const count = optionsOf(plan).length;
    const kept: StoredFrame[] = [];
    const run = startRun(
      input({
        plan,
        settings: set,
        states: true,
        onFrame: (frame) => {
          kept.push(frame);
          const states = new Set(kept.flatMap((f) => f.states).map((s) => s.bounds));
          // Some frames more than the state: they are there already.
          if (states.size === count && kept.slice(-3).every((f) => f.states.length === 0)) run.cancel();
        },
      }),
    );
    expect((await run.outcome).state).toBe('cancelled');
    const states = kept.flatMap((f) => f.states);
    const newest = Array.from({ length: count }, (_v, b) => states.findLast((s) => s.bounds === b)!);
    const last = kept[kept.length - 1]!.frame;
    expect(last).toBeGreaterThan(newest[0]!.frame);
    const until = last + 4;
    const [began, computed]: [number[], number[]] = [[], []];
    const resume = { frames: kept, states: newest, from: newest.map((s) => new Uint8Array(readFileSync(join(folder, s.file)))), until };
    const further = await startRun(
      input({
        plan,
        settings: set,
        resume,
        onFrame: ({ frame }) => void began.push(frame),
        onProgress: (frame) => void computed.push(frame),
      }),
    ).outcome;
    expect(further).toMatchObject({ state: 'done', error: null, frames: kept.length + 4 });
    expect(Math.min(...computed)).toBeGreaterThan(Math.min(...newest.map((s) => s.frame)));
    // Frames between the state and the end of what was there are computed and not written again.
    expect(began).toEqual([last + 1, last + 2, last + 3, last + 4]);
    const sums = record().frames.map((f) => f.files);
    expect(existsSync(join(folder, newest[0]!.file))).toBe(false);
    rmSync(folder, { recursive: true });
    await startRun(input({ plan, settings: set, resume: { frames: [], states: [], from: [], until } })).outcome;
    expect(record().frames.map((f) => f.files)).toEqual(sums);
  });

  it('goes on from its folder alone, as the command line does; what is damaged is computed again', async () => {
    const set = settingsOf({ sources, bounds: { limit } });
    let plan = resolvePlan(long, gasSolveOf(set), 'test');
    const of = (more: Partial<RunInput>): RunInput => input({ plan, settings: set, states: 'meanwhile', ...more });
    expect(await leftInFolder(folder, plan, null)).toBeNull();
    const kept: StoredFrame[] = [];
    const run = startRun(
      of({
        onFrame: (frame) => {
          kept.push(frame);
          if (kept.flatMap((f) => f.states).length > 0 && kept.slice(-3).every((f) => f.states.length === 0)) run.cancel();
        },
      }),
    );
    expect((await run.outcome).state).toBe('cancelled');
    // A range that ends soon: it changes no key.
    const end = kept[kept.length - 1]!.frame + 4;
    plan = { ...plan, options: { ...plan.options, lastFrame: end } };
    const left = (await leftInFolder(folder, plan, null))!;
    expect(left.frames.map((f) => f.frame)).toEqual(kept.map((f) => f.frame));
    expect(left.until).toBe(end);
    const finer = { ...plan, options: { ...plan.options, voxelSize: 0.15 } };
    expect(await leftInFolder(folder, finer, null)).toBeNull();
    // The frame after the newest state is damaged: those from it on are made anew.
    const state = left.states[0]!.frame;
    writeFileSync(join(folder, kept.find((f) => f.frame === state + 1)!.files[0]!.file), 'damaged');
    const less = (await leftInFolder(folder, plan, null))!;
    expect(less.frames.map((f) => f.frame)).toEqual(kept.map((f) => f.frame).filter((f) => f <= state));
    const computed: number[] = [];
    const further = await startRun(of({ resume: less, onFrame: ({ frame }) => void computed.push(frame) })).outcome;
    expect(further).toMatchObject({ state: 'done', states: [] });
    expect(computed[0]).toBe(state + 1);
    expect(existsSync(join(folder, 'states'))).toBe(false);
    expect(await leftInFolder(folder, plan, null)).toBeNull();
    const sums = record().frames.map((f) => f.files);
    rmSync(folder, { recursive: true });
    await startRun(of({})).outcome;
    expect(record().frames.map((f) => f.files)).toEqual(sums);
  });

  it('with nothing missing only says that it is done', async () => {
    await startRun(input()).outcome;
    const whole = record();
    writeFileSync(join(folder, 'run.json'), JSON.stringify({ ...whole, state: 'running', endedAt: null }));
    const resume = { frames: whole.frames, states: [], from: [null], until: null };
    const computed: number[] = [];
    const outcome = await startRun(input({ resume, onProgress: (frame) => void computed.push(frame) })).outcome;
    expect(outcome).toMatchObject({ state: 'done', frames: 6 });
    expect(computed).toEqual([]);
    expect(record()).toMatchObject({ state: 'done' });
    expect(record().frames).toEqual(whole.frames);
  });

  it('states that have no room are done without', async () => {
    const taken = { check: () => Promise.resolve(), hasRoom: () => Promise.resolve(false) } as unknown as DiskGuard;
    const states: unknown[] = [];
    const outcome = await startRun(input({ states: true, disk: taken, onFrame: (f) => void states.push(...f.states) })).outcome;
    expect([outcome.state, states]).toEqual(['done', []]);
    // With room there is one after the last frame.
    expect((await startRun(input({ states: true, onFrame: (f) => void states.push(...f.states) })).outcome).error).toBeNull();
    expect(states).toMatchObject([{ bounds: 0, frame: 4, file: 'states/solve.4.state' }]);
  });

  it('a state that is damaged ends it with what is wrong; frames stay', async () => {
    await startRun(input()).outcome;
    const { frames } = record();
    const resume = { frames: frames.slice(0, 2), states: [], from: [new Uint8Array(100)], until: 4 };
    const outcome = await startRun(input({ resume })).outcome;
    expect(outcome).toMatchObject({ state: 'failed', error: { tag: 'file-invalid' }, frames: 2 });
    expect(files()).toHaveLength(2);
  });
});

import { createHash } from 'node:crypto';
import { processorSeconds, settingsOf, withGroups } from '#testing/values';
import { copyFileSync, cpSync, mkdirSync, mkdtempSync, readFileSync, readdirSync, rmSync, truncateSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { eq } from 'drizzle-orm';
import sharp from 'sharp';
import { afterAll, afterEach, beforeAll, beforeEach, describe, expect, it, vi } from 'vitest';
import { readVdb, summarize } from '#core/formats';
import { SHOT_VERSION, type SolveInput, parseWith, followersOf, shotFileSchema, withFollowers, type ShotFile } from '#core/shot';
import type { RefillReport, StillsReport } from '#core/passes';
import type { AnyRunDto, PassDetailDto, PassRunDto, ServerEvent, ShotDto } from '#protocol';
import { tables } from '#server/db';
import { type Recorded, configFor, finishedRun, recorded } from '#server/testing';
import { openApp, type App } from '.';

let folder = '';
let app: App;
/** The solve of the puff, computed once: nearly every test here begins with one that is done. */
let puffed: Recorded;
const config = () => configFor(folder);
const open = (): Promise<App> => openApp(config());

beforeAll(async () => {
  puffed = await recorded(puff([]));
});
afterAll(() => {
  rmSync(puffed.folder, { recursive: true, force: true });
});

beforeEach(async () => {
  folder = mkdtempSync(join(tmpdir(), 'ruddle-passes-'));
  app = await open();
  vi.spyOn(console, 'error').mockImplementation(() => undefined);
  vi.spyOn(console, 'log').mockImplementation(() => undefined);
});
afterEach(async () => {
  await app.close();
  rmSync(folder, { recursive: true, force: true });
  vi.restoreAllMocks();
});

type Passes = Parameters<typeof settingsOf>[1];
const coarse = { id: 'coarse', kind: 'resample', name: 'Coarse' } as const;
const sparks = { id: 'sparks', kind: 'particles', name: 'Sparks', settings: { perSecond: 48000, life: 0.2 } } as const;
const look = { id: 'look', kind: 'stills', name: 'Look', settings: { width: 96 } } as const;
const puff = (passes: Passes, settings: SolveInput = {}, lastFrame = 6): ShotFile =>
  parseWith(
    shotFileSchema,
    {
      ruddle: SHOT_VERSION,
      name: 'Lid puff',
      lastFrame,
      variants: [
        {
          name: 'One',
          settings: settingsOf(
            {
              detail: { voxelSize: 0.1 },
              bounds: { limit: { min: [0, 0, 0], max: [3.2, 3.2, 3.2] } },
              sources: [{ name: 'Vent', shape: { kind: 'ball', centre: [1.6, 0.8, 1.6], radius: 0.5 }, velocity: [0, 3, 0] }],
              ...settings,
            },
            passes,
          ),
        },
      ],
    },
    'test',
  );

/** The red of a still's pixels. */
async function pictureOf(run: PassRunDto, frame: number): Promise<(x: number, y: number) => number> {
  const { data, info } = await sharp(readFileSync(join(run.folder, `stills.${String(frame).padStart(4, '0')}.png`)))
    .raw()
    .toBuffer({ resolveWithObject: true });
  expect([info.width, info.height]).toEqual([96, 54]);
  return (x, y) => data[3 * (y * 96 + x)]!;
}

/** A frame of particles: how many there are, and where the first of them begins in the file. */
function plyOf(run: Pick<AnyRunDto, 'folder'>, frame: number): { readonly file: Buffer; readonly count: number; readonly first: number } {
  const file = readFileSync(join(run.folder, `particles.${String(frame).padStart(4, '0')}.ply`));
  const head = file.subarray(0, 400).toString('latin1');
  const count = Number(/element vertex (\d+)/.exec(head)![1]);
  return { file, count, first: head.indexOf('end_header\n') + 'end_header\n'.length };
}

/** A puff whose solve is done. */
const solved = async (file: ShotFile): Promise<ShotDto> => {
  const shot = await app.shots.add(file);
  await finishedRun(app, shot, { like: puffed });
  return await app.shots.get(shot.id);
};
const start = (shot: ShotDto, pass: string, rung: 'test' | 'final' = 'test'): Promise<AnyRunDto> =>
  app.shots.startRun(shot.variants[0]!.id, rung, app.runner, { pass });
const ended = async (id: string): Promise<PassRunDto> => {
  for (;;) {
    const run = await app.runs.get(id);
    if (run.state !== 'queued' && run.state !== 'running') return run as PassRunDto;
    await new Promise((resolve) => setTimeout(resolve, 30));
  }
};
const detail = async (id: string): Promise<PassDetailDto> => (await app.runs.detail(id)) as PassDetailDto;
const vdb = (run: AnyRunDto, name: string) => readVdb(readFileSync(join(run.folder, name))).grids.map(summarize);
const hashes = (run: AnyRunDto): string[] =>
  readdirSync(run.folder, { recursive: true, encoding: 'utf8' })
    .filter((f) => /\.(vdb|ply|png|preview)$/.test(f))
    .sort()
    .map(
      (f) =>
        `${f} ${createHash('sha256')
          .update(readFileSync(join(run.folder, f)))
          .digest('hex')}`,
    );

describe('passes', () => {
  it('what a pass reads is computed first, once; its result is that of the solve at another voxel size', async () => {
    const shot = await app.shots.add(puff([coarse]));
    const run = await ended((await start(shot, 'coarse')).id);
    expect(run).toMatchObject({ state: 'done', error: null, framesDone: 6, frameCount: 6, kind: 'resample', passId: 'coarse', number: 2 });
    const { runs, passRuns } = await app.shots.get(shot.id);
    expect([runs.length, passRuns.length]).toEqual([1, 1]);
    expect(run.inputs).toEqual([runs[0]!.id]);
    const [above, own] = [vdb(runs[0]!, 'solve.0006.vdb'), vdb(run, 'resample.0006.vdb')];
    expect(own.map((g) => g.name)).toEqual(['density', 'temperature', 'vel']);
    expect(own[0]!.voxelSize![0]! / above[0]!.voxelSize![0]!).toBeCloseTo(2, 6);
    expect((own[0]!.sum[0]! * 8) / above[0]!.sum[0]!).toBeCloseTo(1, 2);
    const { frames } = await detail(run.id);
    expect(frames.map((f) => f.frame)).toEqual([1, 2, 3, 4, 5, 6]);
    expect(frames[5]!.report).toMatchObject({ frame: 6, inputVoxels: expect.any(Number) as number });
    // The solve is there: a second run of the pass reads the same one.
    const again = await ended((await start(shot, 'coarse')).id);
    expect(again.inputs).toEqual(run.inputs);
    expect(hashes(again)).toEqual(hashes(run));
  });

  it('carries particles with it, and makes a picture of each frame', async () => {
    const shot = await solved(puff([sparks, look]));
    const flown = await ended((await start(shot, 'sparks')).id);
    expect(flown).toMatchObject({ state: 'done', error: null, framesDone: 6 });
    const { file, count, first } = plyOf(flown, 6);
    expect(file.length).toBe(first + 36 * count);
    // 0.2 s of 48000 a second, less the spread of the age limit.
    expect(count).toBeGreaterThan(6000);
    let up = 0;
    for (let n = 0; n < count; n++) up += file.readFloatLE(first + 36 * n + 16) / count;
    expect(up).toBeGreaterThan(0.5);
    const taken = await ended((await start(shot, 'look')).id);
    expect(taken).toMatchObject({ state: 'done', framesDone: 6, inputs: flown.inputs });
    const at = await pictureOf(taken, 6);
    expect(at(48, 40)).toBeGreaterThan(at(3, 3) + 30);
  });

  it('goes on after the server ended in the middle, to the same bytes', async () => {
    const file = puff([sparks], {}, 12);
    const solve = await recorded(file);
    const [first, shot] = [await app.shots.add(file), await app.shots.add(file)];
    for (const s of [first, shot]) await finishedRun(app, s, { like: solve });
    const whole = await ended((await start(first, 'sparks')).id);
    const reached = new Promise<void>((resolve) => {
      app.events.subscribe((e: ServerEvent) => {
        if (e.kind === 'frame' && e.frame.frame >= 5 && 'count' in e.frame.report) resolve();
      });
    });
    const run = await start(shot, 'sparks');
    await reached;
    await app.close();
    app = await open();
    expect((await app.runs.get(run.id)).framesDone).toBeLessThan(12);
    const after = await ended(run.id);
    expect(after).toMatchObject({ state: 'done', framesDone: 12 });
    rmSync(solve.folder, { recursive: true });
    expect(hashes(after)).toEqual(hashes(whole));
  });

  it('a damaged or missing frame of a pass is computed again, and no other', async () => {
    const shot = await solved(puff([coarse]));
    const run = await ended((await start(shot, 'coarse')).id);
    const before = hashes(run);
    writeFileSync(join(run.folder, 'resample.0003.vdb'), 'nothing');
    rmSync(join(run.folder, 'resample.0005.vdb'));
    expect(await app.runs.verify(run.id)).toMatchObject({ damaged: [3], missing: [5] });
    const seen: number[] = [];
    app.events.subscribe((e: ServerEvent) => {
      if (e.kind === 'frame') seen.push(e.frame.frame);
    });
    await app.runner.goOn(run.id);
    expect(await ended(run.id)).toMatchObject({ state: 'done', damagedFrames: 0, missingFrames: 0 });
    expect(seen.sort()).toEqual([3, 5]);
    expect(hashes(run)).toEqual(before);
  });

  it('refuses to read what is damaged, says which, and goes on when that is repaired', async () => {
    const shot = await solved(puff([coarse]));
    const solve = shot.runs[0]!;
    // Its size is right: only the checksum says it.
    const path = join(solve.folder, 'solve.0004.vdb');
    const bytes = readFileSync(path);
    bytes[bytes.length - 100]! ^= 1;
    writeFileSync(path, bytes);
    const run = await ended((await start(shot, 'coarse')).id);
    expect(run.state).toBe('failed');
    expect(run.error!.message).toMatch(
      /What this pass reads is damaged: solve\.0004\.vdb is not what was written\. Repair that run first\./,
    );
    // Found, it is known before anything is begun.
    await app.runs.verify(solve.id);
    await app.runner.goOn(run.id);
    expect((await ended(run.id)).error!.message).toMatch(/Of run 1, which it reads, frame 4 is damaged: repair it first/);
    await app.runner.goOn(solve.id);
    await ended(solve.id);
    await app.runner.goOn(run.id);
    expect(await ended(run.id)).toMatchObject({ state: 'done', framesDone: 6, error: null });
  });

  it('a Final of a pass stands on a Test when that is wanted, and on a certain run when it is pinned to it', async () => {
    const shot = await solved(puff([{ ...look, input: { rung: 'test' } }]));
    const run = await ended((await start(shot, 'look', 'final')).id);
    // Of another rung it waits all the same.
    expect(run).toMatchObject({ state: 'done', framesDone: 6, error: null });
    const { runs } = await app.shots.get(shot.id);
    expect(runs).toMatchObject([{ rung: 'test' }]);
    const pinned = await app.shots.add(puff([{ ...look, input: { run: run.inputs[0]! } }]));
    // A run of another shot is none of its own.
    await expect(start(pinned, 'look')).rejects.toMatchObject({
      tag: 'settings-invalid',
      message: expect.stringMatching(/pinned to is gone/) as string,
    });
    const { variants } = await app.shots.get(shot.id);
    const { settings } = variants[0]!;
    const [reads] = followersOf(settings);
    const moved = withFollowers(withGroups(settings, { detail: { voxelSize: 0.2 } }), [
      { ...reads!, input: { pass: 'solve', rung: 'same', run: runs[0]!.id, folder: null } },
    ]);
    await app.shots.saveDraft(variants[0]!.id, moved, 0);
    const other = await ended((await app.shots.startRun(variants[0]!.id, 'test', app.runner, { pass: 'look' })).id);
    // The sheet has other voxels by now; it reads the run that it is pinned to.
    expect(other).toMatchObject({ state: 'done', inputs: [runs[0]!.id] });
    expect((await app.shots.get(shot.id)).runs).toHaveLength(1);
  });

  it('reads another pass; what is stale above makes it stale, what changes no result does not', async () => {
    const chained = [coarse, { ...look, input: { pass: 'coarse' } }];
    const shot = await solved(puff(chained));
    const run = await ended((await start(shot, 'look')).id);
    expect(run.state).toBe('done');
    expect((await app.shots.get(shot.id)).passRuns.map((r) => [r.passId, r.number])).toEqual([
      ['coarse', 2],
      ['look', 3],
    ]);
    const same = await solved(
      puff([
        { ...coarse, name: 'Another name' },
        { ...look, input: { pass: 'coarse' } },
      ]),
    );
    expect((await ended((await start(same, 'look')).id)).key).toBe(run.key);
    const other = await solved(
      puff([
        { ...coarse, settings: { voxelFactor: 3 } },
        { ...look, input: { pass: 'coarse' } },
      ]),
    );
    expect((await ended((await start(other, 'look')).id)).key).not.toBe(run.key);
  });

  it('a pass that would break a budget is refused until that is agreed to', async () => {
    const swarm = { ...sparks, settings: { perSecond: 400_000, life: 1 } };
    const shot = await solved(puff([swarm]));
    await app.shots.setFields(shot.id, { ...shot.fields, budgets: { ...shot.fields.budgets, disk: 1e6 } }, shot.revision);
    await expect(start(shot, 'sparks')).rejects.toMatchObject({ tag: 'over-budget', fields: { what: ['disk'] } });
    expect((await app.shots.get(shot.id)).passRuns).toEqual([]);
    const run = await app.shots.startRun(shot.variants[0]!.id, 'test', app.runner, { pass: 'sparks', overBudget: true });
    expect(await ended(run.id)).toMatchObject({ state: 'done' });
  });

  it('refills a cache of particles, carried by a velocity that it reads beside; what is not there is computed first, once', async () => {
    const refill = {
      id: 'spray',
      kind: 'refill',
      name: 'Spray',
      input: { pass: 'sparks' },
      settings: { perSecond: 60, life: 0.2, radius: 0.02 },
    } as const;
    const shot = await solved(puff([sparks, refill]));
    const run = await ended((await start(shot, 'spray')).id);
    expect(run).toMatchObject({ state: 'done', framesDone: 6, error: null });
    const flown = await app.runs.get(run.inputs[0]!);
    const [solve] = (await app.shots.get(shot.id)).runs;
    // What its frames are made from comes first.
    expect([flown.passId, run.inputs]).toEqual(['sparks', [flown.id, solve!.id]]);
    const reports = (await detail(run.id)).frames.map((f) => f.report as RefillReport);
    expect(reports.map((r) => r.parents)).toEqual(Array.from({ length: 6 }, (_v, n) => plyOf(flown, n + 1).count));
    expect(reports[5]!.count).toBeGreaterThan(3 * reports[5]!.parents);
    // Gone on with after a damage: to the same bytes.
    const before = hashes(run);
    rmSync(join(run.folder, 'refill.0004.ply'));
    await app.runs.verify(run.id);
    await app.runner.goOn(run.id);
    expect(hashes(await ended(run.id))).toEqual(before);
    // The velocity from files of a folder: nothing else changes.
    const folderOf = join(folder, 'wind');
    cpSync(solve!.folder, folderOf, { recursive: true });
    const outside = await solved(puff([sparks, { ...refill, velocity: { folder: folderOf } }]));
    const other = await ended((await start(outside, 'spray')).id);
    expect(other).toMatchObject({ state: 'done', framesDone: 6 });
    expect(other.inputs).toHaveLength(1);
    expect(hashes(other)).toEqual(before);
    // Particles are no velocity.
    const wrong = await app.shots.add(puff([sparks, { ...refill, velocity: { pass: 'sparks' } }]));
    await expect(start(wrong, 'spray')).rejects.toMatchObject({
      message: expect.stringMatching(/Refill, for its velocity, reads volumes; what "sparks" gives are particles/) as string,
    });
  });

  it('solves gas that particles give, and goes on after the server ended in the middle, to the same bytes', async () => {
    const fed = { id: 'dust', kind: 'fed', name: 'Dust', input: { pass: 'sparks' }, settings: { sources: false, density: 24 } } as const;
    const whole = await ended((await start(await solved(puff([sparks, fed])), 'dust')).id);
    expect(whole).toMatchObject({ state: 'done', framesDone: 6, error: null });
    const [density] = vdb(whole, 'fed.0006.vdb');
    expect(density).toMatchObject({ name: 'density' });
    expect(density!.maximum).toBeGreaterThan(0.3);
    const shot = await solved(puff([sparks, fed]));
    const run = await start(shot, 'dust');
    for (;;) {
      const now = await app.runs.get(run.id);
      if (now.framesDone >= 3) break;
      if (now.state === 'failed') throw new Error(now.error?.message);
      await new Promise((r) => setTimeout(r, 10));
    }
    await app.close();
    app = await open();
    expect(hashes(await ended(run.id))).toEqual(hashes(whole));
  });

  it('frames between frames are made of all that there is, and a coarser run in time is held to what it has', async () => {
    const thin = { id: 'thin', kind: 'resample', name: 'Thin', settings: { voxelFactor: 1, everyNth: 2 } } as const;
    const slow = { id: 'slow', kind: 'retime', name: 'Slow', settings: { speed: 0.5 } } as const;
    const held = { id: 'held', kind: 'held', name: 'Held', input: { pass: 'thin' }, settings: { factor: 1 } } as const;
    const shot = await app.shots.add(puff([slow, thin, held], {}, 5));
    const run = await ended((await start(shot, 'slow')).id);
    expect(run).toMatchObject({ state: 'done', error: null, framesDone: 9 });
    const kept = await ended((await start(shot, 'held')).id);
    expect(kept).toMatchObject({ state: 'done', error: null, framesDone: 5 });
  });

  it('makes pictures of particles, of its own and of numbered files of a folder', async () => {
    const of = { ...look, input: { pass: 'sparks' }, settings: { width: 96, pointRadius: 0.03 } };
    const shot = await solved(puff([sparks, of]));
    const run = await ended((await start(shot, 'look')).id);
    expect(run).toMatchObject({ state: 'done', framesDone: 6, error: null });
    const flown = await app.runs.get(run.inputs[0]!);
    const at = await pictureOf(run, 6);
    expect(at(48, 40)).toBeGreaterThan(at(3, 3) + 60);
    const detail = (await app.runs.detail(run.id)) as PassDetailDto;
    expect(detail.frames.map((f) => (f.report as StillsReport).particles)).toEqual(
      Array.from({ length: 6 }, (_v, n) => plyOf(flown, n + 1).count),
    );
    // The same files elsewhere give the same pictures.
    const elsewhere = join(folder, 'spray');
    cpSync(flown.folder, elsewhere, { recursive: true });
    const outside = await app.shots.add(puff([{ ...of, input: { folder: elsewhere } }]));
    const other = await ended((await start(outside, 'look')).id);
    expect(other).toMatchObject({ state: 'done', framesDone: 6, error: null });
    expect(hashes(other)).toEqual(hashes(run));
    // A damaged one is named.
    writeFileSync(join(elsewhere, 'particles.0003.ply'), 'ply\nformat ascii 1.0\nelement vertex 2\nproperty float x\nend_header\n1\n2\n');
    const broken = await app.shots.add(puff([{ ...of, input: { folder: elsewhere } }]));
    const failed = await ended((await start(broken, 'look')).id);
    expect(failed).toMatchObject({ state: 'failed', error: { tag: 'file-invalid' } });
    expect(failed.error!.message).toMatch(/particles\.0003\.ply: its vertices have no y/);
  });

  it('particles are born on the surface of a solid, and not in it', async () => {
    const centre: [number, number, number] = [1.6, 1.8, 1.6];
    const lid = { name: 'Lid', shape: { kind: 'ball' as const, centre, radius: 0.4 } };
    const onLid = (birth: 'surface' | 'volume') => ({ ...sparks, settings: { ...sparks.settings, source: 'Lid', birth } });
    const shot = await app.shots.add(puff([onLid('surface')], { solids: [lid] }));
    const run = await ended((await start(shot, 'sparks')).id);
    expect(run).toMatchObject({ state: 'done', framesDone: 6 });
    const { file, count, first } = plyOf(run, 1);
    const away = Array.from({ length: count }, (_v, n) =>
      Math.hypot(...centre.map((c, a) => file.readFloatLE(first + 36 * n + 4 * a) - c)),
    );
    expect(away.length).toBeGreaterThan(100);
    // What moved in its first frame has not come far.
    for (const r of away) expect(Math.abs(r - 0.4)).toBeLessThan(0.15);
    const inside = await app.shots.add(puff([onLid('volume')], { solids: [lid] }));
    await expect(start(inside, 'sparks')).rejects.toMatchObject({
      message: expect.stringMatching(/inside the solid "Lid" there is no gas/) as string,
    });
  });

  it('a pass that cannot be says why, and nothing is queued', async () => {
    const shot = await app.shots.add(puff([sparks], { keep: { vel: false } }));
    await expect(start(shot, 'sparks')).rejects.toMatchObject({
      tag: 'settings-invalid',
      message: expect.stringMatching(/It needs velocity, which is not kept/) as string,
    });
    const nowhere = await app.shots.add(puff([{ ...sparks, settings: { source: 'Chimney' } }]));
    await expect(start(nowhere, 'sparks')).rejects.toMatchObject({
      message: expect.stringMatching(/there is no source or solid "Chimney"/) as string,
    });
    const wrong = await app.shots.add(puff([sparks, { ...coarse, input: { pass: 'sparks' } }]));
    await expect(start(wrong, 'coarse')).rejects.toMatchObject({
      message: expect.stringMatching(/Resample reads volumes; what "sparks" gives are particles/) as string,
    });
    await expect(start(shot, 'nothing')).rejects.toMatchObject({ message: expect.stringMatching(/There is no pass "nothing"/) as string });
    for (const s of [shot, nowhere, wrong]) expect((await app.shots.get(s.id)).runs).toEqual([]);
  });

  it('reads numbered files of a folder as it reads a run; files that change make it stale', async () => {
    const shot = await solved(puff([coarse]));
    const run = await ended((await start(shot, 'coarse')).id);
    const [solve] = (await app.shots.get(shot.id)).runs;
    const cloud = join(folder, 'cloud');
    mkdirSync(cloud);
    for (let n = 1; n <= 6; n++) copyFileSync(join(solve!.folder, `solve.000${String(n)}.vdb`), join(cloud, `cloud_${String(n)}.vdb`));
    writeFileSync(join(cloud, 'other.1.vdb'), 'nothing');
    const there = await app.shots.add(puff([{ ...coarse, input: { folder: cloud } }]));
    expect(there.folders[cloud]).toMatchObject({
      gives: { channels: ['density', 'temperature', 'vel'], frames: { first: 1, last: 6, every: 1 } },
    });
    const read = await ended((await start(there, 'coarse')).id);
    expect(read).toMatchObject({ state: 'done', framesDone: 6, inputs: [], error: null });
    // Nothing was solved for it, and the frames hold the same.
    expect((await app.shots.get(there.id)).runs).toEqual([]);
    for (const name of ['resample.0003.vdb', 'resample.0006.vdb']) expect(vdb(read, name)).toEqual(vdb(run, name));
    // Other files: another key. The run cannot be repaired from them any more, and says so.
    copyFileSync(join(cloud, 'cloud_1.vdb'), join(cloud, 'cloud_6.vdb'));
    const after = await app.shots.get(there.id);
    expect(after.folders[cloud]).not.toEqual(there.folders[cloud]);
    truncateSync(join(read.folder, 'resample.0002.vdb'), 10);
    await app.runs.verify(read.id);
    await app.runner.goOn(read.id);
    expect((await ended(read.id)).error!.message).toMatch(/have changed since this run was started: start it anew/);
  });

  it.each([
    ['cloud', /is no whole path/],
    ['/no/such/folder', /There is no folder \/no\/such\/folder/],
    ['', /There are no numbered \.vdb or \.ply files/],
    ['gap', /frame 3 is missing, between 1 and 4/],
    ['odd', /odd\/a\.1\.vdb is not a \.vdb file that can be read/],
  ])('a folder %j that cannot be read says why', async (name, why) => {
    mkdirSync(join(folder, 'gap'));
    mkdirSync(join(folder, 'odd'));
    for (const n of [1, 2, 4]) writeFileSync(join(folder, 'gap', `a.${String(n)}.vdb`), '');
    writeFileSync(join(folder, 'odd', 'a.1.vdb'), 'nothing at all, and more than a few bytes of it, so that it has room');
    const path = name === 'cloud' || name.startsWith('/') ? name : join(folder, name);
    const shot = await app.shots.add(puff([{ ...coarse, input: { folder: path } }]));
    expect(shot.folders[path]).toEqual({ problem: expect.stringMatching(why) as string });
    await expect(start(shot, 'coarse')).rejects.toMatchObject({ tag: 'settings-invalid', message: expect.stringMatching(why) as string });
  });

  it('what a kept run reads is freed only when that is wanted for sure; a pass whose input is freed says so', async () => {
    const shot = await solved(puff([coarse]));
    const run = await ended((await start(shot, 'coarse')).id);
    const solve = run.inputs[0]!;
    await expect(app.freed.free(solve)).rejects.toMatchObject({
      tag: 'refused',
      message: expect.stringMatching(/Run 2 \(coarse\) reads it/) as string,
    });
    await app.freed.free(solve, true);
    truncateSync(join(run.folder, 'resample.0002.vdb'), 10);
    await app.runs.verify(run.id);
    await app.runner.goOn(run.id);
    expect((await ended(run.id)).error!.message).toMatch(/Run 1, which it reads, is freed: bring it back first/);
    await app.freed.restore(solve);
    // Nor for sure while a run still reads it: that would end as "damaged".
    await app.db.update(tables.runs).set({ state: 'running' }).where(eq(tables.runs.id, run.id));
    await expect(app.freed.free(solve, true)).rejects.toMatchObject({
      tag: 'refused',
      message: expect.stringMatching(/Run 2 \(coarse\) is not finished and reads it/) as string,
    });
    await app.db.update(tables.runs).set({ state: 'done' }).where(eq(tables.runs.id, run.id));
    await app.runner.goOn(run.id);
    expect(await ended(run.id)).toMatchObject({ state: 'done', damagedFrames: 0 });
  });

  it('waits for what it reads, and does not begin when that is cancelled', async () => {
    const shot = await app.shots.add(puff([coarse], {}, 40));
    const run = await start(shot, 'coarse');
    const { runs } = await app.shots.get(shot.id);
    const jobs = await app.db.select().from(tables.jobs).where(eq(tables.jobs.runId, run.id));
    expect(jobs).toMatchObject([{ state: 'waiting' }]);
    await app.runner.cancel(runs[0]!.id);
    const after = await ended(run.id);
    expect(after).toMatchObject({ state: 'failed', framesDone: 0 });
    expect(after.error!.message).toMatch(/Run 1, which it reads, did not come to its end: continue it first/);
  });

  it('cancels within a second, in the middle of a frame too', async () => {
    const slow = { ...look, settings: { width: 4096, step: 0.05 } };
    const shot = await solved(puff([slow]));
    const run = await start(shot, 'look');
    while ((await app.runs.get(run.id)).state !== 'running') await new Promise((resolve) => setTimeout(resolve, 20));
    await new Promise((resolve) => setTimeout(resolve, 500));
    // Of two threads: a whole frame takes many times as long.
    expect(
      await processorSeconds(async () => {
        await app.runner.cancel(run.id);
        expect(await ended(run.id)).toMatchObject({ state: 'cancelled', error: null });
      }),
    ).toBeLessThan(2);
  });

  it('a pass that could never fit into memory is refused', async () => {
    const shot = await solved(puff([coarse]));
    await ended((await start(shot, 'coarse')).id);
    await app.close();
    app = await openApp({ ...config(), memoryBytes: 1000 });
    await expect(start(shot, 'coarse')).rejects.toMatchObject({ tag: 'arena-too-small' });
    expect((await app.shots.get(shot.id)).passRuns).toHaveLength(1);
  });

  it('a frame that is wanted comes before the rest, where frames need no others; else that is refused', async () => {
    await app.close();
    app = await openApp({ ...config(), threads: 1 });
    const shot = await app.shots.add(puff([look, sparks], {}, 12));
    const order: number[] = [];
    app.events.subscribe((event: ServerEvent) => {
      if (event.kind === 'frame' && event.runId === pictures?.id) order.push(event.frame.frame);
    });
    const solve = await ended((await start(shot, 'solve')).id);
    let pictures: AnyRunDto | null = await start(shot, 'look');
    await app.runner.first(pictures.id, 9);
    await ended(pictures.id);
    // At most what was computed already when it was asked for.
    expect(order.slice(0, 3)).toContain(9);
    expect([...order].sort((a, b) => a - b)).toEqual([1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12]);
    expect(await app.runs.verify(pictures.id)).toMatchObject({ damaged: [], missing: [] });
    // It waits: what is wanted is kept until it begins.
    const busy = await start(shot, 'solve');
    pictures = await start(shot, 'look');
    order.length = 0;
    await app.runner.first(pictures.id, 11);
    expect((await app.runs.get(pictures.id)).state).toBe('queued');
    await ended(busy.id);
    await ended(pictures.id);
    expect(order[0]).toBe(11);
    const swarm = await start(shot, 'sparks');
    for (const id of [swarm.id, busy.id])
      await expect(app.runner.first(id, 9)).rejects.toMatchObject({ tag: 'refused', fields: { reason: 'sequential' } });
    await expect(app.runner.first(pictures.id, 9)).rejects.toMatchObject({ tag: 'refused', fields: { reason: 'over' } });
    expect(solve.state).toBe('done');
  });

  it('a predicted pass is held against what came once one was computed', async () => {
    // Of two threads: two frames are in memory at once.
    await app.close();
    app = await openApp({ ...config(), threads: 2 });
    const shot = await solved(puff([coarse]));
    await ended((await start(shot, 'coarse')).id);
    const { measures } = await app.shots.get(shot.id);
    expect(measures).toMatchObject([{ kind: 'resample', pass: 'coarse' }]);
    expect(measures[0]!.secondsPerElement).toBeGreaterThan(0);
    const second = await ended((await start(shot, 'coarse')).id);
    expect(second.prediction).toMatchObject({ basis: 'same', from: 'runs of this pass' });
    expect(second.prediction!.disk.likely / second.bytes).toBeCloseTo(1, 3);
    expect(second.prediction!.memory.likely / second.memoryBytes).toBeCloseTo(2, 1);
    // Of another shot: passes of its kind, with wider ranges.
    const other = await app.shots.add(puff([coarse], { detail: { voxelSize: 0.09 } }));
    await ended((await start(other, 'solve')).id);
    const third = await ended((await start(other, 'coarse')).id);
    expect(third.prediction).toMatchObject({ basis: 'relative', from: 'passes of its kind on this machine' });
    const [own, its] = [second.prediction!.disk, third.prediction!.disk];
    expect(its.high / its.low).toBeGreaterThan(own.high / own.low);
    expect(third.bytes).toBeGreaterThan(its.low);
    expect(third.bytes).toBeLessThan(its.high);
  });
});

describe('a longer range', () => {
  it('computes again the frames that were made without the ones after them', async () => {
    const file = readFileSync('src/workers/fixtures/golden-liquid.json', 'utf8');
    const shot = await app.shots.add(parseWith(shotFileSchema, JSON.parse(file), 'test'));
    const skin = await ended((await start(shot, 'skin')).id);
    const mesh = (run: AnyRunDto, frame: number): string =>
      createHash('sha256')
        .update(readFileSync(join(run.folder, `surface.000${String(frame)}.ply`)))
        .digest('hex');
    const before = [1, 2, 3].map((f) => mesh(skin, f));
    const { fields, revision } = await app.shots.get(shot.id);
    await app.shots.setFields(shot.id, { ...fields, lastFrame: 5 }, revision);
    await app.runner.goOn(skin.inputs[0]!, { longer: true });
    await ended(skin.inputs[0]!);
    await app.runner.goOn(skin.id, { longer: true });
    const longer = await ended(skin.id);
    expect(longer).toMatchObject({ state: 'done', framesDone: 5, damagedFrames: 0 });
    const whole = await ended((await app.shots.startRun(shot.variants[0]!.id, 'test', app.runner, { pass: 'skin' })).id);
    expect([1, 2, 3, 4, 5].map((f) => mesh(longer, f))).toEqual([1, 2, 3, 4, 5].map((f) => mesh(whole, f)));
    // The third was steadied by two frames only.
    expect([1, 2, 3].map((f, n) => mesh(longer, f) === before[n])).toEqual([true, true, false]);
  });
});

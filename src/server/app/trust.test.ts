import { spawn } from 'node:child_process';
import { settingsOf, withGroups } from '#testing/values';
import { once } from 'node:events';
import { existsSync, mkdirSync, mkdtempSync, readFileSync, readdirSync, rmSync, truncateSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { eq, sql } from 'drizzle-orm';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { SHOT_VERSION, parseWith, shotFileSchema, type ShotFile, solidSchema, gasSolveOf } from '#core/shot';
import type { FrameDto, AnyRunDto, ServerEvent, ShotDto } from '#protocol';
import { tables } from '#server/db';
import { finishedRun } from '#server/testing';
import { openApp, type App } from '.';
import type { RunRecord } from '#server/cache';

/** Nothing that is waited for takes so long, however busy the machine is, milliseconds. */
const HANGS = 50_000;

let folder = '';
let app: App;
const open = (over: { readonly memoryBytes?: number } = {}): Promise<App> =>
  openApp({
    root: process.cwd(),
    data: folder,
    threads: 1,
    memoryBytes: 16e9,
    keepBytes: 0,
    demo: null,
    calibrate: false,
    version: 'test',
    address: 'http://127.0.0.1:4820',
    ...over,
  });

beforeEach(async () => {
  folder = mkdtempSync(join(tmpdir(), 'ruddle-trust-'));
  app = await open();
  vi.spyOn(console, 'error').mockImplementation(() => undefined);
  vi.spyOn(console, 'log').mockImplementation(() => undefined);
});
afterEach(async () => {
  await app.close();
  rmSync(folder, { recursive: true, force: true });
  vi.restoreAllMocks();
});

const small = (name = 'Small puff', lastFrame = 4): ShotFile =>
  parseWith(
    shotFileSchema,
    {
      ruddle: SHOT_VERSION,
      name,
      lastFrame,
      variants: [
        {
          name: 'One',
          settings: settingsOf({
            detail: { voxelSize: 0.1 },
            bounds: { limit: { min: [0, 0, 0], max: [3.2, 3.2, 3.2] } },
            sources: [{ shape: { kind: 'ball', centre: [1.6, 0.8, 1.6], radius: 0.5 } }],
          }),
        },
      ],
    },
    'test',
  );
const start = (shot: ShotDto): Promise<AnyRunDto> => app.shots.startRun(shot.variants[0]!.id, 'test', app.runner);
const ended = async (id: string): Promise<AnyRunDto> => {
  for (;;) {
    const run = await app.runs.get(id);
    if (run.state !== 'queued' && run.state !== 'running') return run;
    await new Promise((resolve) => setTimeout(resolve, 30));
  }
};
const finished = async (): Promise<AnyRunDto> => await ended((await start(await app.shots.add(small()))).id);
/** A test of its cache needs no solver. */
const madeUp = async (): Promise<AnyRunDto> => await finishedRun(app, await app.shots.add(small()));
const damageOf = (frames: readonly Pick<FrameDto, 'damage'>[]): (string | null)[] => frames.map((f) => f.damage);

describe('a data folder', () => {
  it('belongs to one process at a time; who comes second is told where the first one answers', async () => {
    await expect(open()).rejects.toMatchObject({
      tag: 'refused',
      message: expect.stringMatching(/already open at http:\/\/127\.0\.0\.1:4820/) as string,
    });
    // The first one's run is not touched.
    const run = await start(await app.shots.add(small()));
    await expect(open()).rejects.toMatchObject({ tag: 'refused' });
    expect((await ended(run.id)).state).toBe('done');
    await app.close();
    app = await open();
    expect(await app.shots.list()).toHaveLength(1);
  });
});

describe('a row that cannot be read', () => {
  it('shows as a broken shot with the reason and its raw data, and takes nothing else down', async () => {
    const [good, bad] = [await app.shots.add(small('Good')), await app.shots.add(small('Bad'))];
    await app.db.run(sql`update shots set fields = json_set(fields, '$.framesPerSecond', -3) where id = ${bad.id}`);
    const rows = await app.shots.list();
    expect(rows.map((r) => [r.slug, r.readable])).toEqual(
      expect.arrayContaining([
        ['good', true],
        ['bad', false],
      ]) as unknown,
    );
    const row = rows.find((r) => r.slug === 'bad')!;
    expect(!row.readable && row.reason).toMatch(/framesPerSecond: found -3/);
    expect((await app.shots.get(good.id)).variants).toHaveLength(1);
    await expect(app.shots.get(bad.id)).rejects.toMatchObject({ tag: 'unreadable' });
    const raw = JSON.parse(await app.shots.raw('bad')) as { shotFile: { framesPerSecond: number; variants: unknown[] }; rows: object };
    expect(raw.shotFile).toMatchObject({ framesPerSecond: -3, name: 'Bad' });
    expect(raw.shotFile.variants).toHaveLength(1);
    // What was mended by hand can be added again.
    const mended = await app.shots.add(
      parseWith(
        shotFileSchema,
        { ...(JSON.parse(JSON.stringify(raw.shotFile)) as object), framesPerSecond: 24, variants: small().variants },
        'mended',
      ),
    );
    expect(mended.slug).toBe('bad-2');
  });

  it('of a variant, a draft or a run is left out of its shot, with its name and reason', async () => {
    const shot = await app.shots.add(small());
    const run = await ended((await start(shot)).id);
    const copy = await app.variants.duplicate(shot.variants[0]!.id);
    await app.shots.saveDraft(copy, withGroups(shot.variants[0]!.settings, { detail: { voxelSize: 0.2 } }), 0);
    await app.db.run(sql`update drafts set settings = 'no JSON'`);
    await app.db.run(sql`update runs set plan = json_remove(plan, '$.options.bounds')`);
    await app.db.run(sql`update frames set report = '{' where frame = 2`);
    const now = await app.shots.get(shot.id);
    expect(now.variants.map((v) => [v.name, v.draft])).toEqual([
      ['One', null],
      ['One copy', null],
    ]);
    expect(now.runs).toEqual([]);
    expect(now.broken).toMatchObject([
      { what: 'draft', name: 'the draft of One copy', reason: 'it is not JSON' },
      { what: 'run', name: 'run 1', reason: expect.stringMatching(/options\.bounds/) as string },
    ]);
    await app.db.run(sql`update variants set settings = json_set(settings, '$.detail.voxelSize', 'fine') where id = ${copy}`);
    expect((await app.shots.get(shot.id)).broken[0]).toMatchObject({ what: 'variant', name: 'One copy' });
    // Nothing of it hinders the next run, or what is predicted from.
    expect((await ended((await start(shot)).id)).state).toBe('done');
    await expect(app.runs.detail(run.id)).rejects.toMatchObject({ tag: 'unreadable' });
    expect((await app.shots.list())[0]).toMatchObject({ readable: true, runs: [{ number: 1 }, { number: 2 }] });
  });
});

describe('damaged caches', () => {
  it('a file of another size, or one that is gone, is seen when the run is looked at', async () => {
    const run = await madeUp();
    const before = await app.runs.detail(run.id);
    expect(damageOf(before.frames)).toEqual([null, null, null, null]);
    expect(before.run).toMatchObject({ damagedFrames: 0, missingFrames: 0 });
    truncateSync(join(run.folder, 'solve.0002.vdb'), 100);
    rmSync(join(run.folder, 'previews', 'solve.3.density.preview'));
    // Looked at anew: a glance is not taken with every question.
    await app.close();
    app = await open();
    const { frames, run: after } = await app.runs.detail(run.id);
    expect(damageOf(frames)).toEqual([null, 'damaged', 'missing', null]);
    expect(frames.map((f) => f.stored)).toEqual([true, false, false, true]);
    expect(after).toMatchObject({ damagedFrames: 1, missingFrames: 1 });
    expect((await app.shots.list())[0]).toMatchObject({ runs: [{ damagedFrames: 1, missingFrames: 1 }] });
  });

  it('a flipped byte is seen by its checksum, on demand; what is whole again is said to be', async () => {
    const run = await madeUp();
    const path = join(run.folder, 'solve.0003.vdb');
    const bytes = readFileSync(path);
    const flipped = Buffer.from(bytes);
    flipped[300]! ^= 4;
    writeFileSync(path, flipped);
    writeFileSync(join(run.folder, 'notes.txt'), 'mine');
    expect(await app.runs.verify(run.id)).toEqual({ files: 8, damaged: [3], missing: [], unreadable: [], foreign: ['notes.txt'] });
    expect(readFileSync(join(run.folder, 'notes.txt'), 'utf8')).toBe('mine');
    rmSync(join(run.folder, 'notes.txt'));
    expect((await app.runs.get(run.id)).damagedFrames).toBe(1);
    // Its size is right: a glance does not clear what a checksum found.
    await app.close();
    app = await open();
    expect(damageOf((await app.runs.detail(run.id)).frames)).toEqual([null, null, 'damaged', null]);
    writeFileSync(path, bytes);
    expect(await app.runs.verify(run.id)).toEqual({ files: 8, damaged: [], missing: [], unreadable: [], foreign: [] });
    expect(damageOf((await app.runs.detail(run.id)).frames)).toEqual([null, null, null, null]);
  });

  it('a folder that was deleted leaves a run whose frames are missing', async () => {
    const run = await madeUp();
    rmSync(run.folder, { recursive: true });
    const shot = await app.shots.get(run.shotId);
    expect(shot.runs[0]).toMatchObject({ state: 'done', framesDone: 4, missingFrames: 4 });
  });
});

describe('what a kill leaves behind', () => {
  it('is put in order at the next start, and told', async () => {
    const run = await finished();
    const record = (): RunRecord => JSON.parse(readFileSync(join(run.folder, 'run.json'), 'utf8')) as RunRecord;
    // As it is in the middle of frame 4: its row is not written yet, another file is half written.
    await app.db.update(tables.runs).set({ state: 'running', endedAt: null }).where(eq(tables.runs.id, run.id));
    await app.db.update(tables.jobs).set({ state: 'active' });
    await app.db.delete(tables.frames).where(eq(tables.frames.frame, 4));
    await app.db.delete(tables.files).where(eq(tables.files.frame, 4));
    writeFileSync(join(run.folder, 'run.json'), JSON.stringify({ ...record(), state: 'running', endedAt: null, frames: [] }));
    writeFileSync(join(run.folder, 'solve.0005.vdb.part'), 'half');
    writeFileSync(join(run.folder, 'notes.txt'), 'mine');
    writeFileSync(join(folder, 'uploads-are-below'), '');
    await app.close();
    app = await open();
    expect(app.found).toEqual([
      'Run 1 of Small puff was interrupted after 3 frames. 5 files of an unfinished frame were removed. It goes on.',
    ]);
    // Its fourth frame is computed again, and only that.
    expect((await ended(run.id)).state).toBe('done');
    expect(
      readdirSync(run.folder)
        .filter((f) => f !== 'states')
        .sort(),
    ).toEqual(['notes.txt', 'previews', 'run.json', 'solve.0001.vdb', 'solve.0002.vdb', 'solve.0003.vdb', 'solve.0004.vdb']);
    expect(readdirSync(join(run.folder, 'previews')).some((f) => f.includes('.4.'))).toBe(true);
    expect(record()).toMatchObject({ state: 'done' });
    expect(record().frames.map((f) => f.frame)).toEqual([1, 2, 3, 4]);
    // Told once: at the start after that there is nothing to tell.
    await app.close();
    app = await open();
    expect(app.found).toEqual([]);
  });

  it('a run that never had a job to go on by does not wait for ever', async () => {
    const run = await madeUp();
    await app.db.update(tables.runs).set({ state: 'queued' }).where(eq(tables.runs.id, run.id));
    await app.close();
    app = await open();
    expect((await app.runs.get(run.id)).state).toBe('interrupted');
  });
});

describe('the queue', () => {
  it('goes on after a run that could not be started', async () => {
    const shot = await app.shots.add(small());
    const first = await app.shots.startRun(shot.variants[0]!.id, 'test', app.runner);
    const [second, third] = [await start(shot), await start(shot)];
    // While it waits its plan becomes unreadable.
    await app.db.run(sql`update runs set plan = '{}' where id = ${second.id}`);
    await ended(first.id);
    expect((await ended(third.id)).state).toBe('done');
    const [row] = await app.db.select().from(tables.runs).where(eq(tables.runs.id, second.id));
    expect(row).toMatchObject({ state: 'failed', error: { tag: 'unreadable' } });
  });

  it('a cancel is heard from the first moment: queued, just claimed, computing', async () => {
    const shot = await app.shots.add(small('Long', 400));
    for (let n = 0; n < 6; n++) {
      const run = await start(shot);
      // Sooner and later after it was queued.
      await new Promise((resolve) => setTimeout(resolve, 4 * n * n));
      await app.runner.cancel(run.id);
      const after = await ended(run.id);
      expect(after.state).toBe('cancelled');
    }
    const seen: string[] = [];
    const leave = app.events.subscribe((e: ServerEvent) => {
      if (e.kind === 'run') seen.push(e.run.state);
    });
    const [first, waiting] = [await start(shot), await start(shot)];
    await app.runner.cancel(waiting.id);
    await app.runner.cancel(first.id);
    await ended(first.id);
    leave();
    // Nobody ever goes from cancelled to running.
    expect(seen.lastIndexOf('running')).toBeLessThan(seen.lastIndexOf('cancelled'));
    expect((await app.runs.get(waiting.id)).startedAt).toBeNull();
  });

  it('two starts at the same moment are two runs with two numbers', async () => {
    const shot = await app.shots.add(small());
    const runs = await Promise.all([start(shot), start(shot), start(shot), start(shot)]);
    expect(runs.map((r) => r.number).sort()).toEqual([1, 2, 3, 4]);
    expect(new Set(runs.map((r) => r.folder)).size).toBe(4);
    for (const r of runs) expect((await ended(r.id)).state).toBe('done');
  });

  it('a listener of events that throws does not end the run', async () => {
    const heard: string[] = [];
    app.events.subscribe(() => {
      throw new Error('a page that left');
    });
    app.events.subscribe((e) => heard.push(e.kind));
    expect((await finished()).state).toBe('done');
    expect(heard.filter((k) => k === 'frame')).toHaveLength(4);
  });
});

describe("the shot's own fields", () => {
  it('are changed on the revision that is there; a window that is behind is told', async () => {
    const shot = await app.shots.add(small());
    const changed = await app.shots.setFields(shot.id, { ...shot.fields, lastFrame: 8 }, shot.revision);
    expect(changed.revision).toBe(shot.revision + 1);
    await expect(app.shots.setFields(shot.id, { ...shot.fields, lastFrame: 9 }, shot.revision)).rejects.toMatchObject({ tag: 'conflict' });
    expect((await app.shots.get(shot.id)).fields.lastFrame).toBe(8);
  });
});

describe('planning', () => {
  it('is done beside: the server answers while a shot of many moves is looked through, and goes on when the thread is lost', async () => {
    const file = small('Long', 96);
    const moves = Object.fromEntries(
      ['x', 'y', 'z'].map((a) => [`shape.centre.${a}`, { kind: 'expression', text: '1.5 + 0.01 * noise(time) + sin(time) * 0' }]),
    );
    const solids = Array.from({ length: 40 }, () => solidSchema.parse({ shape: { kind: 'ball', centre: [3, 3, 3], radius: 0.05 }, moves }));
    const heavy = parseWith(
      shotFileSchema,
      {
        ...file,
        firstFrame: 1,
        lastFrame: 90_000,
        variants: [{ name: 'One', settings: withGroups(file.variants[0]!.settings, { solids }) }],
      },
      'heavy',
    );
    const shot = await app.shots.add(heavy);
    const plans = app.costs.plan(shot.id, shot.fields, shot.variants[0]!.settings, 'test');
    let planning = true;
    let answers = 0;
    const { prediction } = await Promise.all([
      plans.finally(() => (planning = false)),
      (async () => {
        for (; planning; answers++) {
          await app.shots.list();
          // A query takes no turn of its own: messages are heard in between.
          await new Promise((resolve) => setImmediate(resolve));
        }
      })(),
    ]).then(([plan]) => plan);
    expect(prediction.disk.likely).toBeGreaterThan(0);
    // On the thread that answers it would be one, or two.
    expect(answers).toBeGreaterThan(10);
  });
  it('says what is wrong with a plan as the plan itself would', async () => {
    const shot = await app.shots.add(small());
    const [v] = shot.variants;
    const [source] = gasSolveOf(v!.settings).sources;
    const settings = withGroups(v!.settings, { sources: [{ ...source!, moves: { heat: { kind: 'expression', text: '1 / 0' } } }] });
    await expect(app.costs.plan(shot.id, shot.fields, settings, 'test')).rejects.toMatchObject({
      tag: 'settings-invalid',
      message: expect.stringMatching(/sources\[0\]\.moves\.heat: has no number at frame 1: a division by zero/) as string,
    });
  });
});

describe('the database and the disk', () => {
  it('are held against each other at the start: what is gone can be repaired, folders outside any run are named and stay', async () => {
    const run = await madeUp();
    const kept = await madeUp();
    await app.close();
    rmSync(run.folder, { recursive: true });
    const stranger = join(folder, 'caches', 'small-puff', 'run-0099-final');
    mkdirSync(stranger);
    app = await open();
    expect(app.found).toEqual([
      'Not on the disk any more: run 1 of small-puff. Their frames can be computed again with Repair.',
      'Folders outside any run: caches/small-puff/run-0099-final. They stay untouched; delete them by hand if nobody needs them.',
    ]);
    expect(await app.runs.get(run.id)).toMatchObject({ missingFrames: 4, framesDone: 4 });
    expect(await app.runs.get(kept.id)).toMatchObject({ missingFrames: 0 });
    expect(existsSync(stranger)).toBe(true);
    await app.runner.goOn(run.id);
    expect(await ended(run.id)).toMatchObject({ state: 'done', missingFrames: 0 });
    expect(await app.runs.verify(run.id)).toMatchObject({ files: 16, damaged: [], missing: [] });
    // Told once: the next start has nothing new to say of it.
    await app.close();
    rmSync(stranger, { recursive: true });
    app = await open();
    expect(app.found).toEqual([]);
  });
});

describe('what goes wrong beside a run', () => {
  it('a database that another program holds for longer than it waits by itself: the run goes on when it is free', async () => {
    const shot = await app.shots.add(small('Held', 10));
    const run = await start(shot);
    // From another process: in this one the lock could never be let go while it is waited for.
    const script = `const { createClient } = require('@libsql/client');
      const { pathToFileURL } = require('node:url');
      (async () => {
        const client = createClient({ url: pathToFileURL(process.argv[1]).href });
        // The run writes too: it is asked for until it is got.
        await client.execute('pragma busy_timeout = 30000');
        let t;
        while (!t) t = await client.transaction('write').catch((e) => String(e.code).startsWith('SQLITE_BUSY') ? undefined : Promise.reject(e));
        console.log('held');
        setTimeout(async () => { await t.rollback(); process.exit(0); }, 6500);
      })();`;
    const holder = spawn(process.execPath, ['-e', script, join(folder, 'ruddle.db')], { stdio: ['ignore', 'pipe', 'inherit'] });
    await once(holder.stdout, 'data');
    const done = await ended(run.id);
    expect(done).toMatchObject({ state: 'done', framesDone: 10, error: null });
    if (holder.exitCode === null) await once(holder, 'exit');
    expect(holder.exitCode).toBe(0);
  });

  it('memory that another run takes: the next one waits, says so, and begins when that is over; what could never fit is refused', async () => {
    const shot = await app.shots.add(small('Tight', 14));
    const known = await ended((await app.shots.startRun(shot.variants[0]!.id, 'final', app.runner)).id);
    await app.close();
    // Room for one of them, never for two.
    app = await open({ memoryBytes: known.memoryBytes });
    const final = await app.shots.startRun(shot.variants[0]!.id, 'final', app.runner);
    await vi.waitFor(async () => expect((await app.runs.get(final.id)).state).toBe('running'), HANGS);
    const test = await start(shot);
    await vi.waitFor(async () => {
      const held = await app.runs.get(test.id);
      expect(held).toMatchObject({ state: 'queued', error: { tag: 'waits-for-memory' } });
      expect(held.error!.message).toMatch(/^Waits for memory: it may take [\d.]+ .B, and .* are left beside run 2\. /);
    }, HANGS);
    expect(await app.runs.get(final.id)).toMatchObject({ state: 'running' });
    await app.runner.cancel(final.id);
    expect(await ended(test.id)).toMatchObject({ state: 'done', error: null });
    await app.close();
    app = await open({ memoryBytes: 1e5 });
    await expect(start(shot)).rejects.toMatchObject({
      tag: 'arena-too-small',
      message: expect.stringMatching(/needs at least .* of memory, and runs may take 100 kB on this machine/) as string,
    });
    expect((await app.shots.get(shot.id)).runs).toHaveLength(3);
  });

  it('a clock that goes backwards: runs are computed in order, to their end, and what was said of them holds', async () => {
    const before = Date.now();
    let now = before;
    vi.spyOn(Date, 'now').mockImplementation(() => (now -= 60_000));
    const shot = await app.shots.add(small('Backwards'));
    const [one, two] = [await start(shot), await start(shot)];
    expect(await ended(one.id)).toMatchObject({ state: 'done', framesDone: 4 });
    expect(await ended(two.id)).toMatchObject({ state: 'done', framesDone: 4, number: 2 });
    const { frames } = await app.runs.detail(two.id);
    for (const f of frames) expect(f.report.totalSeconds).toBeGreaterThan(0);
    expect(await app.runs.verify(two.id)).toMatchObject({ damaged: [], missing: [] });
    expect(now).toBeLessThan(before);
  });
});

describe('uploads', () => {
  it('are stopped as they arrive when they are too large, and leave nothing behind', async () => {
    const chunk = new Uint8Array(50e6);
    let sent = 0;
    const endless = new ReadableStream<Uint8Array>({
      pull(controller) {
        sent += chunk.length;
        controller.enqueue(chunk);
      },
    });
    const task = { id: null, signal: new AbortController().signal };
    const body = { stream: endless, announced: null };
    await expect(app.geometry.add({ ...body, announced: 7e8 }, 'big.ply', task)).rejects.toMatchObject({ tag: 'refused' });
    expect(sent).toBeLessThan(100e6);
    await expect(app.geometry.add(body, 'big.ply', task)).rejects.toMatchObject({
      tag: 'refused',
      message: expect.stringMatching(/larger than 600 MB/) as string,
    });
    expect(sent).toBeLessThan(800e6);
    expect(existsSync(join(folder, 'uploads')) ? readdirSync(join(folder, 'uploads')) : []).toEqual([]);
  });
});

import { createHash } from 'node:crypto';
import { processorSeconds, settingsOf, withGroups } from '#testing/values';
import { existsSync, mkdtempSync, readFileSync, readdirSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { eq, gt, sql } from 'drizzle-orm';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { SHOT_VERSION, importedShape, parseWith, shotFileSchema, type ShotFile, solidSchema, gasSolveOf } from '#core/shot';
import type { AnyRunDto, FrameDto, RunDto, ServerEvent, ShotDto } from '#protocol';
import { type Incoming, freeBytes } from '#server/cache';
import { openDatabase, tables } from '#server/db';
import { finishedRun } from '#server/testing';
import { openApp, type App } from '.';

let folder = '';
let app: App;

const open = (over: { keepBytes?: number } = {}): Promise<App> =>
  openApp({
    root: process.cwd(),
    data: folder,
    threads: 1,
    memoryBytes: 16e9,
    keepBytes: 0,
    demo: null,
    calibrate: false,
    version: 'test',
    ...over,
  });

beforeEach(async () => {
  folder = mkdtempSync(join(tmpdir(), 'ruddle-app-'));
  app = await open();
});
afterEach(async () => {
  await app.close();
  rmSync(folder, { recursive: true, force: true });
});

const small = (lastFrame = 4): ShotFile =>
  parseWith(
    shotFileSchema,
    {
      ruddle: SHOT_VERSION,
      name: 'Small puff',
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

const taken = (): Promise<void> => Promise.resolve();
const nobody = { id: null, signal: new AbortController().signal };
const streamOf = (bytes: Uint8Array): Incoming => ({ stream: new Blob([new Uint8Array(bytes)]).stream(), announced: bytes.length });

const ended = (id: string): Promise<AnyRunDto> =>
  new Promise((resolve) => {
    const check = async (): Promise<void> => {
      const run = await app.runs.get(id);
      if (run.state !== 'queued' && run.state !== 'running') resolve(run);
      else setTimeout(() => void check(), 50);
    };
    void check();
  });

const reaches = (id: string, frames: number): Promise<void> =>
  new Promise((resolve) => {
    const leave = app.events.subscribe((e: ServerEvent) => {
      if (e.kind === 'frame' && e.runId === id && e.frame.frame >= frames) {
        leave();
        resolve();
      }
    });
  });

const start = (shot: ShotDto, rung: 'test' | 'final' = 'test'): Promise<AnyRunDto> =>
  app.shots.startRun(shot.variants[0]!.id, rung, app.runner);

describe('imported geometry', () => {
  const cube = new TextEncoder().encode(
    [
      ...['0 0 0', '60 0 0', '60 60 0', '0 60 0', '0 0 60', '60 0 60', '60 60 60', '0 60 60'].map((v) => `v ${v}`),
      ...['4 3 2 1', '5 6 7 8', '1 2 6 5', '2 3 7 6', '3 4 8 7', '4 1 5 8'].map((f) => `f ${f}`),
    ].join('\n'),
  );
  const withCube = async (): Promise<ShotDto> => {
    const info = await app.geometry.add(streamOf(cube), 'cube.obj', nobody);
    const file = small();
    const shape = { ...importedShape(info, 0.01, 'y', 24), centre: [1.6, 1.8, 1.6] };
    const settings = withGroups(file.variants[0]!.settings, { solids: [solidSchema.parse({ name: 'Cube', shape })] });
    return await app.shots.add(parseWith(shotFileSchema, { ...file, variants: [{ name: 'One', settings }] }, 'test'));
  };

  it('is there once however often it is imported, and a run meets it', async () => {
    const hashOf = async (name: string): Promise<string> => (await app.geometry.add(streamOf(cube), name, nobody)).hash;
    expect(await hashOf('a.obj')).toBe(await hashOf('b.obj'));
    const run = await ended((await start(await withCube())).id);
    expect(run).toMatchObject({ state: 'done', framesDone: 4, error: null });
    expect((run as RunDto).plan.options.solids[0]?.shape).not.toHaveProperty('file');
  });
  it('goes into a bundle with its shot and comes back elsewhere', async () => {
    const shot = await withCube();
    const plain = await app.shots.add(small());
    expect((await app.geometry.shotFile(plain.id, nobody, taken)).zip).toBe(false);
    const { body, bytes, zip } = await app.geometry.shotFile(shot.id, nobody, taken);
    const packed = await new Response(body).bytes();
    expect(packed.length).toBe(bytes);
    expect(zip).toBe(true);
    rmSync(join(folder, 'geometry'), { recursive: true });
    const failed = await ended((await start(shot)).id);
    expect(failed).toMatchObject({ state: 'failed', error: { tag: 'not-found' } });
    expect(failed.error?.message).toMatch(/imported geometry .* is missing/);
    const back = await app.geometry.addBundle(streamOf(packed), 'shot.zip', nobody);
    expect(await ended((await start(back)).id)).toMatchObject({ state: 'done', framesDone: 4 });
  });
});

describe('runs', () => {
  it('a Test computes whole frames, its figures and run.json, and freezes its variant', async () => {
    const shot = await app.shots.add(small());
    expect(shot.slug).toBe('small-puff');
    const run = await ended((await start(shot)).id);
    expect(run).toMatchObject({ state: 'done', framesDone: 4, frameCount: 4, number: 1 });
    expect(run.bytes).toBeGreaterThan(1000);
    const files = readdirSync(run.folder).sort();
    expect(files).toEqual(['previews', 'run.json', 'solve.0001.vdb', 'solve.0002.vdb', 'solve.0003.vdb', 'solve.0004.vdb']);
    const detail = await app.runs.detail(run.id);
    expect(detail.frames.map((f) => f.frame)).toEqual([1, 2, 3, 4]);
    expect((detail.frames[3] as FrameDto).report.substepsUsed).toBeGreaterThan(0);
    expect((await app.shots.get(shot.slug)).variants[0]!.frozen).toBe(true);
  });

  it('cancel ends within a second and keeps whole frames', async () => {
    const shot = await app.shots.add(small(400));
    const run = await start(shot);
    await reaches(run.id, 3);
    // Of one thread and the one that tells it; all 400 frames take many times as long.
    expect(
      await processorSeconds(async () => {
        await app.runner.cancel(run.id);
        await ended(run.id);
      }),
    ).toBeLessThan(1);
    const after = await app.runs.get(run.id);
    expect(after.state).toBe('cancelled');
    const stored = readdirSync(run.folder).filter((f) => f.endsWith('.vdb'));
    expect(stored).toHaveLength(after.framesDone);
    expect(readdirSync(run.folder).some((f) => f.endsWith('.part'))).toBe(false);
  });

  it('a second Test waits; cancelling it before it starts is enough', async () => {
    const shot = await app.shots.add(small(400));
    const [first, second] = [await start(shot), await start(shot)];
    await reaches(first.id, 2);
    expect((await app.runs.get(second.id)).state).toBe('queued');
    await app.runner.cancel(second.id);
    expect((await app.runs.get(second.id)).state).toBe('cancelled');
    await app.runner.cancel(first.id);
    await ended(first.id);
  });

  /** Files of a run's frames, by name. */
  const filesOf = (run: AnyRunDto): Map<string, string> =>
    new Map(
      readdirSync(run.folder, { recursive: true, encoding: 'utf8' })
        .filter((f) => /\.(vdb|preview)$/.test(f))
        .map((f) => [
          f,
          createHash('sha256')
            .update(readFileSync(join(run.folder, f)))
            .digest('hex'),
        ]),
    );

  it('after a kill the run goes on by itself, to the same files', async () => {
    const shot = await app.shots.add(small());
    const run = await ended((await start(shot)).id);
    const before = filesOf(run);
    // As the database is left by a process that was killed in the middle.
    await app.db.update(tables.runs).set({ state: 'running', endedAt: null }).where(eq(tables.runs.id, run.id));
    await app.db.update(tables.jobs).set({ state: 'active' }).where(eq(tables.jobs.runId, run.id));
    await app.db.delete(tables.frames).where(gt(tables.frames.frame, 2));
    await app.db.delete(tables.files).where(gt(tables.files.frame, 2));
    await app.close();
    app = await open();
    expect(app.found[0]).toMatch(/^Run 1 of Small puff was interrupted after 2 frames\..* It goes on\.$/);
    const after = await ended(run.id);
    expect(after).toMatchObject({ state: 'done', framesDone: 4 });
    expect(filesOf(after)).toEqual(before);
    expect(await app.runs.verify(run.id)).toMatchObject({ damaged: [], missing: [] });
  });

  it('a server that is ended in the middle goes on at the next start', async () => {
    const shot = await app.shots.add(small(40));
    const run = await start(shot);
    await reaches(run.id, 5);
    await app.close();
    app = await open();
    expect(app.found).toEqual([]);
    const after = await ended(run.id);
    expect(after).toMatchObject({ state: 'done', framesDone: 40 });
    const again = await ended((await start(shot)).id);
    expect(filesOf(after)).toEqual(filesOf(again));
  });

  it('what was cancelled is continued, what is damaged is repaired: only what is missing is written', async () => {
    const shot = await app.shots.add(small(40));
    const run = await start(shot);
    await expect(app.runner.goOn(run.id)).rejects.toMatchObject({ tag: 'refused' });
    await reaches(run.id, 5);
    await app.runner.cancel(run.id);
    const part = await ended(run.id);
    const first = filesOf(part);
    const written = statSync(join(run.folder, 'solve.0002.vdb')).mtimeMs;
    await app.runner.goOn(run.id);
    const whole = await ended(run.id);
    expect(whole).toMatchObject({ state: 'done', framesDone: 40 });
    const files = filesOf(whole);
    for (const [name, sum] of first) expect(files.get(name)).toBe(sum);
    expect(statSync(join(run.folder, 'solve.0002.vdb')).mtimeMs).toBe(written);
    // At most the state after its last frame is left.
    expect(
      existsSync(join(run.folder, 'states')) ? readdirSync(join(run.folder, 'states')).filter((f) => f !== 'solve.40.state') : [],
    ).toEqual([]);
    // One is flipped, one is gone.
    const path = join(run.folder, 'solve.0007.vdb');
    const bytes = readFileSync(path);
    bytes[300]! ^= 4;
    writeFileSync(path, bytes);
    rmSync(join(run.folder, 'solve.0009.vdb'));
    expect(await app.runs.verify(run.id)).toMatchObject({ damaged: [7], missing: [9] });
    await app.runner.goOn(run.id);
    expect(await ended(run.id)).toMatchObject({ state: 'done', damagedFrames: 0, missingFrames: 0 });
    expect(filesOf(whole)).toEqual(files);
    expect(statSync(join(run.folder, 'solve.0002.vdb')).mtimeMs).toBe(written);
  });

  it('approved, is neither freed nor lost with its variant without asking', async () => {
    const shot = await app.shots.add(small());
    const run = await finishedRun(app, shot);
    expect((await app.runs.setApproved(run.id, true)).approved).toBe(true);
    await expect(app.freed.free(run.id)).rejects.toMatchObject({ tag: 'refused', fields: { reason: 'approved' } });
    await app.variants.duplicate(shot.variants[0]!.id);
    await expect(app.variants.remove(shot.variants[0]!.id)).rejects.toMatchObject({ tag: 'refused', fields: { reason: 'approved' } });
    expect((await app.runs.get(run.id)).freed).toBe(false);
    await app.freed.free(run.id, true);
    expect((await app.runs.get(run.id)).freed).toBe(true);
    await app.variants.remove(shot.variants[0]!.id);
  });

  it('goes on from its end when the range becomes longer: what is there stays', async () => {
    const shot = await app.shots.add(small(12));
    const run = await ended((await start(shot)).id);
    const before = filesOf(run);
    const written = statSync(join(run.folder, 'solve.0012.vdb')).mtimeMs;
    const setLast = async (lastFrame: number): Promise<void> => {
      const now = await app.shots.get(shot.id);
      await app.shots.setFields(shot.id, { ...now.fields, lastFrame }, now.revision);
    };
    await setLast(20);
    // Without asking for it, no further than it went.
    await app.runner.goOn(run.id);
    expect(await ended(run.id)).toMatchObject({ state: 'done', framesDone: 12, frameCount: 12 });
    expect(await app.runner.longer(run.id)).toMatchObject({ lastFrame: 20, frames: 8, breaks: null });
    await app.runner.goOn(run.id, { longer: true });
    const longer = await ended(run.id);
    expect(longer).toMatchObject({ state: 'done', framesDone: 20, frameCount: 20, key: run.key });
    const files = filesOf(longer);
    for (const [name, sum] of before) expect(files.get(name)).toBe(sum);
    expect(statSync(join(run.folder, 'solve.0012.vdb')).mtimeMs).toBe(written);
    const anew = await ended((await start(shot)).id);
    expect(files).toEqual(filesOf(anew));
    // What a state takes is part of what the run takes.
    const states = await app.db.select().from(tables.states).where(eq(tables.states.runId, run.id));
    const frames = (await app.runs.detail(run.id)).frames.reduce((n, f) => n + f.bytes, 0);
    expect(longer.bytes).toBe(frames + states.reduce((n, s) => n + s.bytes, 0));
    for (const s of states) expect(statSync(join(run.folder, s.path)).size).toBe(s.bytes);
  });

  it('paused, it goes on when that is asked for', async () => {
    const shot = await app.shots.add(small(40));
    const run = await start(shot);
    await reaches(run.id, 3);
    await app.runner.cancel(run.id);
    await ended(run.id);
    const error = { tag: 'disk-full', message: 'Full.', fields: {}, cause: null } as const;
    await app.db.update(tables.runs).set({ state: 'paused', error }).where(eq(tables.runs.id, run.id));
    await app.db.update(tables.jobs).set({ state: 'blocked' }).where(eq(tables.jobs.runId, run.id));
    await expect(app.freed.free(run.id)).rejects.toMatchObject({ fields: { reason: 'running' } });
    await app.runner.goOn(run.id);
    expect(await ended(run.id)).toMatchObject({ state: 'done', framesDone: 40, error: null });
  });

  it('a run that waited for a newer solver is of that one', async () => {
    const shot = await app.shots.add(small());
    const first = await start(shot);
    const second = await start(shot);
    await app.db.update(tables.runs).set({ key: 'older' }).where(eq(tables.runs.id, second.id));
    const { key } = await ended(first.id);
    expect((await ended(second.id)).key).toBe(key);
  });

  it('a run of another solver does not go on: its frames would not fit', async () => {
    const shot = await app.shots.add(small(40));
    const run = await start(shot);
    await reaches(run.id, 3);
    await app.runner.cancel(run.id);
    await ended(run.id);
    await app.db.update(tables.runs).set({ key: 'older' }).where(eq(tables.runs.id, run.id));
    await expect(app.runner.goOn(run.id)).rejects.toMatchObject({ tag: 'refused', fields: { reason: 'solver changed' } });
    // Nor by itself.
    await app.db.update(tables.runs).set({ state: 'running' }).where(eq(tables.runs.id, run.id));
    await app.db.update(tables.jobs).set({ state: 'active' }).where(eq(tables.jobs.runId, run.id));
    await app.close();
    app = await open();
    expect(await ended(run.id)).toMatchObject({ state: 'interrupted', error: { tag: 'refused' } });
  });

  it('does not start when the disk would be left too full, and says what is free and what must stay', async () => {
    await app.close();
    app = await open({ keepBytes: 1e15 });
    const shot = await app.shots.add(small());
    await expect(start(shot)).rejects.toMatchObject({ tag: 'disk-full', fields: { keepBytes: 1e15 } });
    // Nothing was frozen by the refusal.
    expect((await app.shots.get(shot.slug)).variants[0]!.frozen).toBe(false);
  });

  it('nor when what it will take, by the last run, would leave too little', async () => {
    const shot = await app.shots.add(small(12));
    await ended((await start(shot)).id);
    const free = await freeBytes(folder);
    await app.close();
    // Room for the Test again, whatever else this machine writes meanwhile; not for a Final on a range a thousand times as long.
    app = await open({ keepBytes: free - 400e6 });
    await app.shots.setFields(shot.id, { ...shot.fields, lastFrame: 20_000 }, 0);
    await expect(start(shot, 'final')).rejects.toMatchObject({ tag: 'disk-full' });
  });

  it('nor when the budget of the shot would be broken beside what earlier runs took, unless that was agreed to', async () => {
    const shot = await app.shots.add(small());
    const first = await ended((await start(shot)).id);
    // As if its four frames had been large.
    await app.db.update(tables.frames).set({ bytes: 1e6 }).where(eq(tables.frames.runId, first.id));
    const set = async (disk: number): Promise<void> => {
      const now = await app.shots.get(shot.id);
      await app.shots.setFields(shot.id, { ...now.fields, budgets: { ...now.fields.budgets, disk } }, now.revision);
    };
    // Room for what the next one takes, but not beside the one that was.
    await set(6e6);
    await expect(start(shot)).rejects.toMatchObject({ tag: 'over-budget', fields: { what: ['disk'] } });
    expect((await app.shots.get(shot.id)).runs).toHaveLength(1);
    const agreed = await app.shots.startRun(shot.variants[0]!.id, 'test', app.runner, { overBudget: true });
    expect((await ended(agreed.id)).state).toBe('done');
  });

  it('fixed bounds that cannot fit are refused before they are queued', async () => {
    const file = small();
    const settings = file.variants[0]!.settings;
    const big = {
      ...file,
      variants: [
        {
          ...file.variants[0]!,
          settings: withGroups(settings, {
            detail: { voxelSize: 0.002 },
            bounds: { ...gasSolveOf(settings).bounds, mode: 'fixed' as const },
          }),
        },
      ],
    };
    const shot = await app.shots.add(big);
    await expect(start(shot, 'final')).rejects.toMatchObject({ tag: 'arena-too-small' });
    expect((await app.shots.get(shot.slug)).runs).toHaveLength(0);
  });
});

describe('a folder that is there already', () => {
  it('is not used by a new run of the same number: frames of a lost database stay', async () => {
    const shot = await app.shots.add(small());
    const first = await ended((await start(shot)).id);
    const frame = readFileSync(join(first.folder, 'solve.0002.vdb'));
    // The database forgets the run, as one that is restored from yesterday does.
    await app.db.delete(tables.runs).where(eq(tables.runs.id, first.id));
    const second = await ended((await start(shot)).id);
    expect([second.number, second.state]).toEqual([first.number, 'done']);
    expect(second.folder).toBe(`${first.folder}-2`);
    expect(readFileSync(join(first.folder, 'solve.0002.vdb')).equals(frame)).toBe(true);
  });
});

describe('a start that fails after the data folder was taken', () => {
  it('gives it back: the next try opens it', async () => {
    await app.db.run(sql`alter table jobs rename to jobs_aside`);
    await app.close();
    await expect(open()).rejects.toThrow(/jobs/);
    const db = await openDatabase(join(folder, 'ruddle.db'), process.cwd());
    await db.run(sql`alter table jobs_aside rename to jobs`);
    db.close();
    app = await open();
    expect(await app.shots.list()).toEqual([]);
  });
});

describe('freeing', () => {
  it('can be undone until the space is needed', async () => {
    const shot = await app.shots.add(small());
    const run = await finishedRun(app, shot);
    await app.freed.free(run.id);
    expect(existsSync(run.folder)).toBe(false);
    expect(await app.runs.get(run.id)).toMatchObject({ freed: true, restorable: true, bytes: 0 });
    await expect(app.runs.frame(run.id, 2, 0)).rejects.toMatchObject({ tag: 'not-found' });
    await app.freed.restore(run.id);
    expect(readdirSync(run.folder)).toContain('solve.0002.vdb');
    await app.freed.free(run.id);
    await app.freed.giveBack(() => Promise.resolve(false));
    expect(await app.runs.get(run.id)).toMatchObject({ freed: true, restorable: false });
    await expect(app.freed.restore(run.id)).rejects.toMatchObject({ tag: 'refused' });
  });
  it('gives back the oldest first and no more than are needed; one that is brought back meanwhile stays', async () => {
    const shot = await app.shots.add(small());
    const runs: AnyRunDto[] = [];
    for (let n = 0; n < 3; n++) runs.push(await finishedRun(app, shot));
    for (const [n, { id }] of runs.entries()) {
      await app.freed.free(id);
      await app.db
        .update(tables.runs)
        .set({ freedAt: n + 1 })
        .where(eq(tables.runs.id, id));
    }
    expect(await app.freed.bytes()).toBe(runs.reduce((sum, r) => sum + r.bytes, 0));
    let looks = 0;
    await app.freed.giveBack(() => Promise.resolve(++looks > 1));
    const restorable = async (): Promise<boolean[]> => await Promise.all(runs.map(async ({ id }) => (await app.runs.get(id)).restorable));
    expect(await restorable()).toEqual([false, true, true]);
    // At the same moment: either it is given up or it is back whole, and never half of both.
    const [back] = await Promise.allSettled([app.freed.restore(runs[1]!.id), app.freed.giveBack(() => Promise.resolve(false))]);
    const now = await app.runs.get(runs[1]!.id);
    if (back.status === 'fulfilled') expect([now.freed, readdirSync(now.folder).includes('solve.0002.vdb')]).toEqual([false, true]);
    else expect([now.freed, now.restorable]).toEqual([true, false]);
    expect((await restorable())[2]).toBe(false);
  });
  it('with its variant spares caches that runs of other variants read', async () => {
    const shot = await app.shots.add(small());
    const read = await finishedRun(app, shot);
    const alone = await finishedRun(app, shot);
    const copy = await app.variants.duplicate(shot.variants[0]!.id);
    const other = await finishedRun(app, await app.shots.get(shot.id), { variant: 1 });
    expect(other.variantId).toBe(copy);
    await app.db.insert(tables.runInputs).values({ runId: other.id, role: 'cache', inputRunId: read.id });
    await app.variants.remove(shot.variants[0]!.id);
    expect([read, alone].map((r) => existsSync(r.folder))).toEqual([true, false]);
  });
  it('a run that computes cannot be freed', async () => {
    const shot = await app.shots.add(small(400));
    const run = await start(shot);
    await reaches(run.id, 1);
    await expect(app.freed.free(run.id)).rejects.toMatchObject({ tag: 'refused' });
    await app.runner.cancel(run.id);
    await ended(run.id);
  });
});

describe('drafts', () => {
  it('keep edits with a revision; a window that is behind is told', async () => {
    const shot = await app.shots.add(small());
    const v = shot.variants[0]!;
    const finer = withGroups(v.settings, { detail: { voxelSize: 0.2 } });
    const { draft } = await app.shots.saveDraft(v.id, finer, 0);
    expect(draft?.revision).toBe(1);
    await expect(app.shots.saveDraft(v.id, v.settings, 0)).rejects.toMatchObject({ tag: 'conflict' });
    // Back to what the variant says: no draft any more.
    expect(await app.shots.saveDraft(v.id, v.settings, 1)).toEqual({ draft: null, revision: 2 });
  });

  it('are what a run computes, what a copy of the shot holds, and what its file says', async () => {
    const shot = await app.shots.add(small());
    const [variant] = shot.variants;
    const coarse = withGroups(variant!.settings, { detail: { voxelSize: 0.2 } });
    await app.shots.saveDraft(variant!.id, coarse, 0);
    expect(gasSolveOf((await app.shots.file(shot.id)).variants[0]!.settings).detail.voxelSize).toBe(0.2);
    const copy = await app.shots.create('Another puff', shot.id);
    expect([copy.fields.name, gasSolveOf(copy.variants[0]!.settings).detail.voxelSize, copy.variants[0]!.draft]).toEqual([
      'Another puff',
      0.2,
      null,
    ]);
    const run = await start(await app.shots.get(shot.id));
    // A Test is twice as coarse as the sheet.
    expect((run as RunDto).plan.options.voxelSize).toBe(0.4);
    await ended(run.id);
  });

  it('a run freezes the draft: into a variant that no run used, else into a new one named after the change', async () => {
    const shot = await app.shots.add(small());
    const v = shot.variants[0]!;
    await app.shots.saveDraft(v.id, withGroups(v.settings, { detail: { voxelSize: 0.2 } }), 0);
    const first = await start(shot);
    expect(first.variantId).toBe(v.id);
    await ended(first.id);
    const now = await app.shots.get(shot.slug);
    expect(now.variants).toHaveLength(1);
    expect(now.variants[0]).toMatchObject({ frozen: true, draft: null, settings: withGroups(v.settings, { detail: { voxelSize: 0.2 } }) });
    // A window that still has the draft of before must not bring it back: revisions only grow.
    const late = withGroups(v.settings, { detail: { voxelSize: 0.3 } });
    for (const old of [0, 1]) await expect(app.shots.saveDraft(v.id, late, old)).rejects.toMatchObject({ tag: 'conflict' });
    const { revision } = now.variants[0]!;
    await app.shots.saveDraft(v.id, withGroups(now.variants[0]!.settings, { detail: { voxelSize: 0.25 } }), revision);
    const second = await start(shot);
    await ended(second.id);
    const later = await app.shots.get(shot.slug);
    expect(later.variants.map((x) => x.name)).toEqual(['One', 'Voxel size 0.25 m']);
    expect(later.variants[1]).toMatchObject({ id: second.variantId, parentId: v.id, frozen: true });
    expect(gasSolveOf(later.variants[0]!.settings).detail.voxelSize).toBe(0.2);
    await expect(app.shots.rename(second.variantId, 'One')).rejects.toMatchObject({ tag: 'settings-invalid' });
  });

  it('the shot as a file can be added again', async () => {
    const shot = await app.shots.add(small());
    const again = await app.shots.add(parseWith(shotFileSchema, await app.shots.file(shot.slug), 'file'));
    expect(again.slug).toBe('small-puff-2');
    expect(again.variants[0]!.settings).toEqual(shot.variants[0]!.settings);
  });
});

describe('a data folder of an older version', () => {
  it('is read with what has come since filled in: its runs are shown and predicted from, its variants run', async () => {
    const shot = await app.shots.add(small());
    await ended((await start(shot)).id);
    // As it was before bounds beside, colours, masks and a time scale.
    await app.db.run(sql`update shots set fields = json_remove(fields, '$.ruddle', '$.timeScale', '$.cameras')`);
    await app.db.run(
      sql`update variants set settings = json_remove(json_set(json_extract(settings, '$.passes[0].settings'), '$.solids', json('[]')), '$.bounds.beside', '$.matter.colour', '$.matter.coordinates', '$.keep.uvw', '$.sources[0].colour', '$.sources[0].mask', '$.sources[0].moves')`,
    );
    await app.db.run(
      sql`update runs set plan = json_remove(plan, '$.ruddle', '$.beside', '$.options.matter.colour', '$.options.sources[0].colour', '$.options.timeScale', '$.file.timeScale')`,
    );
    // And before the kind of the gas solve had its name.
    await app.db.run(sql`update runs set kind = 'solve'`);
    await app.db.run(sql`alter table variants drop column revision`);
    await app.db.run(sql`alter table shots drop column deletedAt`);
    await app.db.run(
      sql`delete from __drizzle_migrations where created_at in (select created_at from __drizzle_migrations order by created_at desc limit 3)`,
    );
    await app.close();
    app = await open();
    const [old] = await app.shots.list();
    const again = await app.shots.get(old!.slug);
    expect(again.fields.timeScale).toBe(1);
    expect(gasSolveOf(again.variants[0]!.settings).bounds.beside).toEqual([]);
    expect(again.runs[0]!.kind).toBe('gas');
    expect(again.runs[0]!.plan).toMatchObject({ beside: [], options: { timeScale: 1, sources: [{ colour: [1, 1, 1] }] } });
    const next = await ended((await start(again, 'final')).id);
    expect(next).toMatchObject({ state: 'done', error: null });
    expect(next.prediction?.from).toBe('run 1');
  });
});

import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { eq } from 'drizzle-orm';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { RuddleError, toErrorData } from '#core/errors';
import type { Plan } from '#core/shot';
import { makeReport, makeRun, makeShot } from '#testing/values';
import { type Database, keptFields, keptPlan, keptSettings, openDatabase, tables } from '#server/db';
import { cancelWaiting, claim, enqueue, finish, goOn, pause, paused, putBack, recover, sayWhy, unpause, waitsForMemory } from '.';

let folder = '';
let db: Database;
const shot = makeShot();

beforeEach(async () => {
  folder = mkdtempSync(join(tmpdir(), 'ruddle-queue-'));
  db = await openDatabase(join(folder, 'ruddle.db'), process.cwd());
  const times = { createdAt: 0, updatedAt: 0 };
  await db.insert(tables.shots).values({ id: shot.id, slug: shot.slug, fields: keptFields(shot.fields), ...times });
  const { id, name, settings } = shot.variants[0]!;
  await db.insert(tables.variants).values({ id, shotId: shot.id, name, settings: keptSettings(settings), ...times });
});
afterEach(() => {
  db.close();
  rmSync(folder, { recursive: true, force: true });
});

let number = 0;
/** A run that waits, as the server makes one: with its job, in one transaction. */
async function waiting(id: string, rung: 'test' | 'final' = 'test', now = ++number): Promise<void> {
  const { plan } = makeRun();
  await db.batch([
    db.insert(tables.runs).values({
      id,
      number: ++number,
      shotId: shot.id,
      variantId: shot.variants[0]!.id,
      rung,
      key: id,
      plan: keptPlan(plan),
      codeVersion: '1',
      state: 'queued',
      folder: id,
      createdAt: now,
    }),
    enqueue(db, id, rung, now),
  ]);
}
const run = async (id: string) => (await db.select().from(tables.runs).where(eq(tables.runs.id, id)))[0]!;
const states = async (): Promise<Record<string, string>> => {
  const runs = await db.select().from(tables.runs);
  const jobs = await db.select().from(tables.jobs);
  return Object.fromEntries(runs.map((r) => [r.id, `${r.state}/${jobs.find((j) => j.runId === r.id)?.state ?? 'no job'}`]));
};

describe('the queue', () => {
  it('claims its own job, whatever stands as active beside it', async () => {
    await waiting('left');
    await db.update(tables.jobs).set({ state: 'active' });
    await db.update(tables.runs).set({ state: 'done' });
    await waiting('a');
    await waiting('b');
    expect([await claim(db, 'test', 5), await claim(db, 'test', 6), await claim(db, 'test', 7)]).toEqual(['a', 'b', null]);
    expect(await states()).toEqual({ left: 'done/active', a: 'running/active', b: 'running/active' });
  });

  it('gives what waits longest of a rung, once, and says when it began', async () => {
    await waiting('a', 'final');
    await waiting('b');
    await waiting('c');
    expect(await claim(db, 'test', 100)).toBe('b');
    expect(await states()).toEqual({ a: 'queued/waiting', b: 'running/active', c: 'queued/waiting' });
    expect((await run('b')).startedAt).toBe(100);
    await finish(db, 'b', { state: 'done', error: null }, 200);
    expect(await claim(db, 'test', 300)).toBe('c');
    await finish(db, 'c', { state: 'done', error: null }, 400);
    expect(await claim(db, 'test', 500)).toBeNull();
    expect(await claim(db, 'final', 600)).toBe('a');
  });

  it('asked twice at once gives a run to one of them', async () => {
    await waiting('a');
    const given = await Promise.all([claim(db, 'test', 1), claim(db, 'test', 2), claim(db, 'test', 3)]);
    expect(given.filter((g) => g !== null)).toEqual(['a']);
  });

  it('holds back what does not fit into the memory that is left, and whatever came after it', async () => {
    await waiting('a');
    await waiting('b');
    const range = { low: 1e9, likely: 2e9, high: 3e9 };
    const prediction = { voxels: range, memory: range, disk: range, time: null, basis: 'same', from: 'run 1' } as const;
    await db.update(tables.runs).set({ prediction }).where(eq(tables.runs.id, 'a'));
    expect(await claim(db, 'test', 1, 2.9e9)).toBeNull();
    const { number } = await run('a');
    expect(await waitsForMemory(db, 'test', 2.9e9)).toEqual({ id: 'a', number, neededBytes: 3e9 });
    const why = toErrorData(new RuddleError('waits-for-memory', 'Waits.', { neededBytes: 3e9, freeBytes: 2.9e9 }));
    expect(await sayWhy(db, 'a', why)).toBe(true);
    expect(await sayWhy(db, 'a', why)).toBe(false);
    expect((await run('a')).error).toEqual(why);
    expect(await waitsForMemory(db, 'test', 3e9)).toBeNull();
    expect(await claim(db, 'test', 2, 3e9)).toBe('a');
    expect((await run('a')).error).toBeNull();
    await finish(db, 'a', { state: 'done', error: null }, 3);
    // Nothing is known of what the next one takes: it is not held back.
    expect(await claim(db, 'test', 3, 0)).toBe('b');
    expect(await sayWhy(db, 'b', why)).toBe(false);
  });

  it('passes over a job whose run is not queued any more', async () => {
    await waiting('a');
    await waiting('b');
    await db.update(tables.runs).set({ state: 'cancelled' }).where(eq(tables.runs.id, 'a'));
    expect(await claim(db, 'test', 1)).toBe('b');
    expect(await states()).toEqual({ a: 'cancelled/finished', b: 'running/active' });
  });

  it('cancels what waits, and leaves alone what computes or is over', async () => {
    await waiting('a');
    await waiting('b');
    await claim(db, 'test', 1);
    expect(await cancelWaiting(db, 'b', 50)).toBe(true);
    expect(await cancelWaiting(db, 'a', 51)).toBe(false);
    expect(await cancelWaiting(db, 'b', 52)).toBe(false);
    expect(await states()).toEqual({ a: 'running/active', b: 'cancelled/finished' });
    expect((await run('b')).endedAt).toBe(50);
  });

  it('finishes with how it ended; what was ended otherwise keeps that', async () => {
    await waiting('a');
    await claim(db, 'test', 1);
    const error = { tag: 'not-finite', message: 'It broke.', fields: { frame: 3 }, cause: null } as const;
    await finish(db, 'a', { state: 'failed', error }, 70);
    expect(await run('a')).toMatchObject({ state: 'failed', error, endedAt: 70 });
    await finish(db, 'a', { state: 'done', error: null }, 80);
    expect(await run('a')).toMatchObject({ state: 'failed', endedAt: 70 });
  });

  it('after a start nothing is left as if it computed; what waits goes on waiting', async () => {
    await waiting('a');
    await waiting('b');
    await waiting('c');
    await waiting('d');
    await claim(db, 'test', 1);
    // A queued run whose job is gone: nothing would ever compute it.
    await db.delete(tables.jobs).where(eq(tables.jobs.runId, 'c'));
    await cancelWaiting(db, 'd', 2);
    const { goOn: on, interrupted } = await recover(db, 90);
    expect([on, interrupted]).toEqual([['a'], ['c']]);
    expect(await states()).toEqual({ a: 'queued/waiting', b: 'queued/waiting', c: 'interrupted/no job', d: 'cancelled/finished' });
    expect((await run('c')).endedAt).toBe(90);
    // What was computing goes on first.
    expect(await claim(db, 'test', 91)).toBe('a');
    expect((await run('a')).startedAt).toBe(1);
  });

  it('a run that ends the server three times in a row without a frame is not begun again; one that comes further is', async () => {
    await waiting('a');
    const ends = async (frames: number): Promise<string> => {
      await claim(db, 'test', 1);
      const report = makeReport();
      for (let n = 0; n < frames; n++) {
        const frame = (await db.select().from(tables.frames)).length + 1;
        await db
          .insert(tables.frames)
          .values({ runId: 'a', frame, inRange: true, stored: true, bytes: 1, seconds: 1, memoryBytes: 1, report });
      }
      await recover(db, 2);
      return (await run('a')).state;
    };
    expect(await ends(0)).toBe('queued');
    expect(await ends(1)).toBe('queued');
    expect(await ends(0)).toBe('queued');
    expect(await ends(0)).toBe('queued');
    expect(await ends(0)).toBe('interrupted');
    expect(await claim(db, 'test', 3)).toBeNull();
  });

  it('a run that is over is taken up again, once; what is not over, or freed, is not', async () => {
    await waiting('a');
    expect(await goOn(db, 'a', 5)).toBe(false);
    await claim(db, 'test', 10);
    expect(await goOn(db, 'a', 11)).toBe(false);
    await finish(db, 'a', { state: 'failed', error: { tag: 'disk-full', message: 'Full.', fields: {}, cause: null } }, 20);
    expect((await Promise.all([goOn(db, 'a', 21), goOn(db, 'a', 21)])).filter(Boolean)).toHaveLength(1);
    expect(await run('a')).toMatchObject({ state: 'queued', error: null, endedAt: null });
    expect(await claim(db, 'test', 30)).toBe('a');
    expect(await claim(db, 'test', 31)).toBeNull();
    await finish(db, 'a', { state: 'done', error: null }, 40);
    await db.update(tables.runs).set({ freedAt: 41 }).where(eq(tables.runs.id, 'a'));
    expect(await goOn(db, 'a', 42)).toBe(false);
  });

  it('extended, it gets a new plan and loses its last frames; a refusal changes nothing', async () => {
    await waiting('a');
    const before = await run('a');
    const frame = { inRange: true, stored: true, bytes: 1, seconds: 1, memoryBytes: 1, report: makeReport() };
    for (const f of [1, 2]) {
      await db.insert(tables.frames).values({ runId: 'a', frame: f, ...frame });
      await db.insert(tables.files).values({ runId: 'a', frame: f, path: `x.${String(f)}`, bytes: 1, checksum: 'x' });
    }
    const plan = before.plan.value as Plan;
    const longer = { plan: { ...plan, options: { ...plan.options, lastFrame: 99 } } as Plan, again: [2] };
    const framesOf = async (): Promise<number[]> => (await db.select().from(tables.frames)).map((f) => f.frame);
    expect(await goOn(db, 'a', 5, longer)).toBe(false);
    expect([await run('a'), await framesOf()]).toEqual([before, [1, 2]]);
    await claim(db, 'test', 10);
    await finish(db, 'a', { state: 'done', error: null }, 20);
    expect(await goOn(db, 'a', 21, longer)).toBe(true);
    expect(await run('a')).toMatchObject({ state: 'queued', prediction: null, plan: { value: { options: { lastFrame: 99 } } } });
    expect([await framesOf(), (await db.select().from(tables.files)).map((f) => f.frame)]).toEqual([[1], [1]]);
  });

  it('pauses what computes, with what is in its way; it goes on once, or is cancelled, and a restart leaves it paused', async () => {
    const error = { tag: 'disk-full', message: 'Full.', fields: {}, cause: null } as const;
    await waiting('a');
    await waiting('b');
    await claim(db, 'test', 1);
    await pause(db, 'a', error);
    await pause(db, 'b', error);
    expect(await states()).toEqual({ a: 'paused/blocked', b: 'queued/waiting' });
    expect(await run('a')).toMatchObject({ error, endedAt: null });
    expect(await recover(db, 2)).toEqual({ goOn: [], interrupted: [] });
    expect(await paused(db)).toEqual(['a']);
    // What waits behind it does not wait for it.
    expect(await claim(db, 'test', 3)).toBe('b');
    await finish(db, 'b', { state: 'done', error: null }, 4);
    expect([await unpause(db, 'a'), await unpause(db, 'a'), await unpause(db, 'b')]).toEqual([true, false, false]);
    expect(await states()).toEqual({ a: 'queued/waiting', b: 'done/finished' });
    expect(await claim(db, 'test', 5)).toBe('a');
    await pause(db, 'a', error);
    expect(await cancelWaiting(db, 'a', 6)).toBe(true);
    expect(await states()).toEqual({ a: 'cancelled/finished', b: 'done/finished' });
  });

  it('what computes when the server ends is put back, and goes on first', async () => {
    await waiting('a');
    await waiting('b');
    await claim(db, 'test', 1);
    await putBack(db, 'a');
    expect(await states()).toEqual({ a: 'queued/waiting', b: 'queued/waiting' });
    expect(await recover(db, 2)).toEqual({ goOn: [], interrupted: [] });
    expect(await claim(db, 'test', 3)).toBe('a');
  });

  it('a run that could not be queued is not there at all', async () => {
    await waiting('a');
    await expect(waiting('a')).rejects.toThrow();
    expect(await db.select().from(tables.jobs)).toHaveLength(1);
  });
});

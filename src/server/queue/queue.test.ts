import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { eq } from 'drizzle-orm';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { makeRun, makeShot } from '#testing/values';
import { type Database, keptFields, keptPlan, keptSettings, openDatabase, tables } from '#server/db';
import { cancelWaiting, claim, enqueue, finish, recover } from '.';

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
    expect((await recover(db, 90)).sort()).toEqual(['a', 'c']);
    expect(await states()).toEqual({ a: 'interrupted/finished', b: 'queued/waiting', c: 'interrupted/no job', d: 'cancelled/finished' });
    expect((await run('a')).endedAt).toBe(90);
    expect(await claim(db, 'test', 91)).toBe('b');
    expect(await recover(db, 92)).toEqual(['b']);
  });

  it('a run that could not be queued is not there at all', async () => {
    await waiting('a');
    await expect(waiting('a')).rejects.toThrow();
    expect(await db.select().from(tables.jobs)).toHaveLength(1);
  });
});

import { existsSync } from 'node:fs';
import { eq } from 'drizzle-orm';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import type { AnyRunDto, ShotDto } from '#protocol';
import { tables } from '#server/db';
import { type OpenFolder, ballShot, finishedRun, inFolder } from '#server/testing';

let at: OpenFolder;
let shot: ShotDto;
let run: AnyRunDto;
beforeEach(async () => {
  at = await inFolder({ still: true });
  shot = await at.app.shots.add(ballShot());
  run = await finishedRun(at.app, shot);
});
afterEach(() => at.close());

const listed = async (): Promise<string[]> => (await at.app.shots.list()).map((s) => s.slug);
const stateOf = async (id: string) => (await at.app.db.select().from(tables.runs).where(eq(tables.runs.id, id)))[0]!;

describe('a shot that is deleted', () => {
  it('is off the list with its caches freed, also after a restart, and comes back with them', async () => {
    const other = await at.app.shots.add(ballShot());
    await at.app.deletedShots.remove(shot.slug, false);
    expect(await listed()).toEqual([other.slug]);
    expect(existsSync(run.folder)).toBe(false);
    for (const ask of [
      () => at.app.shots.get(shot.slug),
      () => at.app.shots.get(shot.id),
      () => at.app.shots.startRun(shot.variants[0]!.id, 'test', at.app.runner),
    ])
      await expect(ask()).rejects.toMatchObject({ tag: 'not-found', message: 'This shot was deleted.' });
    await at.again();
    expect(await listed()).toEqual([other.slug]);
    // Its name is not given away.
    expect((await at.app.shots.add(ballShot())).slug).toBe('small-puff-3');
    await at.app.deletedShots.restore(shot.id);
    expect((await listed()).sort()).toEqual(['small-puff', 'small-puff-2', 'small-puff-3']);
    expect(existsSync(run.folder)).toBe(true);
    const { runs } = await at.app.shots.get(shot.slug);
    expect(runs).toMatchObject([{ id: run.id, freed: false, framesDone: 4, damagedFrames: 0, missingFrames: 0 }]);
    expect(await at.app.runs.verify(run.id)).toMatchObject({ damaged: [], missing: [] });
  });

  it('brings back only the caches that its deletion freed', async () => {
    const second = await finishedRun(at.app, shot);
    await at.app.freed.free(second.id);
    await new Promise((resolve) => setTimeout(resolve, 5));
    await at.app.deletedShots.remove(shot.id, false);
    await at.app.deletedShots.restore(shot.id);
    expect((await stateOf(run.id)).freedAt).toBeNull();
    expect((await stateOf(second.id)).freedAt).not.toBeNull();
  });

  it('comes back without caches whose space was needed', async () => {
    await at.app.deletedShots.remove(shot.id, false);
    await at.app.freed.giveBack(() => Promise.resolve(false));
    await at.app.deletedShots.restore(shot.id);
    const { runs } = await at.app.shots.get(shot.slug);
    expect(runs).toMatchObject([{ freed: true, restorable: false }]);
  });

  it('is not, while a run of it is not over; nothing is freed then', async () => {
    for (const state of ['queued', 'running', 'paused'] as const) {
      await at.app.db.update(tables.runs).set({ state }).where(eq(tables.runs.id, run.id));
      await expect(at.app.deletedShots.remove(shot.id, true)).rejects.toMatchObject({
        tag: 'refused',
        message: 'Run 1 of this shot is not over. Cancel it first.',
      });
    }
    expect(await listed()).toEqual([shot.slug]);
    expect(existsSync(run.folder)).toBe(true);
  });

  it('asks about approved caches', async () => {
    await at.app.runs.setApproved(run.id, true);
    await expect(at.app.deletedShots.remove(shot.id, false)).rejects.toMatchObject({ tag: 'refused', fields: { reason: 'approved' } });
    expect(existsSync(run.folder)).toBe(true);
    await at.app.deletedShots.remove(shot.id, true);
    expect(existsSync(run.folder)).toBe(false);
    await at.app.deletedShots.restore(shot.id);
    expect((await at.app.runs.get(run.id)).approved).toBe(true);
  });

  it('may be one that cannot be read', async () => {
    await at.app.db.run(`update shots set fields = '{"damaged"' where id = '${shot.id}'`);
    expect(await at.app.shots.list()).toMatchObject([{ readable: false }]);
    await at.app.deletedShots.remove(shot.slug, false);
    expect(await listed()).toEqual([]);
    await at.app.deletedShots.restore(shot.slug);
    expect(await listed()).toEqual([shot.slug]);
  });

  it('that never was is refused', async () => {
    await expect(at.app.deletedShots.remove('nothing', true)).rejects.toMatchObject({ tag: 'not-found' });
    await expect(at.app.deletedShots.restore('nothing')).rejects.toMatchObject({ tag: 'not-found' });
  });
});

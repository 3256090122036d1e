import { eq } from 'drizzle-orm';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import type { AnyRunDto, ShotDto } from '#protocol';
import { tables } from '#server/db';
import { type OpenFolder, ballShot, inFolder } from '#server/testing';
import type { App } from '.';

// Nothing is computed here: the queue stands still, and figures of runs are written into the database by hand.
let at: OpenFolder;
let app: App;
beforeEach(async () => {
  at = await inFolder({ still: true });
  app = at.app;
});
afterEach(() => at.close());

const coarse = { id: 'coarse', kind: 'resample', name: 'Coarse' } as const;
const look = { id: 'look', kind: 'stills', name: 'Look', input: { pass: 'coarse' }, settings: { width: 96 } } as const;
const puff = (lastFrame = 60): Promise<ShotDto> => app.shots.add(ballShot({ lastFrame }, { detail: { voxelSize: 0.05 } }, [coarse, look]));
const start = (shot: ShotDto, pass: string, how = {}): Promise<AnyRunDto> =>
  app.shots.startRun(shot.variants[0]!.id, 'test', app.runner, { pass, ...how });
const change = async (shot: ShotDto, fields: Partial<ShotDto['fields']>): Promise<void> => {
  const now = await app.shots.get(shot.id);
  await app.shots.setFields(shot.id, { ...now.fields, ...fields }, now.revision);
};
const budget = async (shot: ShotDto, disk: number): Promise<void> => {
  const { fields } = await app.shots.get(shot.id);
  await change(shot, { budgets: { ...fields.budgets, disk } });
};
const queued = async (shot: ShotDto): Promise<AnyRunDto[]> => {
  const { runs, passRuns } = await app.shots.get(shot.id);
  return [...runs, ...passRuns];
};
const endedAs = (id: string, state: 'done' | 'cancelled'): Promise<unknown> =>
  app.db.update(tables.runs).set({ state, endedAt: Date.now() }).where(eq(tables.runs.id, id));

describe('a budget', () => {
  it('reckons with runs that are queued: two that each fit, and do not fit together, are not both started', async () => {
    const shot = await puff();
    const first = await start(shot, 'solve');
    const needs = first.prediction!.disk.likely;
    expect(needs).toBeGreaterThan(1e6);
    await budget(shot, needs * 1.5);
    await expect(start(shot, 'solve')).rejects.toMatchObject({
      tag: 'over-budget',
      fields: { what: ['disk'] },
      message: expect.stringMatching(/budget of disk of .* are needed, .* go to a run that is not over\.$/) as string,
    });
    expect(await queued(shot)).toHaveLength(1);
    // A run that is over claims nothing more.
    await endedAs(first.id, 'cancelled');
    await start(shot, 'solve');
  });

  it('is held against both of two that are started at once', async () => {
    const shot = await puff();
    const probe = await start(shot, 'solve');
    await endedAs(probe.id, 'cancelled');
    await budget(shot, probe.prediction!.disk.likely * 1.5);
    const both = await Promise.allSettled([start(shot, 'solve'), start(shot, 'solve')]);
    expect(both.map((b) => b.status)).toEqual(['fulfilled', 'rejected']);
  });

  it('reckons a pass with all its missing inputs, and a refusal queues nothing', async () => {
    const shot = await puff();
    const solve = await start(shot, 'solve');
    await endedAs(solve.id, 'cancelled');
    const alone = solve.prediction!.disk.likely;
    // Room for the solve, and for nothing after it.
    await budget(shot, alone * 1.0001);
    await expect(start(shot, 'look')).rejects.toMatchObject({ tag: 'over-budget', fields: { what: ['disk'] } });
    expect(await queued(shot)).toHaveLength(1);
    const [draft] = (await app.shots.get(shot.id)).variants;
    const agreed = await start(shot, 'look', { overBudget: true });
    const made = (await queued(shot)).slice(1).sort((a, b) => a.number - b.number);
    expect(made.map((r) => r.passId)).toEqual(['solve', 'coarse', 'look']);
    expect(made[2]!.id).toBe(agreed.id);
    // Inputs that are not computed yet are predicted, each from the one before.
    for (const run of made) expect(run.prediction!.disk.likely).toBeGreaterThan(0);
    expect(made[1]!.prediction!.voxels.likely).toBeGreaterThan(0);
    expect(made[1]!.prediction!.voxels.likely).toBeLessThan(made[0]!.prediction!.voxels.likely);
    expect(draft!.frozen).toBe(true);
  });

  it('leaves the sheet as it is when it refuses', async () => {
    const shot = await puff();
    await budget(shot, 1e6);
    await expect(start(shot, 'look')).rejects.toMatchObject({ tag: 'over-budget' });
    expect((await app.shots.get(shot.id)).variants).toMatchObject([{ frozen: false }]);
    expect(await queued(shot)).toEqual([]);
  });
});

describe('a range that became longer', () => {
  const done = async (shot: ShotDto): Promise<AnyRunDto> => {
    const run = await start(shot, 'solve');
    await endedAs(run.id, 'done');
    return run;
  };
  const row = async (id: string) => (await app.db.select().from(tables.runs).where(eq(tables.runs.id, id)))[0]!;

  it('is computed when that is asked for; Repair and Continue keep the range', async () => {
    const shot = await puff();
    const run = await done(shot);
    await change(shot, { lastFrame: 120 });
    await app.runner.goOn(run.id);
    expect(await app.runs.get(run.id)).toMatchObject({ state: 'queued', frameCount: 60, prediction: run.prediction });
    await endedAs(run.id, 'done');
    const more = await app.runner.longer(run.id);
    expect(more).toMatchObject({ lastFrame: 120, frames: 60, breaks: null });
    // The frames that come only: the plume grows, they take more than the half.
    const { disk } = await app.costs
      .plan(shot.id, { ...shot.fields, lastFrame: 120 }, shot.variants[0]!.settings, 'test')
      .then((p) => p.prediction);
    expect(more!.disk!.likely).toBeGreaterThan(disk.likely / 2);
    expect(more!.disk!.likely).toBeLessThan(disk.likely);
    await app.runner.goOn(run.id, { longer: true });
    expect(await app.runs.get(run.id)).toMatchObject({ state: 'queued', frameCount: 120 });
  });

  it('is held against the budget, and a refusal changes nothing', async () => {
    const shot = await puff();
    const run = await done(shot);
    await change(shot, { lastFrame: 600 });
    await budget(shot, 1e6);
    const before = await row(run.id);
    expect((await app.runner.longer(run.id))!.breaks).toMatch(/It would break the shot's budget of disk of 1 MB: about .* are needed/);
    await expect(app.runner.goOn(run.id, { longer: true })).rejects.toMatchObject({ tag: 'over-budget', fields: { what: ['disk'] } });
    expect(await row(run.id)).toEqual(before);
    await app.runner.goOn(run.id, { longer: true, overBudget: true });
    expect(await app.runs.get(run.id)).toMatchObject({ state: 'queued', frameCount: 600 });
  });

  it.each([
    ['is not over', { state: 'running' as const }, 'not over'],
    ['waits for room', { state: 'paused' as const }, 'not over'],
    ['is freed', { freedAt: 1 }, 'freed'],
  ])('of a run that %s changes nothing', async (_what, changes, reason) => {
    const shot = await puff();
    const run = await done(shot);
    await change(shot, { lastFrame: 120 });
    await app.db.update(tables.runs).set(changes).where(eq(tables.runs.id, run.id));
    const before = await row(run.id);
    await expect(app.runner.goOn(run.id, { longer: true })).rejects.toMatchObject({ tag: 'refused', fields: { reason } });
    expect(await row(run.id)).toEqual(before);
  });

  it('that is none is said to be none', async () => {
    const shot = await puff();
    const run = await done(shot);
    expect(await app.runner.longer(run.id)).toBeNull();
    await expect(app.runner.goOn(run.id, { longer: true })).rejects.toMatchObject({ fields: { reason: 'nothing longer' } });
  });

  it('of a pass ends with its inputs, and never later', async () => {
    const shot = await puff();
    const pass = await start(shot, 'coarse');
    const [solve] = (await app.shots.get(shot.id)).runs;
    for (const id of [solve!.id, pass.id]) await endedAs(id, 'done');
    await change(shot, { lastFrame: 120 });
    expect(await app.runner.longer(pass.id)).toBeNull();
    await app.runner.goOn(solve!.id, { longer: true });
    expect(await app.runner.longer(pass.id)).toMatchObject({ lastFrame: 120, frames: 60, breaks: null });
    await app.runner.goOn(pass.id, { longer: true });
    expect(await app.runs.get(pass.id)).toMatchObject({ frameCount: 120 });
  });
});

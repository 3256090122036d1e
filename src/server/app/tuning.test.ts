import { mkdtempSync, readdirSync, rmSync } from 'node:fs';
import { processorSeconds, settingsOf, withGroups } from '#testing/values';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { statisticsOf } from '#core/cost';
import { SHOT_VERSION, parseWith, shotFileSchema, type ShotFile, solveOf } from '#core/shot';
import type { EvidenceDto, AnyRunDto, ShotDto } from '#protocol';
import { openApp, type App } from '.';

let folder = '';
let app: App;
const open = (calibrate = false, data = folder): Promise<App> =>
  openApp({ root: process.cwd(), data, threads: 1, memoryBytes: 16e9, keepBytes: 0, demo: null, calibrate, version: 'test' });

beforeEach(async () => {
  folder = mkdtempSync(join(tmpdir(), 'ruddle-tuning-'));
  app = await open();
});
afterEach(async () => {
  await app.close();
  rmSync(folder, { recursive: true, force: true });
});

const small = (budgets: object = {}): ShotFile =>
  parseWith(
    shotFileSchema,
    {
      ruddle: SHOT_VERSION,
      name: 'Small puff',
      lastFrame: 10,
      budgets,
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

const ended = async (id: string): Promise<AnyRunDto> => {
  for (;;) {
    const run = await app.runs.get(id);
    if (run.state !== 'queued' && run.state !== 'running') return run;
    await new Promise((resolve) => setTimeout(resolve, 50));
  }
};
const evidenceOf = async (id: string): Promise<EvidenceDto> => JSON.parse(await app.costs.evidence(id)) as EvidenceDto;
const variantOf = (shot: ShotDto): ShotDto['variants'][number] => shot.variants[0]!;

describe('predictions', () => {
  it('are stored with a run, and held against what came', async () => {
    const shot = await app.shots.add(small());
    const first = await app.shots.startRun(variantOf(shot).id, 'test', app.runner);
    // Nothing was ever run: the settings alone, and times of another machine.
    expect(first.prediction).toMatchObject({ basis: 'settings', unmeasured: true });
    await ended(first.id);
    const second = await app.shots.startRun(variantOf(shot).id, 'final', app.runner);
    expect(second.prediction).toMatchObject({ basis: 'same', from: 'run 1' });
    const { time, disk, memory } = second.prediction!;
    expect(time!.low).toBeLessThan(time!.likely);
    const run = await ended(second.id);
    // A puff of a few tiles: what is asked here is the order of size; the bench measures more on the demo shots.
    expect(disk.likely / run.bytes).toBeGreaterThan(0.4);
    expect(disk.likely / run.bytes).toBeLessThan(2.5);
    expect(memory.likely / run.memoryBytes).toBeGreaterThan(0.5);
    expect(memory.likely / run.memoryBytes).toBeLessThan(2);
    const { knowledge, runs } = await evidenceOf(shot.id);
    expect(runs.map((r) => r.title)).toEqual(['run 2', 'run 1']);
    expect(knowledge.record.map((r) => r.title)).toEqual(['Small puff, Final 2', 'Small puff, Test 1']);
    expect(statisticsOf(knowledge.record, 'disk').count).toBe(2);
    expect(knowledge.model!.frames).toBeGreaterThanOrEqual(10);
  });

  it('rest on a calibration at the first start, made once', async () => {
    await app.close();
    app = await open(true);
    const shot = await app.shots.add(small());
    const run = await app.shots.startRun(variantOf(shot).id, 'test', app.runner);
    // Another server that starts in the middle of it sweeps its own leftovers only.
    const written = (): string[] => readdirSync(folder, { recursive: true }).map(String);
    while (!written().some((name) => /^calibration.*0001/.test(name))) await new Promise((resolve) => setTimeout(resolve, 20));
    const other = mkdtempSync(join(tmpdir(), 'ruddle-tuning-other-'));
    await (await open(false, other)).close();
    rmSync(other, { recursive: true, force: true });
    const done = await ended(run.id);
    // Queued before anything was known; known before it began.
    expect(run.prediction).toMatchObject({ unmeasured: true });
    expect(done.prediction!.unmeasured).toBeUndefined();
    expect(done.prediction!.time!.likely).toBeGreaterThan(0);
    const { knowledge } = await evidenceOf(shot.id);
    expect(knowledge.model!.frames).toBeGreaterThanOrEqual(12);
    // Known already: nothing is computed.
    expect(await processorSeconds(() => app.costs.calibrate())).toBeLessThan(0.5);
  });

  it('take the loads of a Sketch, and none of its times', async () => {
    const shot = await app.shots.add(small());
    const frame = {
      frame: 1,
      voxels: 20_000,
      window: [32, 32, 32] as [number, number, number],
      finer: null,
      matter: null,
      memoryBytes: 4e6,
      substeps: 1,
      speed: 2,
      iterations: 4,
      bytes: 0,
      seconds: { sources: 9, forces: 9, advection: 9, pressure: 9, bounds: 9, writing: 9 },
      calibration: 1,
    };
    const frames = Array.from({ length: 10 }, (_v, n) => ({ ...frame, frame: n + 1 }));
    await app.costs.keepSketch(shot, solveOf(variantOf(shot).settings), 4, frames);
    // As an older version kept them: what frames tell now is missing, and they count all the same.
    const older = frames.map(({ finer: _finer, matter: _matter, ...f }) => f) as unknown as typeof frames;
    await app.costs.keepSketch(shot, solveOf(variantOf(shot).settings), 4, older);
    const { runs, knowledge } = await evidenceOf(shot.id);
    expect(runs.map((r) => r.origin)).toEqual(['browser']);
    expect(runs[0]!.frames[0]).toEqual(frame);
    expect(knowledge.model).toBeNull();
    const run = await app.shots.startRun(variantOf(shot).id, 'test', app.runner);
    expect(run.prediction).toMatchObject({ basis: 'same', from: 'a Sketch', unmeasured: true });
    await ended(run.id);
  });
});

describe('budgets', () => {
  it('a run that would break one is refused until that is agreed to', async () => {
    const shot = await app.shots.add(small({ disk: 1e6, memory: 1e7 }));
    const id = variantOf(shot).id;
    const settings = withGroups(variantOf(shot).settings, { detail: { voxelSize: 0.02 } });
    await app.shots.saveDraft(id, settings, 0);
    await expect(app.shots.startRun(id, 'final', app.runner)).rejects.toMatchObject({
      tag: 'over-budget',
      fields: { what: ['disk', 'memory'] },
    });
    expect((await app.shots.get(shot.id)).runs).toEqual([]);
    const run = await app.shots.startRun(id, 'final', app.runner, { overBudget: true });
    await app.runner.cancel(run.id);
    expect((await ended(run.id)).state).toBe('cancelled');
  });
});

describe('making a shot', () => {
  it('blank, or a copy with what is on the sheet', async () => {
    const blank = await app.shots.create('Empty yard', null);
    expect(blank.slug).toBe('empty-yard');
    expect(solveOf(variantOf(blank).settings).sources).toEqual([]);
    await app.shots.saveDraft(variantOf(blank).id, withGroups(variantOf(blank).settings, { detail: { voxelSize: 0.3 } }), 0);
    const copy = await app.shots.create('Second yard', 'empty-yard');
    expect(solveOf(variantOf(copy).settings).detail.voxelSize).toBe(0.3);
    expect(copy.runs).toEqual([]);
  });

  it('variants are duplicated, deleted with their caches freed, and brought back', async () => {
    const shot = await app.shots.add(small());
    const one = variantOf(shot).id;
    await expect(app.variants.remove(one)).rejects.toMatchObject({ tag: 'refused' });
    const copy = await app.variants.duplicate(one);
    expect((await app.shots.get(shot.id)).variants.map((v) => v.name)).toEqual(['One', 'One copy']);
    const run = await app.shots.startRun(one, 'test', app.runner);
    await expect(app.variants.remove(one)).rejects.toMatchObject({ tag: 'refused' });
    await ended(run.id);
    await app.variants.remove(one);
    expect((await app.shots.get(shot.id)).variants.map((v) => v.id)).toEqual([copy]);
    expect((await app.runs.get(run.id)).freed).toBe(true);
    // Its name is free meanwhile.
    await app.shots.rename(copy, 'One');
    await app.variants.restore(one);
    expect((await app.shots.get(shot.id)).variants.map((v) => v.name)).toEqual(['One (2)', 'One']);
    expect((await app.runs.get(run.id)).freed).toBe(false);
  });

  it('notes stay with a run', async () => {
    const shot = await app.shots.add(small());
    const run = await app.shots.startRun(variantOf(shot).id, 'test', app.runner);
    await ended(run.id);
    expect((await app.runs.setNotes(run.id, 'too thin at the mouth')).notes).toBe('too thin at the mouth');
  });
});

import { mkdtempSync, rmSync, statSync } from 'node:fs';
import { settingsOf, withGroups } from '#testing/values';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { and, eq, like } from 'drizzle-orm';
import { afterEach, beforeEach, expect, it, vi } from 'vitest';
import { SHOT_VERSION, type ShotFile, parseWith, shotFileSchema, gasSolveOf } from '#core/shot';
import type { AnyRunDto, RunDetailDto, ServerEvent, ShotDto } from '#protocol';
import { tables } from '#server/db';
import { type App, openApp } from '.';

let folder = '';
let app: App;
beforeEach(async () => {
  folder = mkdtempSync(join(tmpdir(), 'ruddle-take-over-'));
  app = await openApp({
    root: process.cwd(),
    data: folder,
    threads: 1,
    memoryBytes: 16e9,
    keepBytes: 0,
    demo: null,
    calibrate: false,
    version: 'test',
  });
});
afterEach(async () => {
  await app.close();
  rmSync(folder, { recursive: true, force: true });
  vi.restoreAllMocks();
});

const LAST = 26;
/** A source whose heat moves: keys until frame 24. */
const puff = (name: string, end: number): ShotFile =>
  parseWith(
    shotFileSchema,
    {
      ruddle: SHOT_VERSION,
      name,
      lastFrame: LAST,
      preRoll: 2,
      variants: [
        {
          name: 'One',
          settings: settingsOf({
            detail: { voxelSize: 0.1 },
            bounds: { limit: { min: [0, 0, 0], max: [3.2, 3.2, 3.2] } },
            sources: [
              {
                shape: { kind: 'ball', centre: [1.6, 0.8, 1.6], radius: 0.5 },
                moves: {
                  heat: {
                    kind: 'keys',
                    keys: [20, 22, 24].map((frame) => ({ frame, value: frame === 24 ? end : frame === 20 ? 950 : 300 })),
                  },
                },
              },
            ],
          }),
        },
      ],
    },
    'test',
  );
const start = (shot: ShotDto): Promise<AnyRunDto> => app.shots.startRun(shot.variants[0]!.id, 'final', app.runner);
const ended = async (id: string): Promise<AnyRunDto> => {
  for (;;) {
    const run = await app.runs.get(id);
    if (run.state !== 'queued' && run.state !== 'running') return run;
    await new Promise((resolve) => setTimeout(resolve, 30));
  }
};
const detail = async (id: string): Promise<RunDetailDto> => (await app.runs.detail(id)) as RunDetailDto;
/** Of what the page looks at: a volume's file also has the name of its run in it. */
const previews = async (id: string): Promise<string[]> => {
  const of = and(eq(tables.files.runId, id), like(tables.files.path, 'previews/%'));
  return (await app.db.select().from(tables.files).where(of)).map((f) => `${f.path} ${f.checksum}`).sort();
};

const massOf = (report: object): unknown => ('mass' in report ? report.mass : null);

it('a setting that begins to act later goes on from the state before it: frames as if all had been computed', async () => {
  const shot = await app.shots.add(puff('Lid puff', 500));
  const base = await start(shot);
  const stateOf = async (id: string): Promise<number> =>
    Math.max(0, ...(await app.db.select().from(tables.states).where(eq(tables.states.runId, id))).map((s) => s.frame));
  await vi.waitFor(async () => expect(await stateOf(base.id)).toBeGreaterThan(2), { timeout: 40_000, interval: 20 });
  await app.runner.cancel(base.id);
  await ended(base.id);
  const reached = await stateOf(base.id);
  expect(reached).toBeLessThan(20);

  const variant = shot.variants[0]!;
  await app.shots.saveDraft(variant.id, puff('x', 900).variants[0]!.settings, 0);
  const told: number[] = [];
  app.events.subscribe((event: ServerEvent) => {
    if (event.kind === 'frame') told.push(event.frame.frame);
  });
  const run = await ended((await start(await app.shots.get(shot.id))).id);
  expect(run).toMatchObject({
    state: 'done',
    error: null,
    framesDone: LAST + 2,
    notes: `Frames up to ${String(reached)} are those of run 1.`,
  });
  expect(run.key).not.toBe(base.key);
  // The page hears of all of them, and what was not computed took no time.
  expect([...told].sort((a, b) => a - b)).toEqual((await detail(run.id)).frames.map((f) => f.frame));
  const rows = await app.db.select().from(tables.frames).where(eq(tables.frames.runId, run.id));
  expect(
    rows
      .filter((r) => r.seconds === 0)
      .map((r) => r.frame)
      .sort((a, b) => a - b),
  ).toEqual(Array.from({ length: reached + 2 }, (_v, n) => n - 1));
  expect(await app.runs.verify(run.id)).toMatchObject({ damaged: [], missing: [] });
  // One file under two names.
  expect(statSync(join(run.folder, 'solve.0001.vdb')).ino).toBe(statSync(join((await app.runs.get(base.id)).folder, 'solve.0001.vdb')).ino);

  // The same settings in another shot, from the start.
  const whole = await ended((await start(await app.shots.add(puff('Other puff', 900)))).id);
  expect(whole.notes).toBe('');
  expect(await previews(run.id)).toEqual(await previews(whole.id));
  const [mine, theirs] = [(await detail(run.id)).frames, (await detail(whole.id)).frames];
  expect(mine.map((f) => massOf(f.report))).toEqual(theirs.map((f) => massOf(f.report)));
  // What differs did begin to act.
  expect(await previews(base.id)).not.toEqual((await previews(run.id)).slice(0, (await previews(base.id)).length));
});

it('the very same is computed anew, and so is what differs from the start on', async () => {
  const shot = await app.shots.add(puff('Lid puff', 500));
  const first = await start(shot);
  await vi.waitFor(async () => expect(await app.db.select().from(tables.states).where(eq(tables.states.runId, first.id))).not.toEqual([]), {
    timeout: 40_000,
    interval: 20,
  });
  await app.runner.cancel(first.id);
  await ended(first.id);
  const again = await start(shot);
  await vi.waitFor(async () => expect((await app.runs.get(again.id)).framesDone).toBeGreaterThan(0), { timeout: 20_000, interval: 20 });
  await app.runner.cancel(again.id);
  expect(await ended(again.id)).toMatchObject({ notes: '' });
  const other = puff('x', 500).variants[0]!.settings;
  const [source] = gasSolveOf(other).sources;
  await app.shots.saveDraft(shot.variants[0]!.id, withGroups(other, { sources: [{ ...source!, density: 0.5 }] }), 0);
  const changed = await start(await app.shots.get(shot.id));
  await vi.waitFor(async () => expect((await app.runs.get(changed.id)).framesDone).toBeGreaterThan(0), { timeout: 20_000, interval: 20 });
  await app.runner.cancel(changed.id);
  expect(await ended(changed.id)).toMatchObject({ notes: '' });
  const rows = await app.db.select().from(tables.frames).where(eq(tables.frames.runId, changed.id));
  expect(rows.every((r) => r.seconds > 0)).toBe(true);
});

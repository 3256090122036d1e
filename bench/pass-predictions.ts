import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Prediction, Range } from '#core/cost';
import { isRuddleError } from '#core/errors';
import { definitionOf } from '#core/passes';
import { type FollowerKind, type ShotFile, followersOf, passSchema, withFollowers } from '#core/shot';
import type { AnyRunDto } from '#protocol';
import { type App, openApp } from '#server/app';
import { type Row, type Section, middle, row } from './section';
import { JUDGED, variedShots } from './varied-shots';

const THREADS = 2;
const FRAMES = 16;
const LIMITS = { time: { most: 15 }, memory: { most: 7 }, disk: { most: 10 } } as const;
const QUANTITIES = ['time', 'memory', 'disk'] as const;

/** A pass of each kind, and what is changed of it between its two runs: nothing that makes it another pass. */
const PASSES: readonly { readonly kind: FollowerKind; readonly settings: object; readonly changed: object; readonly input?: string }[] = [
  { kind: 'resample', settings: { voxelFactor: 2 }, changed: { voxelFactor: 1.5 } },
  { kind: 'detail', settings: { factor: 2 }, changed: { factor: 3, strength: 0.7 } },
  { kind: 'held', settings: { factor: 1.5 }, changed: { factor: 1.7, strength: 0.7 } },
  { kind: 'retime', settings: { speed: 0.7 }, changed: { speed: 1.5 } },
  { kind: 'particles', settings: { perSecond: 60_000, life: 1 }, changed: { perSecond: 90_000, life: 0.7 } },
  { kind: 'refill', settings: { perSecond: 30, life: 0.7 }, changed: { perSecond: 50, life: 0.6 }, input: 'particles' },
  { kind: 'fed', settings: { density: 3, sources: false }, changed: { density: 2, heat: 100 }, input: 'particles' },
  { kind: 'stills', settings: { width: 320 }, changed: { width: 480 } },
];

interface Entry {
  readonly name: string;
  readonly basis: Prediction['basis'];
  readonly ranges: Readonly<Record<(typeof QUANTITIES)[number], Range>>;
  readonly measured: Readonly<Record<(typeof QUANTITIES)[number], number>>;
}

/** The shot with one pass of each kind, in one variant that keeps what they read. */
function withPasses(shot: ShotFile, changed: boolean): ShotFile {
  const [first] = shot.variants;
  if (!first) return shot;
  const passes = PASSES.map((p) =>
    passSchema.parse({
      id: p.kind,
      kind: p.kind,
      name: p.kind,
      input: { pass: p.input ?? 'solve' },
      settings: { ...p.settings, ...(changed ? p.changed : {}) },
    }),
  );
  // A few frames of each: forty would take the machine half an hour.
  return {
    ...shot,
    lastFrame: Math.min(shot.lastFrame, shot.firstFrame + FRAMES - 1),
    variants: [{ ...first, settings: withFollowers(first.settings, passes) }],
  };
}

async function ended(app: App, id: string): Promise<AnyRunDto> {
  for (;;) {
    const run = await app.runs.get(id);
    if (run.state !== 'queued' && run.state !== 'running') return run;
    await new Promise((resolve) => setTimeout(resolve, 100));
  }
}

/** Each pass of a shot twice, at Test; the second time as another draft of the same sheet. What was predicted each time, and what came. */
async function tryShot(app: App, shot: ShotFile, say: (text: string) => void): Promise<Entry[]> {
  const added = await app.shots.add(withPasses(shot, false));
  const variant = added.variants[0]?.id ?? '';
  const entries: Entry[] = [];
  await ended(app, (await app.shots.startRun(variant, 'test', app.runner, { overBudget: true })).id);
  for (const changed of [false, true]) {
    let of = variant;
    if (changed) {
      const settings = withPasses(shot, true).variants[0]?.settings;
      if (!settings) return entries;
      await app.shots.saveDraft(variant, settings, 0);
    }
    for (const { id, kind } of followersOf(withPasses(shot, false).variants[0]?.settings ?? shot.variants[0]!.settings)) {
      const started = await app.shots.startRun(of, 'test', app.runner, { overBudget: true, pass: id }).catch((error: unknown) => {
        if (isRuddleError(error, 'settings-invalid')) return null;
        throw error;
      });
      // What cannot be of this shot: a fire whose fuel is not kept cannot be held.
      if (!started) continue;
      const run = await ended(app, started.id);
      if (run.state !== 'done') {
        say(`${shot.name}, ${kind}: ${run.error?.message ?? run.state}`);
        continue;
      }
      of = run.variantId;
      const p = run.prediction;
      if (!p?.time) continue;
      // Of order-free passes a prediction is of all threads together.
      const cores = definitionOf(kind).order === 'any' ? THREADS : 1;
      entries.push({
        name: `${shot.name}, ${kind}`,
        basis: p.basis,
        ranges: { time: p.time, memory: p.memory, disk: p.disk },
        measured: { time: run.seconds / cores, memory: run.memoryBytes * cores, disk: run.bytes },
      });
    }
  }
  say(`${shot.name}: done`);
  return entries;
}

function rowsOf(entries: readonly Entry[], title: string, goals: boolean): Row[] {
  const off = (e: Entry, q: (typeof QUANTITIES)[number]): number => Math.abs(e.ranges[q].likely / e.measured[q] - 1) * 100;
  const rows = QUANTITIES.map((q) =>
    row(`${title}, ${q}: median error`, middle(entries.map((e) => off(e, q))), '%', goals ? LIMITS[q] : null),
  );
  const all = entries.flatMap((e) =>
    QUANTITIES.map((q) => ({ e, q, inside: e.measured[q] >= e.ranges[q].low && e.measured[q] <= e.ranges[q].high })),
  );
  const out = all.filter((a) => !a.inside);
  rows.push(
    row(
      `${title}: inside the range`,
      (100 * (all.length - out.length)) / all.length,
      '%',
      { least: 90 },
      `${String(out.length)} of ${String(all.length)} outside`,
    ),
  );
  for (const { e, q } of out) rows.push(row(`outside: ${e.name}, ${q}, predicted over measured`, e.ranges[q].likely / e.measured[q], '×'));
  return rows;
}

export const passPredictions: Section = {
  id: 'pass-predictions',
  title: 'Predictions of passes of eight shots: from passes of their kind of other shots, and from runs of their own with other settings',
  async run({ quick, say }) {
    const shots = variedShots(JUDGED);
    const data = mkdtempSync(join(tmpdir(), 'ruddle-bench-'));
    const app = await openApp({
      root: process.cwd(),
      data,
      threads: THREADS,
      memoryBytes: 16e9,
      keepBytes: 0,
      demo: null,
      calibrate: false,
      version: 'bench',
    });
    try {
      const entries: Entry[] = [];
      for (const shot of quick ? shots.slice(0, 3) : shots) entries.push(...(await tryShot(app, shot, say)));
      const of = (basis: Prediction['basis']): Entry[] => entries.filter((e) => e.basis === basis);
      return [...rowsOf(of('same'), 'own runs', true), ...rowsOf(of('relative'), 'other shots', false)];
    } finally {
      await app.close();
      rmSync(data, { recursive: true, force: true });
    }
  },
};

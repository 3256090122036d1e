import { isLiquidPlan } from '#core/shot';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import {
  isLiquidRun,
  type AnyCostRun,
  type CostRun,
  type RecordEntry,
  QUANTITIES,
  knowledgeOf,
  measuredOf,
  pairsOf,
  predict,
  statisticsOf,
  summaryOf,
} from '#core/cost';
import type { ShotFile } from '#core/shot';
import type { EvidenceDto } from '#protocol';
import { openApp } from '#server/app';
import { tables } from '#server/db';
import { type Row, type Section, row } from './section';
import { FITTED, JUDGED, variedShots } from './varied-shots';

const THREADS = 2;
/** Of ten, nine inside; errors in percent. */
const LIMITS = { time: { most: 15 }, memory: { most: 7 }, disk: { most: 10 }, voxels: null } as const;
/** What settings alone say is at most this factor off either way, for nine of ten. */
const WIDEST = 2;

/** A shot's Test and Final as they were computed, and what this machine knew before it saw the shot. */
export interface Tried<R extends AnyCostRun = CostRun> {
  readonly name: string;
  readonly test: R;
  readonly final: R;
}

export interface Trial<R extends AnyCostRun = CostRun> {
  readonly calibration: readonly CostRun[];
  readonly shots: readonly Tried<R>[];
}

export const isGasRun = (run: AnyCostRun): run is CostRun => !isLiquidRun(run);

/** Computes Test and Final of shots as the application does, each Test before its Final. */
export async function tryShots<R extends AnyCostRun>(
  shots: readonly ShotFile[],
  say: (text: string) => void,
  mine: (run: AnyCostRun) => run is R,
): Promise<Trial<R>> {
  const data = mkdtempSync(join(tmpdir(), 'ruddle-bench-'));
  const app = await openApp({
    root: process.cwd(),
    data,
    threads: THREADS,
    memoryBytes: 16e9,
    keepBytes: 0,
    demo: null,
    calibrate: true,
    version: 'bench',
  });
  try {
    const evidence = async (shot: string): Promise<EvidenceDto> => JSON.parse(await app.costs.evidence(shot)) as EvidenceDto;
    const tried: Tried<R>[] = [];
    for (const shot of shots) {
      const added = await app.shots.add(shot);
      const ids: string[] = [];
      for (const rung of ['test', 'final'] as const) {
        const id = (await app.shots.startRun(added.variants[0]?.id ?? '', rung, app.runner, { overBudget: true })).id;
        ids.push(id);
        for (;;) {
          const run = await app.runs.get(id);
          if (run.state === 'done') break;
          if (run.state !== 'queued' && run.state !== 'running') throw new Error(`${shot.name}, ${rung}: ${run.state}`);
          await new Promise((resolve) => setTimeout(resolve, 100));
        }
      }
      const runs = (await evidence(added.id)).runs.filter(mine);
      const [test, final] = ids.map((id) => runs.find((r) => r.id === id));
      if (!test || !final) throw new Error(`${shot.name}: the runs are no evidence`);
      tried.push({ name: shot.name, test, final });
      say(`${shot.name}: done`);
    }
    // The application timed its boxes before the first run.
    const calibration = (await app.db.select().from(tables.calibrations)).flatMap((c): CostRun[] =>
      c.frames === null || c.plan.problem !== null || isLiquidPlan(c.plan.value)
        ? []
        : [
            {
              id: `calibration-${String(c.id)}`,
              title: 'calibration',
              origin: 'calibration',
              threads: c.threads,
              plan: c.plan.value,
              frames: c.frames,
            },
          ],
    );
    return { calibration, shots: tried };
  } finally {
    await app.close();
    rmSync(data, { recursive: true, force: true });
  }
}

/**
 * What is said of each Final from its Test, or from nothing but its settings, held against what came. The machine knows its calibration and the shot's own Test; of
 * liquid, which has no calibration, the runs of the other shots.
 */
export function recordOf<R extends AnyCostRun>({ calibration, shots }: Trial<R>, from: 'test' | 'settings'): RecordEntry[] {
  return shots.map(({ name, test, final }) => {
    const others = shots.filter((s) => s.name !== name).flatMap((s): AnyCostRun[] => [s.test, s.final].filter(isLiquidRun));
    const known = from === 'test' ? [...calibration, ...others, test] : [...calibration, ...others];
    const knowledge = knowledgeOf(known, THREADS);
    const prediction = summaryOf(predict(final.plan, from === 'test' ? [test] : [], knowledge));
    return { run: final.id, title: name, prediction, measured: measuredOf(final.frames, knowledge.model?.reference ?? 0) };
  });
}

export function rowsOf<R extends AnyCostRun>(trial: Trial<R>): Row[] {
  const record = recordOf(trial, 'test');
  const rows: Row[] = QUANTITIES.map((q) => row(`${q}: median error`, statisticsOf(record, q).medianError * 100, '%', LIMITS[q]));
  const all = QUANTITIES.flatMap((q) => pairsOf(record, q).map((p) => ({ ...p, q })));
  const misses = all.filter((p) => p.measured < p.range.low || p.measured > p.range.high);
  rows.push(
    row(
      'inside the stated range',
      (1 - misses.length / Math.max(1, all.length)) * 100,
      '%',
      { least: 90 },
      `${String(misses.length)} of ${String(all.length)} outside`,
    ),
  );
  for (const { entry, q, range, measured } of misses)
    rows.push(row(`outside: ${entry.title}, ${q}, predicted over measured`, range.likely / measured, '×'));
  const bare = recordOf(trial, 'settings');
  const guesses = QUANTITIES.flatMap((q) => pairsOf(bare, q).map((p) => ({ ...p, q })));
  const inside = guesses.filter((p) => p.measured >= p.range.low && p.measured <= p.range.high).length;
  const narrow = guesses.filter((p) => Math.sqrt(p.range.high / p.range.low) <= WIDEST + 1e-9).length;
  rows.push(
    row(
      'settings alone: inside the range',
      (100 * inside) / guesses.length,
      '%',
      { least: 90 },
      `${String(inside)} of ${String(guesses.length)}`,
    ),
    row('settings alone: at most a factor 2 either way', (100 * narrow) / guesses.length, '%', { least: 90 }),
  );
  return rows;
}

export const predictions: Section = {
  id: 'predictions',
  title: 'Predictions of eight shots that nothing was fitted on: Final from Test, and from the settings alone',
  async run({ quick, say }) {
    const shots = variedShots(JUDGED);
    return rowsOf(await tryShots(quick ? shots.slice(0, 3) : shots, say, isGasRun));
  },
};

/** Where the fitted shots' runs are kept, to be fitted on without being computed again. */
const KEPT = 'node_modules/.cache/bench/fitting.json';

/** For whoever fits the priors of src/core/cost again. */
export const fitting: Section = {
  id: 'fitting',
  title: 'The twelve shots that the priors of the cost model are fitted on',
  async run({ quick, say }) {
    const shots = variedShots(FITTED);
    const trial = await tryShots(quick ? shots.slice(0, 3) : shots, say, isGasRun);
    writeFileSync(KEPT, JSON.stringify(trial));
    return rowsOf(trial);
  },
};

import { and, desc, eq, notInArray } from 'drizzle-orm';
import type { Prediction } from '#core/cost';
import { type FollowerPlan, type PassMeasure, factorsOf, isSolvePlan, measureOf, opsOf, predictPass } from '#core/passes';
import { type Database, tables } from '#server/db';
import { codeVersion } from '#server/engine';
import { elementsOf, inputRunsOf } from './pass-inputs';
import type { RunRow } from './run-dtos';

/** Runs of passes that are looked at for what they cost: the newest say most. */
const MOST_RUNS = 48;
/** What a run that is done says never changes. */
const known = new Map<string, PassMeasure | null>();

/** What passes took on this machine, by this version of the code; the newest last. */
export async function passMeasures(db: Database, shotId: string): Promise<PassMeasure[]> {
  const { runs } = tables;
  const rows = await db
    .select()
    .from(runs)
    .where(and(eq(runs.codeVersion, codeVersion), eq(runs.state, 'done'), notInArray(runs.kind, ['gas', 'liquid'])))
    .orderBy(desc(runs.endedAt))
    .limit(MOST_RUNS);
  const found: PassMeasure[] = [];
  for (const row of rows.reverse()) {
    // One that went on ended later.
    const ended = `${row.id}/${String(row.endedAt)}`;
    const measure = known.has(ended) ? known.get(ended) : await measured(db, row);
    known.set(ended, measure ?? null);
    if (measure) found.push({ ...measure, pass: row.shotId === shotId ? row.passId : null });
  }
  return found;
}

/** A run against its kind's model; null: what it read is not known any more. */
async function measured(db: Database, row: RunRow): Promise<PassMeasure | null> {
  if (row.plan.problem !== null || isSolvePlan(row.plan.value)) return null;
  const plan = row.plan.value;
  const [input, beside] = [new Map<number, number>(), new Map<number, number>()];
  for (const { role, row: above } of await inputRunsOf(db, row.id))
    for (const [frame, n] of await elementsOf(db, above)) {
      const into = role === 'cache' ? input : beside;
      into.set(frame, (into.get(frame) ?? 0) + n);
    }
  const frames = await db.select().from(tables.frames).where(eq(tables.frames.runId, row.id));
  const { kept } = opsOf(plan);
  return measureOf(
    plan,
    row.passId,
    frames.flatMap(({ frame, seconds, bytes, report, memoryBytes }) =>
      // Without what it waited for cores that other programs held: the next run will meet other neighbours.
      report ? [{ frame, seconds: Math.max(0, seconds - (report.waitedSeconds ?? 0)), bytes, kept: kept(report), memoryBytes }] : [],
    ),
    (frame) => input.get(frame) ?? 0,
    (frame) => beside.get(frame) ?? 0,
  );
}

/** Predicted cost of a pass, and elements of each of its frames, from the elements of its inputs' frames. */
export function passPrediction(
  plan: FollowerPlan,
  pass: string,
  input: ReadonlyMap<number, number>,
  beside: ReadonlyMap<number, number>,
  measures: readonly PassMeasure[],
  threads: number,
): { readonly prediction: Prediction; readonly gives: ReadonlyMap<number, number> } {
  const at = (elements: ReadonlyMap<number, number>) => (frame: number) => elements.get(frame) ?? 0;
  const factors = factorsOf(plan.pass, pass, measures);
  const p = predictPass(plan, at(input), factors, threads, at(beside));
  const most = Math.max(0, ...p.gives.values());
  const { low, likely, high } = factors.factors.keptOfModel;
  const prediction: Prediction = {
    voxels: { low: (most * low) / likely, likely: most, high: (most * high) / likely },
    ...p.ranges,
    basis: ({ 'this pass': 'same', 'its kind': 'relative', nothing: 'settings' } as const)[p.from],
    from: { 'this pass': 'runs of this pass', 'its kind': 'passes of its kind on this machine', nothing: 'its settings' }[p.from],
  };
  return { prediction, gives: p.gives };
}

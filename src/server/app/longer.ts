import { eq } from 'drizzle-orm';
import type { Prediction, Range } from '#core/cost';
import { listFrames } from '#core/pass';
import { type AnyPlan, type FollowerPlan, isSolvePlan, opsOf } from '#core/passes';
import type { Plan } from '#core/shot';
import { type Database, tables } from '#server/db';
import type { Wanted } from './budget';
import type { Costs } from './costs';
import { givesOf, inputRunsOf } from './pass-inputs';
import type { PassLoads } from './pass-loads';
import type { RunRow } from './run-dtos';

/** A run that goes on beyond its last frame. */
export interface Extension {
  readonly plan: AnyPlan;
  readonly lastFrame: number;
  /** Frames that come, and frames that are computed again because they were made without the ones after them. */
  readonly frames: number;
  readonly again: readonly number[];
  /** null: nothing can be said. */
  readonly wanted: Wanted | null;
}

const share = ({ low, likely, high }: Range, part: number): Range => ({ low: low * part, likely: likely * part, high: high * part });
const ratio = (a: number, b: number): number => (b > 0 ? Math.min(1, Math.max(0, a / b)) : 0);

/** How far a run can be extended by now: a solve to the end of its shot's range, a pass to the earliest end of its inputs. null: no further. */
export async function extensionOf(db: Database, costs: Costs, loads: PassLoads, row: RunRow): Promise<Extension | null> {
  const plan = row.plan.value;
  const ops = opsOf(plan);
  const range = ops.range(plan);
  const until = isSolvePlan(plan) ? await lastOfShot(db, row.shotId) : await lastOfInputs(db, row.id);
  if (until === null || until <= range.last) return null;
  const longer = ops.upTo(plan, until);
  const again = [...ops.unsettled(plan)];
  const more = listFrames(ops.range(longer)).length - listFrames(range).length;
  if (more <= 0) return null;
  const wanted =
    isSolvePlan(plan) && isSolvePlan(longer)
      ? await ofSolve(costs, row.shotId, plan, longer)
      : await ofPass(loads, row, plan as FollowerPlan, longer as FollowerPlan);
  return { plan: longer, lastFrame: ops.range(longer).last, frames: more + again.length, again, wanted };
}

async function lastOfShot(db: Database, shotId: string): Promise<number | null> {
  const [shot] = await db.select().from(tables.shots).where(eq(tables.shots.id, shotId));
  return shot?.fields.value.lastFrame ?? null;
}

async function lastOfInputs(db: Database, runId: string): Promise<number | null> {
  const above = await inputRunsOf(db, runId);
  return above.length > 0 ? Math.min(...above.map(({ row }) => givesOf(row).frames.last)) : null;
}

async function ofSolve(costs: Costs, shotId: string, { options: { lastFrame } }: Plan, longer: Plan): Promise<Wanted> {
  const { prediction, frames } = await costs.predict(shotId, longer);
  const sum = (pick: (f: (typeof frames)[number]) => number, from: number): number =>
    frames.reduce((n, f) => n + (f.frame > from ? pick(f) : 0), 0);
  const part = (pick: (f: (typeof frames)[number]) => number): number => ratio(sum(pick, lastFrame), sum(pick, -Infinity));
  return {
    time:
      prediction.time &&
      share(
        prediction.time,
        part((f) => f.seconds ?? 0),
      ),
    disk: share(
      prediction.disk,
      part((f) => f.bytes),
    ),
    memory: prediction.memory,
  };
}

async function ofPass(loads: PassLoads, row: RunRow, plan: FollowerPlan, longer: FollowerPlan): Promise<Wanted | null> {
  const read = await loads.ofInputs(row.id);
  const all = await loads.predict(row.shotId, row.passId, longer, read);
  const until = await loads.predict(row.shotId, row.passId, plan, read);
  if (!all || !until) return null;
  const rest = (pick: (p: Prediction) => number): number => ratio(pick(all.prediction) - pick(until.prediction), pick(all.prediction));
  return {
    time:
      all.prediction.time &&
      share(
        all.prediction.time,
        rest((p) => p.time?.likely ?? 0),
      ),
    disk: share(
      all.prediction.disk,
      rest((p) => p.disk.likely),
    ),
    memory: all.prediction.memory,
  };
}

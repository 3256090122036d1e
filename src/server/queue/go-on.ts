import { and, eq, inArray, isNull, sql } from 'drizzle-orm';
import type { AnyPlan } from '#core/passes';
import { type Database, keptPlan, tables } from '#server/db';

/** A run gets a later last frame: its plan then, and frames that are computed again because they were made without the ones after them. */
export interface LongerRun {
  readonly plan: AnyPlan;
  readonly again: readonly number[];
}

/**
 * A run that is over -> queued, with a new job, and longer where that is wanted, in one transaction. Outcomes: true; false when it is not over, or its cache is freed:
 * nothing is changed then.
 */
export async function goOn(db: Database, runId: string, now: number, longer: LongerRun | null = null): Promise<boolean> {
  const { files, frames, jobs, runs } = tables;
  const over = and(eq(runs.id, runId), inArray(runs.state, ['done', 'cancelled', 'interrupted', 'failed']), isNull(runs.freedAt));
  const isOver = sql`exists (select 1 from ${runs} where ${over})`;
  const again = [...(longer?.again ?? [])];
  const [, , changed] = await db.batch([
    db.delete(frames).where(and(eq(frames.runId, runId), inArray(frames.frame, again), isOver)),
    db.delete(files).where(and(eq(files.runId, runId), inArray(files.frame, again), isOver)),
    db
      .update(runs)
      // The prediction was of another range.
      .set({ state: 'queued', error: null, endedAt: null, ...(longer ? { plan: keptPlan(longer.plan), prediction: null } : {}) })
      .where(over)
      .returning({ id: runs.id }),
    db.run(sql`insert into ${jobs} (runId, rung, state, createdAt)
      select ${runs.id}, ${runs.rung}, 'waiting', ${now} from ${runs} where ${runs.id} = ${runId} and ${runs.state} = 'queued'
      and not exists (select 1 from ${jobs} where ${jobs.runId} = ${runId} and ${jobs.state} in ('waiting', 'active', 'blocked'))`),
  ]);
  return changed.length > 0;
}

/** The server ends: job active -> waiting and its run running -> queued, so that it goes on with the next start; in one transaction. */
export async function putBack(db: Database, runId: string): Promise<void> {
  const { jobs, runs } = tables;
  await db.batch([
    db
      .update(jobs)
      .set({ state: 'waiting' })
      .where(and(eq(jobs.runId, runId), eq(jobs.state, 'active'))),
    db
      .update(runs)
      .set({ state: 'queued' })
      .where(and(eq(runs.id, runId), eq(runs.state, 'running'))),
  ]);
}

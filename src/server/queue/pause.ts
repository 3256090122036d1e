import { and, eq } from 'drizzle-orm';
import type { ErrorData } from '#core/errors';
import { type Database, tables } from '#server/db';

/** Job active -> blocked and its run running -> paused, with what is in its way; in one transaction. */
export async function pause(db: Database, runId: string, error: ErrorData): Promise<void> {
  const { jobs, runs } = tables;
  await db.batch([
    db
      .update(jobs)
      .set({ state: 'blocked' })
      .where(and(eq(jobs.runId, runId), eq(jobs.state, 'active'))),
    db
      .update(runs)
      .set({ state: 'paused', error })
      .where(and(eq(runs.id, runId), eq(runs.state, 'running'))),
  ]);
}

/** Job blocked -> waiting and its run paused -> queued; in one transaction. Outcomes: true, or false when it is not paused: nothing is changed then. */
export async function unpause(db: Database, runId: string): Promise<boolean> {
  const { jobs, runs } = tables;
  const [changed] = await db.batch([
    db
      .update(runs)
      .set({ state: 'queued', error: null })
      .where(and(eq(runs.id, runId), eq(runs.state, 'paused')))
      .returning({ id: runs.id }),
    db
      .update(jobs)
      .set({ state: 'waiting' })
      .where(and(eq(jobs.runId, runId), eq(jobs.state, 'blocked'))),
  ]);
  return changed.length > 0;
}

/** Runs that are paused. */
export async function paused(db: Database): Promise<string[]> {
  const { runs } = tables;
  return (await db.select({ id: runs.id }).from(runs).where(eq(runs.state, 'paused'))).map((r) => r.id);
}

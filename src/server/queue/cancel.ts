import { and, eq, inArray } from 'drizzle-orm';
import { type Database, tables } from '#server/db';

/**
 * Job waiting or blocked -> finished and its run queued or paused -> cancelled; in one transaction. Outcomes: true, or false when it does not wait (it is computing, or over):
 * nothing is changed then.
 */
export async function cancelWaiting(db: Database, runId: string, now: number): Promise<boolean> {
  const [cancelled] = await db.batch([
    db
      .update(tables.runs)
      .set({ state: 'cancelled', error: null, endedAt: now })
      .where(and(eq(tables.runs.id, runId), inArray(tables.runs.state, ['queued', 'paused'])))
      .returning({ id: tables.runs.id }),
    db
      .update(tables.jobs)
      .set({ state: 'finished' })
      .where(and(eq(tables.jobs.runId, runId), inArray(tables.jobs.state, ['waiting', 'blocked']))),
  ]);
  return cancelled.length > 0;
}

import { and, eq } from 'drizzle-orm';
import { type Database, tables } from '#server/db';

/**
 * Job waiting -> finished and its run queued -> cancelled; in one transaction. Outcomes: true, or false when it does not wait (it is computing, or over):
 * nothing is changed then.
 */
export async function cancelWaiting(db: Database, runId: string, now: number): Promise<boolean> {
  const [cancelled] = await db.batch([
    db
      .update(tables.runs)
      .set({ state: 'cancelled', endedAt: now })
      .where(and(eq(tables.runs.id, runId), eq(tables.runs.state, 'queued')))
      .returning({ id: tables.runs.id }),
    db
      .update(tables.jobs)
      .set({ state: 'finished' })
      .where(and(eq(tables.jobs.runId, runId), eq(tables.jobs.state, 'waiting'))),
  ]);
  return cancelled.length > 0;
}

import { and, asc, eq } from 'drizzle-orm';
import { type Database, tables } from '#server/db';

/**
 * waiting -> active, oldest first, of one rung. Outcomes: the run's id, or null when nothing waits.
 * The update names the state that it expects, so that a job is never claimed twice.
 */
export async function claim(db: Database, rung: 'test' | 'final', now: number): Promise<string | null> {
  for (;;) {
    const [job] = await db
      .select()
      .from(tables.jobs)
      .where(and(eq(tables.jobs.state, 'waiting'), eq(tables.jobs.rung, rung)))
      .orderBy(asc(tables.jobs.id))
      .limit(1);
    if (!job) return null;
    const claimed = await db
      .update(tables.jobs)
      .set({ state: 'active', claimedAt: now })
      .where(and(eq(tables.jobs.id, job.id), eq(tables.jobs.state, 'waiting')))
      .returning({ id: tables.jobs.id });
    if (claimed.length === 1) return job.runId;
  }
}

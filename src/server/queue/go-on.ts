import { and, eq, inArray, isNull, sql } from 'drizzle-orm';
import { type Database, tables } from '#server/db';

/**
 * A run that is over -> queued, with a new job, in one transaction. Outcomes: true; false when it is not over, or its cache is freed: nothing is changed
 * then.
 */
export async function goOn(db: Database, runId: string, now: number): Promise<boolean> {
  const { jobs, runs } = tables;
  const [changed] = await db.batch([
    db
      .update(runs)
      .set({ state: 'queued', error: null, endedAt: null })
      .where(and(eq(runs.id, runId), inArray(runs.state, ['done', 'cancelled', 'interrupted', 'failed']), isNull(runs.freedAt)))
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

import { and, asc, eq, inArray, notExists, sql } from 'drizzle-orm';
import { type Database, tables } from '#server/db';

/**
 * Job waiting -> active and its run queued -> running, oldest first, of one rung; in one transaction. Outcomes: the run's id, or null when nothing waits
 * that could begin: a run begins when nothing that it reads is still to be computed. A job whose run is not queued any more is finished on the way.
 */
export async function claim(db: Database, rung: 'test' | 'final', now: number): Promise<string | null> {
  const { frames, jobs, runInputs, runs } = tables;
  const open = db
    .select({ id: runInputs.inputRunId })
    .from(runInputs)
    .innerJoin(runs, eq(runs.id, runInputs.inputRunId))
    .where(and(eq(runInputs.runId, jobs.runId), inArray(runs.state, ['queued', 'running', 'paused'])));
  const oldest = db
    .select({ id: jobs.id })
    .from(jobs)
    .where(and(eq(jobs.state, 'waiting'), eq(jobs.rung, rung), notExists(open)))
    .orderBy(asc(jobs.id))
    .limit(1);
  for (;;) {
    const [claimed, started] = await db.batch([
      db
        .update(jobs)
        .set({ state: 'active', claimedAt: now, framesBefore: sql`(select count(*) from ${frames} where ${frames.runId} = ${jobs.runId})` })
        .where(eq(jobs.id, sql`(${oldest})`))
        .returning({ runId: jobs.runId }),
      db
        .update(runs)
        .set({ state: 'running', startedAt: sql`coalesce(${runs.startedAt}, ${now})` })
        .where(
          and(
            eq(runs.state, 'queued'),
            eq(runs.id, sql`(select ${jobs.runId} from ${jobs} where ${jobs.state} = 'active' and ${jobs.rung} = ${rung})`),
          ),
        )
        .returning({ id: runs.id }),
    ]);
    const job = claimed[0];
    if (!job) return null;
    if (started.some((r) => r.id === job.runId)) return job.runId;
    await db.update(jobs).set({ state: 'finished' }).where(eq(jobs.runId, job.runId));
  }
}

import { and, asc, eq, inArray, notExists, sql } from 'drizzle-orm';
import type { ErrorData } from '#core/errors';
import { type Database, tables } from '#server/db';

type Rung = 'test' | 'final';

/** The job of a rung that waits longest, of those whose run reads nothing that is still to be computed. */
function oldestOf(db: Database, rung: Rung) {
  const { jobs, runInputs, runs } = tables;
  const open = db
    .select({ id: runInputs.inputRunId })
    .from(runInputs)
    .innerJoin(runs, eq(runs.id, runInputs.inputRunId))
    .where(and(eq(runInputs.runId, jobs.runId), inArray(runs.state, ['queued', 'running', 'paused'])));
  return db
    .select({ id: jobs.id })
    .from(jobs)
    .where(and(eq(jobs.state, 'waiting'), eq(jobs.rung, rung), notExists(open)))
    .orderBy(asc(jobs.id))
    .limit(1);
}

/** Most memory that a run is predicted to take, bytes; 0 where nothing is. */
const { prediction } = tables.runs;
const needed = sql<number>`coalesce(case when json_valid(${prediction}) then json_extract(${prediction}, '$.memory.high') end, 0)`;

/**
 * Job waiting -> active and its run queued -> running, oldest first, of one rung; in one transaction. Outcomes: the run's id, or null when nothing waits
 * that could begin: a run begins when nothing that it reads is still to be computed, and when what it may take fits into the `free` memory. Younger ones
 * do not overtake it. A job whose run is not queued any more is finished on the way.
 */
export async function claim(db: Database, rung: Rung, now: number, free = Infinity): Promise<string | null> {
  const { frames, jobs, runs } = tables;
  const oldest = oldestOf(db, rung);
  const most = Math.min(free, Number.MAX_SAFE_INTEGER);
  const fits = sql`not exists (select 1 from ${runs} where ${runs.id} = ${jobs.runId} and ${runs.state} = 'queued' and ${needed} > ${most})`;
  for (;;) {
    // One job by its number: another that stands as active, left by whatever, is not this one.
    const [next] = await oldest;
    if (!next) return null;
    const [claimed, started] = await db.batch([
      db
        .update(jobs)
        .set({ state: 'active', claimedAt: now, framesBefore: sql`(select count(*) from ${frames} where ${frames.runId} = ${jobs.runId})` })
        .where(and(eq(jobs.id, next.id), eq(jobs.state, 'waiting'), fits))
        .returning({ runId: jobs.runId }),
      db
        .update(runs)
        .set({ state: 'running', error: null, startedAt: sql`coalesce(${runs.startedAt}, ${now})` })
        .where(
          and(
            eq(runs.state, 'queued'),
            eq(runs.id, sql`(select ${jobs.runId} from ${jobs} where ${jobs.id} = ${next.id} and ${jobs.state} = 'active')`),
          ),
        )
        .returning({ id: runs.id }),
    ]);
    const job = claimed[0];
    if (!job) return null;
    if (started.some((r) => r.id === job.runId)) return job.runId;
    await db.update(jobs).set({ state: 'finished' }).where(eq(jobs.id, next.id));
  }
}

/** The run that `claim` would begin if it had the memory, and what it needs; null: none waits for memory. */
export async function waitsForMemory(
  db: Database,
  rung: Rung,
  free: number,
): Promise<{ readonly id: string; readonly number: number; readonly neededBytes: number } | null> {
  const { jobs, runs } = tables;
  const [first] = await db
    .select({ id: runs.id, number: runs.number, neededBytes: needed.mapWith(Number) })
    .from(jobs)
    .innerJoin(runs, eq(runs.id, jobs.runId))
    .where(and(eq(jobs.id, sql`(${oldestOf(db, rung)})`), eq(runs.state, 'queued')));
  return first && first.neededBytes > free ? first : null;
}

/** Says why a run still waits. Outcomes: whether it was not said yet; a run that waits no longer is left as it is. */
export async function sayWhy(db: Database, runId: string, error: ErrorData): Promise<boolean> {
  const { runs } = tables;
  const [row] = await db.select({ error: runs.error }).from(runs).where(eq(runs.id, runId));
  if (row?.error?.message === error.message) return false;
  const said = await db
    .update(runs)
    .set({ error })
    .where(and(eq(runs.id, runId), eq(runs.state, 'queued')))
    .returning({ id: runs.id });
  return said.length > 0;
}

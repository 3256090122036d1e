import { and, eq, inArray, notInArray, or } from 'drizzle-orm';
import { type Database, tables } from '#server/db';

/**
 * After a start: what was active when the process ended cannot be any more. Job active -> finished; its run, and any run that has no job to go on by,
 * becomes `interrupted`; its frames stay usable. Waiting jobs go on waiting. Returns the runs that were interrupted.
 */
export async function recover(db: Database, now: number): Promise<string[]> {
  const { jobs, runs } = tables;
  const waiting = db.select({ runId: jobs.runId }).from(jobs).where(eq(jobs.state, 'waiting'));
  const lost = await db
    .select({ id: runs.id })
    .from(runs)
    .where(or(eq(runs.state, 'running'), and(eq(runs.state, 'queued'), notInArray(runs.id, waiting))));
  const ids = lost.map((r) => r.id);
  await db.batch([
    db.update(jobs).set({ state: 'finished' }).where(eq(jobs.state, 'active')),
    ...(ids.length > 0 ? [db.update(runs).set({ state: 'interrupted', endedAt: now }).where(inArray(runs.id, ids))] : []),
  ]);
  return ids;
}

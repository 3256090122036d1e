import { and, count, eq, inArray, notInArray, or } from 'drizzle-orm';
import { type Database, tables } from '#server/db';

/** A run that ends the server this often in a row, without a frame in between, is not begun again by itself. */
const MOST_ATTEMPTS = 3;

export interface Recovered {
  /** Go on by themselves. */
  readonly goOn: readonly string[];
  /** Do not: they ended the server again and again, or nothing would ever compute them. */
  readonly interrupted: readonly string[];
}

/**
 * After a start: what was active when the process ended cannot be any more. Job active -> waiting and its run -> queued, so that it goes on; with the third
 * attempt that brought no frame job -> finished and run -> interrupted, as is any run that has no job to go on by. Frames stay usable. Waiting jobs go on
 * waiting. In one transaction.
 */
export async function recover(db: Database, now: number): Promise<Recovered> {
  const { jobs, runs, frames } = tables;
  const active = await db.select().from(jobs).where(eq(jobs.state, 'active'));
  const open = db
    .select({ runId: jobs.runId })
    .from(jobs)
    .where(inArray(jobs.state, ['waiting', 'active', 'blocked']));
  const orphans = await db
    .select({ id: runs.id })
    .from(runs)
    .where(or(and(eq(runs.state, 'running'), notInArray(runs.id, open)), and(eq(runs.state, 'queued'), notInArray(runs.id, open))));
  const goOn: { id: number; runId: string; attempts: number }[] = [];
  const given: { id: number; runId: string }[] = [];
  for (const { id, runId, attempts, framesBefore } of active) {
    const [has] = await db.select({ frames: count() }).from(frames).where(eq(frames.runId, runId));
    const again = (has?.frames ?? 0) > framesBefore ? 0 : attempts + 1;
    if (again < MOST_ATTEMPTS) goOn.push({ id, runId, attempts: again });
    else given.push({ id, runId });
  }
  const lost = [...orphans.map((r) => r.id), ...given.map((j) => j.runId)];
  const changes = [
    ...goOn.map(({ id, attempts }) => db.update(jobs).set({ state: 'waiting', attempts }).where(eq(jobs.id, id))),
    ...(goOn.length > 0
      ? [
          db
            .update(runs)
            .set({ state: 'queued' })
            .where(
              inArray(
                runs.id,
                goOn.map((j) => j.runId),
              ),
            ),
        ]
      : []),
    ...given.map(({ id }) => db.update(jobs).set({ state: 'finished' }).where(eq(jobs.id, id))),
    ...(lost.length > 0 ? [db.update(runs).set({ state: 'interrupted', endedAt: now }).where(inArray(runs.id, lost))] : []),
  ];
  const [first, ...rest] = changes;
  if (first) await db.batch([first, ...rest]);
  return { goOn: goOn.map((j) => j.runId), interrupted: lost };
}

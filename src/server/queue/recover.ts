import { eq, inArray } from 'drizzle-orm';
import { type Database, tables } from '#server/db';

/**
 * After a start: what was active when the process ended cannot be any more. active -> finished; its run becomes `interrupted`, its
 * frames stay usable. Waiting jobs go on waiting. Returns the runs that were interrupted.
 */
export async function recover(db: Database, now: number): Promise<string[]> {
  const active = await db.select({ runId: tables.jobs.runId }).from(tables.jobs).where(eq(tables.jobs.state, 'active'));
  const ids = active.map((a) => a.runId);
  if (ids.length === 0) return [];
  await db.batch([
    db.update(tables.jobs).set({ state: 'finished' }).where(eq(tables.jobs.state, 'active')),
    db.update(tables.runs).set({ state: 'interrupted', endedAt: now }).where(inArray(tables.runs.id, ids)),
  ]);
  return ids;
}

import { eq } from 'drizzle-orm';
import { type Database, tables } from '#server/db';

/** waiting or active -> finished, however the run ended. */
export async function finish(db: Database, runId: string): Promise<void> {
  await db.update(tables.jobs).set({ state: 'finished' }).where(eq(tables.jobs.runId, runId));
}

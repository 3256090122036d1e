import { and, eq } from 'drizzle-orm';
import type { ErrorData } from '#core/errors';
import { type Database, tables } from '#server/db';

/** How a run that was computing ends. */
export interface Ending {
  readonly state: 'done' | 'cancelled' | 'failed' | 'interrupted';
  readonly error: ErrorData | null;
}

/** Job active -> finished and its run running -> as it ended; in one transaction. A run that is not running keeps its state. */
export async function finish(db: Database, runId: string, { state, error }: Ending, now: number): Promise<void> {
  await db.batch([
    db.update(tables.jobs).set({ state: 'finished' }).where(eq(tables.jobs.runId, runId)),
    db
      .update(tables.runs)
      .set({ state, error, endedAt: now })
      .where(and(eq(tables.runs.id, runId), eq(tables.runs.state, 'running'))),
  ]);
}

import { type Database, tables } from '#server/db';

/** (nothing) -> waiting. The run's row must be there. */
export async function enqueue(db: Database, runId: string, rung: 'test' | 'final', now: number): Promise<void> {
  await db.insert(tables.jobs).values({ runId, rung, state: 'waiting', createdAt: now });
}

import type { BatchItem } from 'drizzle-orm/batch';
import { type Database, tables } from '#server/db';

/** (nothing) -> waiting, as part of the transaction that makes the run. */
export const enqueue = (db: Database, runId: string, rung: 'test' | 'final', now: number): BatchItem<'sqlite'> =>
  db.insert(tables.jobs).values({ runId, rung, state: 'waiting', createdAt: now });

import { eq, or } from 'drizzle-orm';
import { RuddleError } from '#core/errors';
import { type Database, tables } from '#server/db';

export type ShotRow = typeof tables.shots.$inferSelect;

/** A shot by its slug or its id. Throws `not-found`, also for one that is deleted unless that is asked for. */
export async function shotRow(db: Database, idOrSlug: string, deleted = false): Promise<ShotRow> {
  const found = await db
    .select()
    .from(tables.shots)
    .where(or(eq(tables.shots.slug, idOrSlug), eq(tables.shots.id, idOrSlug)));
  const row = found.find((r) => r.slug === idOrSlug) ?? found[0];
  if (!row) throw new RuddleError('not-found', 'There is no such shot.', { what: `shot ${idOrSlug}` });
  if (row.deletedAt !== null && !deleted) throw new RuddleError('not-found', 'This shot was deleted.', { what: `shot ${idOrSlug}` });
  return row;
}

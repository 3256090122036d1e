import { readdir } from 'node:fs/promises';
import { join } from 'node:path';
import { and, count, eq, inArray, isNull, or } from 'drizzle-orm';
import { exists } from '#server/cache';
import { type Database, tables } from '#server/db';

const some = (names: readonly string[]): string =>
  `${names.slice(0, 4).join(', ')}${names.length > 4 ? ` and ${String(names.length - 4)} more` : ''}`;

/**
 * Holds the database and the caches on the disk against each other, both ways: frames of runs whose folder is gone are marked missing, so that they are seen and
 * can be repaired; folders outside any run are named and stay untouched. Returns what was found in sentences. Sizes and checksums come later: when a run is looked at.
 */
export async function reconcile(db: Database, data: string): Promise<string[]> {
  const { frames, runs, shots } = tables;
  const rows = await db
    .select({ id: runs.id, number: runs.number, folder: runs.folder, freedAt: runs.freedAt, slug: shots.slug })
    .from(runs)
    .innerJoin(shots, eq(shots.id, runs.shotId));
  const found: string[] = [];
  const gone: string[] = [];
  for (const row of rows) {
    if (row.freedAt !== null || (await exists(row.folder))) continue;
    const whole = and(eq(frames.runId, row.id), eq(frames.stored, true), isNull(frames.damage));
    const [has] = await db.select({ n: count() }).from(frames).where(whole);
    if ((has?.n ?? 0) === 0) continue;
    await db
      .update(frames)
      .set({ damage: 'missing' })
      .where(and(eq(frames.runId, row.id), or(isNull(frames.damage), inArray(frames.damage, ['damaged']))));
    gone.push(`run ${String(row.number)} of ${row.slug}`);
  }
  if (gone.length > 0) found.push(`Not on the disk any more: ${some(gone)}. Their frames can be computed again with Repair.`);
  const known = new Set(rows.map((r) => r.folder));
  const strangers: string[] = [];
  const caches = join(data, 'caches');
  for (const slug of await readdir(caches).catch(() => []))
    for (const name of await readdir(join(caches, slug)).catch(() => [])) {
      if (!known.has(join(caches, slug, name))) strangers.push(join('caches', slug, name));
    }
  if (strangers.length > 0)
    found.push(`Folders outside any run: ${some(strangers)}. They stay untouched; delete them by hand if nobody needs them.`);
  return found;
}

import { asc, eq, sql } from 'drizzle-orm';
import { broughtUp } from '#core/passes';
import { type Database, keptPlan, tables } from '#server/db';

/** SQLite's own version number: changes of rows that no SQL migration can make. */
const DONE = 1;

/** Run keys that an earlier Ruddle stored become those that the same plans have now, once: caches whose frames would come out the same stay fresh. Returns how many. */
export async function rekey(db: Database): Promise<number> {
  const [version] = (await db.run(sql`pragma user_version`)).rows;
  if (Number(version?.['user_version'] ?? 0) >= DONE) return 0;
  const rows = await db.select().from(tables.runs).orderBy(asc(tables.runs.createdAt), asc(tables.runs.number));
  const renamed = new Map<string, string>();
  // What a run reads was started before it, but for times that a clock has twice: until nothing is found any more.
  for (let found = -1; found !== renamed.size;) {
    found = renamed.size;
    for (const { plan, key } of rows) {
      const now = plan.problem === null ? broughtUp(plan.value, key, renamed) : null;
      if (now) renamed.set(key, now.key);
    }
  }
  const changes = rows.flatMap(({ id, plan, key }) => {
    const now = plan.problem === null ? broughtUp(plan.value, key, renamed) : null;
    return now
      ? [
          db
            .update(tables.runs)
            .set({ key: now.key, plan: keptPlan(now.plan) })
            .where(eq(tables.runs.id, id)),
        ]
      : [];
  });
  await db.batch([db.run(sql.raw(`pragma user_version = ${String(DONE)}`)), ...changes]);
  return changes.length;
}

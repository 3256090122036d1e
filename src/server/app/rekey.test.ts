import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { eq } from 'drizzle-orm';
import { afterAll, expect, it } from 'vitest';
import { type AnyPlan, kindOf, opsOf } from '#core/passes';
import { settingsSchema, shotFieldsSchema } from '#core/shot';
import { keptFields, keptPlan, keptSettings, openDatabase, tables } from '#server/db';
import { rekey } from './rekey';

const folder = mkdtempSync(join(tmpdir(), 'ruddle-rekey-'));
afterAll(() => {
  rmSync(folder, { recursive: true, force: true });
});

it('run keys of an earlier Ruddle are brought up once, with those of what they read; others stay as they are', async () => {
  const former = JSON.parse(readFileSync('src/core/passes/fixtures/former-runs.json', 'utf8')) as { key: string; plan: AnyPlan }[];
  const db = await openDatabase(join(folder, 'ruddle.db'), process.cwd());
  await db.insert(tables.shots).values({
    id: 's',
    slug: 's',
    fields: keptFields(shotFieldsSchema.parse({ name: 'S' })),
    createdAt: 0,
    updatedAt: 0,
  });
  await db
    .insert(tables.variants)
    .values({ id: 'v', shotId: 's', name: 'V', settings: keptSettings(settingsSchema.parse({})), createdAt: 0 });
  // In whatever order: a run that is read may have a later number after a restore.
  const rows = [...former.map((f, n) => ({ ...f, id: `run-${String(n)}` })), { ...former[0]!, key: 'of-another-solver', id: 'stale' }];
  for (const [n, { id, key, plan }] of rows.reverse().entries())
    await db.insert(tables.runs).values({
      id,
      number: n + 1,
      shotId: 's',
      variantId: 'v',
      kind: kindOf(plan),
      rung: 'test',
      key,
      plan: keptPlan(plan),
      codeVersion: 'before',
      state: 'done',
      folder: join(folder, id),
      createdAt: n,
    });
  expect(await rekey(db)).toBe(former.length - 2);
  const after = await db.select().from(tables.runs);
  const solves = new Set<string>();
  for (const { id, key, plan } of after) {
    const { value } = plan;
    const own = opsOf(value).key(value);
    if (id === 'stale') expect(key).toBe('of-another-solver');
    // What falls comes out otherwise now, and every liquid.
    else if (kindOf(value) === 'refill' || kindOf(value) === 'liquid') expect(key).not.toBe(own);
    else expect(key, kindOf(value)).toBe(own);
    if (!('inputs' in value)) solves.add(key);
  }
  const coarse = after.find((r) => kindOf(r.plan.value) === 'resample')!.plan.value as {
    readonly inputs: readonly { readonly key: string }[];
  };
  expect(solves).toContain(coarse.inputs[0]!.key);
  // Once: what is stored later is not looked at again.
  await db
    .update(tables.runs)
    .set({ key: former[0]!.key, plan: keptPlan(former[0]!.plan) })
    .where(eq(tables.runs.id, 'stale'));
  expect(await rekey(db)).toBe(0);
  db.close();
});

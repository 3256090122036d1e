import { createHash } from 'node:crypto';
import { mkdirSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { eq } from 'drizzle-orm';
import { opsOf } from '#core/passes';
import { type GasPlan, type Plan, SOLVE, resolvePlan, solveOf } from '#core/shot';
import type { AnyRunDto, ShotDto } from '#protocol';
import type { App } from '#server/app';
import { previewFileName, frameFileName } from '#server/cache';
import { tables } from '#server/db';
import { finish } from '#server/queue';
import { makeReport } from '#testing/values';

/** What a made-up run has. */
export interface MadeUpRun {
  readonly rung?: 'test' | 'final';
  readonly variant?: number;
  /** Bytes of the .vdb of each frame. */
  readonly bytes?: number;
  /** Seconds that each frame took. */
  readonly seconds?: number;
}

const sumOf = (bytes: Uint8Array): string => createHash('sha256').update(bytes).digest('hex');

/**
 * A run of a shot's solve that is done, with files of made-up bytes, a preview among them: tests of caches (health, freeing, budgets, addresses) need no
 * solver. Its rows are made by the very functions that a real run calls.
 */
export async function finishedRun(
  app: App,
  shot: ShotDto,
  { rung = 'test', variant: of = 0, bytes = 1000, seconds = 0.5 }: MadeUpRun = {},
): Promise<AnyRunDto> {
  const variant = shot.variants[of];
  if (!variant) throw new Error(`no variant ${String(of)}`);
  const plan: Plan = resolvePlan(shot.fields, solveOf(variant.settings), rung);
  const key = opsOf(plan).key(plan);
  const made = await app.runs.create({
    shot,
    variantId: variant.id,
    rung,
    pass: { id: SOLVE, plan },
    key,
    inputs: {},
    prediction: null,
    before: [app.db.update(tables.variants).set({ frozen: true }).where(eq(tables.variants.id, variant.id))],
  });
  const { firstFrame, lastFrame } = (plan as GasPlan).options;
  for (let frame = firstFrame; frame <= lastFrame; frame++) {
    const contents = { [frameFileName('solve', frame)]: bytes, [previewFileName('solve', frame, 'density')]: 100 };
    const files = Object.entries(contents).map(([file, length]) => {
      const data = Buffer.alloc(length, `${file} ${String(frame)}`);
      const path = join(made.folder, file);
      mkdirSync(dirname(path), { recursive: true });
      writeFileSync(path, data);
      return { file, bytes: length, checksum: sumOf(data) };
    });
    const report = makeReport({ frame, totalSeconds: seconds });
    const total = files.reduce((n, f) => n + f.bytes, 0);
    await app.runs.addFrame(
      { id: made.id, shotId: shot.id },
      { frame, inRange: true, stored: true, bytes: total, files, states: [], report },
    );
  }
  await app.db.update(tables.runs).set({ state: 'running', startedAt: Date.now() }).where(eq(tables.runs.id, made.id));
  await finish(app.db, made.id, { state: 'done', error: null }, Date.now());
  return await app.runs.announce(made.id);
}

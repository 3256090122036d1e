import { createHash } from 'node:crypto';
import { cpSync, mkdirSync, mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { eq } from 'drizzle-orm';
import { opsOf } from '#core/passes';
import { type GasPlan, type Plan, type ShotFile, SOLVE, resolvePlan, solveOf } from '#core/shot';
import type { AnyRunDto, ShotDto } from '#protocol';
import type { App } from '#server/app';
import { previewFileName, frameFileName } from '#server/cache';
import { tables } from '#server/db';
import type { Config } from '#server/config';
import type { StoredFrame } from '#server/engine';
import { finish } from '#server/queue';
import { makeReport } from '#testing/values';
import { inFolder } from './open-folder';

/** What a made-up run has. */
export interface MadeUpRun {
  readonly rung?: 'test' | 'final';
  readonly variant?: number;
  /** Bytes of the .vdb of each frame. */
  readonly bytes?: number;
  /** Seconds that each frame took. */
  readonly seconds?: number;
  /** The files and reports of a run that was computed, instead of made-up ones. */
  readonly like?: Recorded | null;
}

/** What a computed run wrote: its files in a folder of their own, and its frames as they arrived. */
export interface Recorded {
  readonly folder: string;
  readonly frames: readonly StoredFrame[];
}

/** Computes the solve of a shot's first variant once, for many tests to begin with. The folder is the caller's to remove. */
export async function recorded(file: ShotFile, rung: 'test' | 'final' = 'test', over: Partial<Config> = {}): Promise<Recorded> {
  const at = await inFolder(over);
  try {
    const frames: StoredFrame[] = [];
    const add = at.app.runs.addFrame.bind(at.app.runs);
    at.app.runs.addFrame = async (run, frame) => {
      frames.push(frame);
      await add(run, frame);
    };
    const shot = await at.app.shots.add(file);
    const { id } = await at.app.shots.startRun(shot.variants[0]!.id, rung, at.app.runner);
    for (;;) {
      const run = await at.app.runs.get(id);
      if (run.state === 'failed' || run.state === 'cancelled') throw new Error(run.error?.message ?? run.state);
      if (run.state !== 'done') {
        await new Promise((resolve) => setTimeout(resolve, 20));
        continue;
      }
      const folder = mkdtempSync(join(tmpdir(), 'ruddle-recorded-'));
      cpSync(run.folder, folder, { recursive: true });
      return { folder, frames };
    }
  } finally {
    await at.close();
  }
}

const sumOf = (bytes: Uint8Array): string => createHash('sha256').update(bytes).digest('hex');

/**
 * A run of a shot's solve that is done, with files of made-up bytes, a preview among them: tests of caches (health, freeing, budgets, addresses) need no
 * solver. Its rows are made by the very functions that a real run calls.
 */
export async function finishedRun(
  app: App,
  shot: ShotDto,
  { rung = 'test', variant: of = 0, bytes = 1000, seconds = 0.5, like = null }: MadeUpRun = {},
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
  if (like) {
    cpSync(like.folder, made.folder, { recursive: true });
    for (const frame of like.frames) await app.runs.addFrame({ id: made.id, shotId: shot.id }, frame);
  }
  for (let frame = firstFrame; !like && frame <= lastFrame; frame++) {
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

import { join } from 'node:path';
import { asc, desc, eq } from 'drizzle-orm';
import { listFrames } from '#core/pass';
import type { FollowerPlan } from '#core/passes';
import { type Plan, optionsOf } from '#core/shot';
import { type RunFrameRecord, type WrittenFile, lookAtFile, readBytes } from '#server/cache';
import { type Database, tables } from '#server/db';
import type { PassResume, Resume, StoredState } from '#server/engine';

type RunRow = typeof tables.runs.$inferSelect;

/** What an interrupted run left: its whole frames and states, and the first and last frame that it lacks (Infinity and null: none). */
async function found(db: Database, run: RunRow, wanted: readonly number[]) {
  const files = new Map<number, WrittenFile[]>();
  for (const f of await db.select().from(tables.files).where(eq(tables.files.runId, run.id))) {
    files.set(f.frame, [...(files.get(f.frame) ?? []), { file: f.path, bytes: f.bytes, checksum: f.checksum }]);
  }
  const rows = await db.select().from(tables.frames).where(eq(tables.frames.runId, run.id)).orderBy(asc(tables.frames.frame));
  const frames = rows.flatMap(({ frame, bytes, report, damage }): RunFrameRecord[] =>
    report && damage === null ? [{ frame, bytes, files: files.get(frame) ?? [], report }] : [],
  );
  const have = new Set(frames.map((f) => f.frame));
  const missing = wanted.filter((f) => !have.has(f));
  const states: StoredState[] = [];
  for (const s of await db.select().from(tables.states).where(eq(tables.states.runId, run.id)).orderBy(desc(tables.states.frame))) {
    const state = { bounds: s.bounds, frame: s.frame, file: s.path, bytes: s.bytes, checksum: s.checksum };
    if ((await lookAtFile(run.folder, state)) === null) states.push(state);
  }
  return { frames, states, first: missing[0] ?? Infinity, until: missing[missing.length - 1] ?? null };
}

const bytesOf = async (run: RunRow, state: StoredState): Promise<Uint8Array<ArrayBuffer>> =>
  new Uint8Array(await readBytes(join(run.folder, state.file)));

/** Frames that are whole stay; what is missing is computed from the newest whole state before the first of them. */
export async function leftOf(db: Database, run: RunRow, plan: Plan): Promise<Resume> {
  const { firstFrame, lastFrame, preRoll } = plan.options;
  const all = Array.from({ length: lastFrame - firstFrame + preRoll + 1 }, (_v, n) => firstFrame - preRoll + n);
  const { frames, states, first, until } = await found(db, run, all);
  const from: (Uint8Array<ArrayBuffer> | null)[] = [];
  for (let bounds = 0; bounds < optionsOf(plan).length; bounds++) {
    const state = states.find((s) => s.bounds === bounds && s.frame < first);
    from.push(state ? await bytesOf(run, state) : null);
  }
  return { frames, states, from, until };
}

/** The same of another pass. */
export async function leftOfPass(db: Database, run: RunRow, plan: FollowerPlan): Promise<PassResume> {
  const { frames, states, first } = await found(db, run, listFrames(plan.frames));
  const state = states.find((s) => s.frame < first);
  return { frames, states, from: state ? { frame: state.frame, bytes: await bytesOf(run, state) } : null };
}

import { and, asc, eq } from 'drizzle-orm';
import { RuddleError } from '#core/errors';
import type { CacheFacts } from '#core/pass';
import { type FollowerPlan, type Outside, type PinnedRun, framesRead, opsOf } from '#core/passes';
import type { InputRole, Settings, ShotFields } from '#core/shot';
import type { InputFile, PassInputFiles } from '#protocol';
import { lookAtFolders } from '#server/cache';
import { type Database, tables } from '#server/db';
import type { RunRow } from './run-dtos';

/** What a run's cache is like. Throws `unreadable`. */
export const givesOf = (row: RunRow): CacheFacts => opsOf(row.plan.value).gives(row.plan.value);

/** Runs and folders that passes of a shot speak of. */
export async function outsideOf(db: Database, shotId: string, settings: readonly Settings[], shot: ShotFields): Promise<Outside> {
  const run = await pinnedRuns(db, shotId);
  const folders = await lookAtFolders(settings, shot);
  return { run, folder: (path) => folders[path] ?? null };
}

/** Runs of a shot that passes are pinned to, by id; those that cannot be read are left out. */
async function pinnedRuns(db: Database, shotId: string): Promise<(id: string) => PinnedRun | null> {
  const rows = await db.select().from(tables.runs).where(eq(tables.runs.shotId, shotId));
  const byId = new Map(rows.map((r) => [r.id, r]));
  return (id) => {
    const row = byId.get(id);
    if (!row || row.freedAt !== null) return null;
    return { key: row.key, rung: row.rung, gives: givesOf(row) };
  };
}

const refuse = (message: string): RuddleError<'refused'> => new RuddleError('refused', message, { reason: 'input' });

/** A run that a run reads, and as what. */
export interface InputRun {
  readonly role: string;
  readonly row: RunRow;
}

/** The runs that a run reads; what its frames are made from comes first. */
export async function inputRunsOf(db: Database, runId: string): Promise<InputRun[]> {
  const { runs, runInputs } = tables;
  const rows = await db
    .select()
    .from(runInputs)
    .innerJoin(runs, eq(runs.id, runInputs.inputRunId))
    .where(eq(runInputs.runId, runId))
    // `cache` is the first role by its name too.
    .orderBy(asc(runInputs.role));
  return rows.map((r) => ({ role: r.run_inputs.role, row: r.runs }));
}

/** The files of what a pass reads, frame by frame. Throws `refused` with what is to be done when one is not there. */
export async function inputFilesOf(db: Database, plan: FollowerPlan, role: InputRole, input: RunRow): Promise<PassInputFiles> {
  const { frames, files } = tables;
  const number = String(input.number);
  const gives = givesOf(input);
  const wanted = framesRead(plan, role, gives.frames);
  if (input.freedAt !== null) throw refuse(`Run ${number}, which it reads, is freed: bring it back first.`);
  if (input.state === 'failed' || input.state === 'cancelled' || input.state === 'interrupted')
    throw refuse(`Run ${number}, which it reads, did not come to its end: continue it first.`);
  const rows = await db
    .select({ frame: frames.frame, damage: frames.damage })
    .from(frames)
    .where(and(eq(frames.runId, input.id), eq(frames.stored, true)));
  const damaged = rows.filter((r) => r.damage !== null).map((r) => r.frame);
  const whole = new Set(rows.filter((r) => r.damage === null).map((r) => r.frame));
  const missing = wanted.filter((f) => !whole.has(f));
  if (missing.length > 0) {
    const some = missing.slice(0, 5).join(', ');
    const what = missing.some((f) => damaged.includes(f)) ? 'damaged: repair it first' : 'missing: continue it first';
    throw refuse(`Of run ${number}, which it reads, frame ${some}${missing.length > 5 ? ' and others are' : ' is'} ${what}.`);
  }
  const found: Record<number, InputFile[]> = {};
  for (const f of await db.select().from(files).where(eq(files.runId, input.id)).orderBy(asc(files.path))) {
    if (f.path.includes('/')) continue;
    (found[f.frame] ??= []).push({ file: f.path, bytes: f.bytes, checksum: f.checksum });
  }
  // `solve-2.0001.vdb` sorts before `solve.0001.vdb`: parts are in the order of their numbers.
  const parts = Array.from(
    { length: Math.max(1, gives.voxelSizes.length) },
    (_v, n) => `${opsOf(input.plan.value).partName(input.plan.value, n)}.`,
  );
  const sorted = Object.fromEntries(
    Object.entries(found).map(([frame, list]) => [frame, parts.flatMap((p) => list.filter((f) => f.file.startsWith(p)))]),
  );
  const bare = wanted.find((f) => (sorted[f]?.length ?? 0) === 0);
  if (bare !== undefined) throw refuse(`Run ${number}, which it reads, is of an older Ruddle that kept no checksums: start it anew.`);
  return { folder: input.folder, gives, frames: sorted };
}

/** What each frame of a run has for a pass to read: voxels, particles. */
export async function elementsOf(db: Database, input: RunRow): Promise<Map<number, number>> {
  const rows = await db
    .select({ frame: tables.frames.frame, report: tables.frames.report })
    .from(tables.frames)
    .where(eq(tables.frames.runId, input.id));
  const { kept } = opsOf(input.plan.value);
  return new Map(rows.flatMap(({ frame, report }) => (report ? [[frame, kept(report)] as const] : [])));
}

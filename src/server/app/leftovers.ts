import { rm } from 'node:fs/promises';
import { asc, eq } from 'drizzle-orm';
import { exists, readRunRecord, sweepRun, uploadsFolder, type WrittenFile, writeRunRecord } from '#server/cache';
import { type Database, tables } from '#server/db';
import type { Recovered } from '#server/queue';
import { calibrationFolder } from './costs';

/**
 * What a process that was killed left behind: files that were half written, a run.json that says "running", uploads. Puts it in order, and returns what was
 * found in sentences.
 */
export async function clearLeftovers(db: Database, data: string, { goOn, interrupted }: Recovered): Promise<string[]> {
  const found: string[] = [];
  for (const id of [...goOn, ...interrupted]) {
    const text = await settle(db, id, goOn.includes(id)).catch((error: unknown) => {
      console.error(`run ${id}:`, error);
      return null;
    });
    if (text !== null) found.push(text);
  }
  await rm(uploadsFolder(data), { recursive: true, force: true });
  await rm(calibrationFolder(data), { recursive: true, force: true });
  return found;
}

async function settle(db: Database, id: string, goesOn: boolean): Promise<string | null> {
  const { runs, shots, frames, files, states } = tables;
  const [row] = await db.select().from(runs).innerJoin(shots, eq(shots.id, runs.shotId)).where(eq(runs.id, id));
  if (!row) return null;
  const { number, folder } = row.runs;
  const name = row.shots.fields.problem === null ? row.shots.fields.value.name : row.shots.slug;
  const stored = await db.select().from(frames).where(eq(frames.runId, id)).orderBy(asc(frames.frame));
  const title = `Run ${String(number)} of ${name} was interrupted`;
  const further = goesOn ? ' It goes on.' : '';
  if (!(await exists(folder))) return `${title} before its first frame.${further}`;
  const written = new Map<number, WrittenFile[]>();
  for (const f of await db.select().from(files).where(eq(files.runId, id)))
    written.set(f.frame, [...(written.get(f.frame) ?? []), { file: f.path, bytes: f.bytes, checksum: f.checksum }]);
  const ofStates = await db.select({ path: states.path }).from(states).where(eq(states.runId, id));
  const kept = new Set(['run.json', ...[...written.values()].flat().map((f) => f.file), ...ofStates.map((s) => s.path)]);
  // A frame is finished when the database knows it: what was written after that is of no frame.
  const swept = await sweepRun(folder, kept);
  const record = await readRunRecord(folder);
  if (record) {
    await writeRunRecord(folder, {
      ...record,
      state: 'interrupted',
      endedAt: new Date().toISOString(),
      frames: stored.flatMap(({ frame, bytes, report }) => (report ? [{ frame, bytes, files: written.get(frame) ?? [], report }] : [])),
    });
  }
  const left =
    swept.length === 0
      ? ''
      : ` ${String(swept.length)} ${swept.length === 1 ? 'file' : 'files'} of an unfinished frame ${swept.length === 1 ? 'was' : 'were'} removed.`;
  return `${title} after ${String(stored.length)} ${stored.length === 1 ? 'frame' : 'frames'}.${left}${further}`;
}

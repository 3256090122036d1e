import { readdir, rm } from 'node:fs/promises';
import { join, relative } from 'node:path';
import type { ErrorData } from '#core/errors';
import type { AnyPlan, AnyReport } from '#core/passes';
import type { Settings } from '#core/shot';
import { exists, readBytes, writeWhole } from './files';

/** A file of a run, as it was written. */
export interface WrittenFile {
  /** In the run's folder. */
  readonly file: string;
  readonly bytes: number;
  /** SHA-256. */
  readonly checksum: string;
}

export interface RunFrameRecord<R extends StoredReport = StoredReport> {
  readonly frame: number;
  /** Of all its files. */
  readonly bytes: number;
  /** Its volumes, one for each bounds, in their order; then its previews. None of pre-roll that was not written. */
  readonly files: readonly WrittenFile[];
  readonly report: R;
}

/** What is kept of a frame of any kind. */
export type StoredReport = AnyReport;

/** `run.json`: where a cache comes from, and what every frame cost. */
export interface RunRecord<R extends StoredReport = StoredReport> {
  readonly ruddle: 2;
  readonly shot: string;
  readonly variant: string;
  readonly key: string;
  readonly state: 'running' | 'done' | 'cancelled' | 'failed' | 'interrupted';
  readonly error: ErrorData | null;
  readonly codeVersion: string;
  readonly machine: { readonly cores: number; readonly model: string; readonly memoryBytes: number; readonly node: string };
  readonly threads: number;
  readonly startedAt: string;
  readonly endedAt: string | null;
  readonly settings: Settings;
  readonly plan: AnyPlan;
  readonly frames: readonly RunFrameRecord<R>[];
}

const RECORD = 'run.json';

export const writeRunRecord = (folder: string, record: RunRecord): Promise<void> =>
  writeWhole(join(folder, RECORD), `${JSON.stringify(record, null, 1)}\n`);

/** null when there is none that can be read. */
export async function readRunRecord(folder: string): Promise<RunRecord | null> {
  try {
    const record = JSON.parse((await readBytes(join(folder, RECORD))).toString('utf8')) as RunRecord | null;
    return Array.isArray(record?.frames) ? record : null;
  } catch {
    return null;
  }
}

/** Files that a run writes: volumes, previews, its record, and those of them that were never finished. */
const NAMED = '(?:solve|resample|detail|held|fed|retime|particles|refill|surface|stills)(?:-(?:\\d+|distance))?\\.-?\\d+';
const OWN = new RegExp(
  `^(?:${NAMED}\\.(?:vdb|ply|png|obj|glb)|previews/${NAMED}\\.\\w+\\.preview|states/${NAMED}\\.state|run\\.json)(\\.part)?$`,
);

/**
 * Removes a run's own files that `keep` does not name: what a crash left half written, what an earlier run into the same folder wrote. Whatever else lies
 * there stays, and so does everything where no run ever wrote its record. Returns their names.
 */
export async function sweepRun(folder: string, keep: ReadonlySet<string>): Promise<string[]> {
  if (!(await exists(join(folder, RECORD))) && !(await exists(join(folder, `${RECORD}.part`)))) return [];
  const inside = async (at: string): Promise<string[]> => (await readdir(join(folder, at)).catch(() => [])).map((f) => join(at, f));
  const all = [...(await inside('')), ...(await inside('previews')), ...(await inside('states'))];
  const swept = all.filter((f) => OWN.test(f) && !keep.has(f));
  for (const f of swept) await rm(join(folder, f), { force: true });
  return swept;
}

/** Removes what a run wrote but its record, which then says of every frame what it cost and that nothing of it is there. */
export async function freeRun(folder: string, record: RunRecord): Promise<void> {
  // First: what is killed in the middle has frames that nobody counts on.
  await writeRunRecord(folder, { ...record, state: 'interrupted', frames: record.frames.map((f) => ({ ...f, bytes: 0, files: [] })) });
  await sweepRun(folder, new Set([RECORD]));
}

/** Files in a run's folder that it did not write. */
export async function foreignIn(folder: string, own: ReadonlySet<string>): Promise<string[]> {
  const all = await readdir(folder, { recursive: true, withFileTypes: true }).catch(() => []);
  return all
    .filter((e) => !e.isDirectory())
    .map((e) => relative(folder, join(e.parentPath, e.name)))
    .filter((name) => name !== RECORD && !own.has(name))
    .sort();
}

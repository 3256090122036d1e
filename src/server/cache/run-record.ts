import { lstat, readdir, rm } from 'node:fs/promises';
import { join, relative } from 'node:path';
import type { ErrorData } from '#core/errors';
import { type AnyPlan, type AnyReport, broughtUp, isSolvePlan } from '#core/passes';
import type { Settings } from '#core/shot';
import { readBytes, writeWhole } from './files';

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
  /** From which it can go on while it is not done; records of older runs have none. */
  readonly states?: readonly StateRecord[];
}

/** A state of a run after a frame, of one of its bounds. */
export interface StateRecord extends WrittenFile {
  readonly bounds: number;
  readonly frame: number;
}

const RECORD = 'run.json';

/** Of a solve that an earlier Ruddle computed, the key that it has now. */
function withKeyNow(record: RunRecord): RunRecord {
  try {
    return isSolvePlan(record.plan) ? { ...record, key: broughtUp(record.plan, record.key, new Map())?.key ?? record.key } : record;
  } catch {
    // This Ruddle cannot read the plan: its key differs in any case.
    return record;
  }
}

export const writeRunRecord = (folder: string, record: RunRecord): Promise<void> =>
  writeWhole(join(folder, RECORD), `${JSON.stringify(record, null, 1)}\n`);

/** null when there is none that can be read. */
export async function readRunRecord(folder: string): Promise<RunRecord | null> {
  try {
    const record = JSON.parse((await readBytes(join(folder, RECORD))).toString('utf8')) as RunRecord | null;
    return Array.isArray(record?.frames) ? withKeyNow(record) : null;
  } catch {
    return null;
  }
}

/** The folders below a run's own that it writes to. */
export const FOLDERS_BESIDE = ['previews', 'states'] as const;

/** The first word of the names of a run's files: a solve's are called so whichever kind it is of, and plans of the first version name no kind. */
function wordOf({ plan }: RunRecord): string {
  const kind = (plan as { readonly pass?: string } | undefined)?.pass ?? 'gas';
  return kind === 'gas' || kind === 'liquid' ? 'solve' : kind;
}

/** Clocks of disks and machines differ by less, milliseconds. */
const CLOCKS = 2000;

/** The files in a folder that this run wrote, as far as they are there: those that its record lists, and those of its names that came after it began (a kill leaves frames that are in no record). */
export async function ownFilesIn(folder: string, record: RunRecord): Promise<Set<string>> {
  const word = wordOf(record);
  // Only a plain word may stand in the pattern.
  const named = /^[a-z]+$/.test(word) ? `${word}(?:-[a-z0-9]+)?\\.-?\\d+` : '(?!)';
  const own = new RegExp(
    `^(?:${named}\\.(?:vdb|ply|png|obj|glb)|previews/${named}\\.\\w+\\.preview|states/${named}\\.state|${word}\\.json|run\\.json)(?:\\.part)?$`,
  );
  const listed = new Set(record.frames.flatMap((f) => f.files.map((w) => w.file)));
  const began = Date.parse(record.startedAt);
  const found = new Set<string>();
  // Names that the folder has, never names that the record has: a record may be anybody's, and lead out of the folder.
  for (const name of await filesIn(folder)) {
    if (listed.has(name) || /^run\.json(?:\.part)?$/.test(name)) found.add(name);
    else if (own.test(name)) {
      const entry = await lstat(join(folder, name)).catch(() => null);
      if (entry && entry.mtimeMs >= began - CLOCKS) found.add(name);
    }
  }
  return found;
}

/** Names of files (and links) in a run's folder and in the two folders below it; other folders are nobody's concern here. */
export async function filesIn(folder: string): Promise<string[]> {
  const inside = async (at: string): Promise<string[]> => {
    const entries = await readdir(join(folder, at), { withFileTypes: true }).catch(() => []);
    return entries.filter((e) => !e.isDirectory()).map((e) => join(at, e.name));
  };
  const below = await Promise.all(FOLDERS_BESIDE.map(async (at) => ((await isFolder(join(folder, at))) ? await inside(at) : [])));
  return [...(await inside('')), ...below.flat()];
}

/** Whether a folder holds no file yet but a record of a run that was never finished writing. */
export const isEmptyRun = async (folder: string): Promise<boolean> => (await filesIn(folder)).every((f) => f === `${RECORD}.part`);

/** A folder itself, no link to one. */
const isFolder = async (path: string): Promise<boolean> => (await lstat(path).catch(() => null))?.isDirectory() ?? false;

/**
 * Removes a run's own files that `keep` does not name: half-written files of a crash, files of an earlier start of the same run. All other files stay, and so does
 * everything where no run ever wrote its record. Returns their names.
 */
export async function sweepRun(folder: string, keep: ReadonlySet<string>, record?: RunRecord): Promise<string[]> {
  const of = record ?? (await readRunRecord(folder));
  if (!of) return [];
  const swept = [...(await ownFilesIn(folder, of))].filter((f) => !keep.has(f));
  for (const f of swept) await rm(join(folder, f), { force: true });
  return swept;
}

/** Removes what a run wrote but its record, which then says of every frame what it cost and that nothing of it is there. */
export async function freeRun(folder: string, record: RunRecord): Promise<void> {
  // First: what is killed in the middle has frames that nobody counts on.
  await writeRunRecord(folder, { ...record, state: 'interrupted', frames: record.frames.map((f) => ({ ...f, bytes: 0, files: [] })) });
  await sweepRun(folder, new Set([RECORD]), record);
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

import { lstat, readdir, realpath, stat } from 'node:fs/promises';
import { basename, dirname, join, resolve } from 'node:path';
import { RuddleError } from '#core/errors';
import { FOLDERS_BESIDE, type RunRecord, filesIn, ownFilesIn, readRunRecord } from './run-record';

export interface OutputRules {
  /** Run key of the run that wants to write there. */
  readonly key: string;
  /** First and last frame that it will write. */
  readonly range: readonly [number, number];
  /** Folders that the run reads. */
  readonly reads: readonly string[];
  /** Files that are there and belong to the run already: it goes on from them. */
  readonly kept: ReadonlySet<string>;
  /** Folders that the user named: what an earlier run left in one of them, or below it, is replaced. */
  readonly overwrite: readonly string[];
}

/**
 * Whether a run may write into a folder: the one rule of every command and of the server. Throws `refused` where the folder holds a file that this very run (the
 * same run key) did not write, unless the user named the folder; and always where the run's own input lies there. Returns the record of the earlier run whose
 * files are to be removed.
 */
export async function claimOutput(folder: string, { key, range, reads, kept, overwrite }: OutputRules): Promise<RunRecord | null> {
  for (const input of reads) if (await readsFrom(input, folder)) throw refusal(folder, `holds this run's input (${input})`, false);
  for (const below of FOLDERS_BESIDE) {
    const entry = await lstat(join(folder, below)).catch(() => null);
    if (entry && !entry.isDirectory()) throw refusal(folder, `has "${below}" as a ${entry.isSymbolicLink() ? 'link' : 'file'}`, false);
  }
  const record = await readRunRecord(folder);
  const named = (await Promise.all(overwrite.map((o) => liesIn(folder, o)))).some(Boolean);
  // A run that goes on finds its own frames there; other files beside them stay, and its record may be damaged.
  if (named || kept.size > 0) return record;
  const there = await filesIn(folder);
  const own = record ? await ownFilesIn(folder, record) : new Set<string>();
  const foreign = there.filter((f) => !own.has(f));
  if (foreign.length > 0) throw refusal(folder, `holds ${listed(foreign)}, which this run did not write`);
  const frames = record?.frames.filter((f) => f.files.some((w) => own.has(w.file))).map((f) => f.frame) ?? [];
  const other = record && record.key !== key && there.some((f) => !f.startsWith('run.json'));
  if (other) throw refusal(folder, `holds another run (${record.shot}, ${record.variant}: ${counted(frames.length)})`);
  const beyond = frames.filter((f) => f < range[0] || f > range[1]);
  if (beyond.length > 0) throw refusal(folder, `holds ${counted(beyond.length)} of this run outside ${range.map(String).join('-')}`);
  return record;
}

/**
 * Whether files may be copied into a folder that is no run's: other files may lie there, but none of these names, and no run. Throws `refused` unless the user named
 * the folder, and always where the copies would replace what is copied.
 */
export async function claimExport(folder: string, files: readonly string[], from: string, overwrite: readonly string[]): Promise<void> {
  if (await readsFrom(from, folder)) throw refusal(folder, `is where these files lie`, false);
  if ((await Promise.all(overwrite.map((o) => liesIn(folder, o)))).some(Boolean)) return;
  if (await readRunRecord(folder)) throw refusal(folder, 'holds a run');
  for (const file of files)
    if (await lstat(file).catch(() => null)) throw refusal(folder, `holds ${basename(file)}, which would be replaced`);
}

const counted = (n: number): string => `${String(n)} ${n === 1 ? 'frame' : 'frames'}`;

const listed = (files: readonly string[]): string => {
  const [first = ''] = [...files].sort();
  return files.length === 1 ? first : `${first} and ${String(files.length - 1)} more`;
};

function refusal(folder: string, why: string, may = true): RuddleError<'refused'> {
  const remedy = may ? `Name another folder, or replace its contents: --overwrite ${folder}` : 'Name another folder.';
  return new RuddleError('refused', `${folder} ${why}. ${remedy}`, { reason: 'output' });
}

/** One folder has many names (links, mounts): what the disk calls it is the same under each. */
const identity = async (path: string): Promise<string | null> => {
  const s = await stat(path).catch(() => null);
  return s && `${String(s.dev)}:${String(s.ino)}`;
};

/** Whether a run that reads `input` reads files of `folder`: it is that folder, or links in it lead there. */
async function readsFrom(input: string, folder: string): Promise<boolean> {
  const own = await identity(folder);
  if (own === null) return false;
  if ((await identity(input)) === own) return true;
  const links = (await readdir(input, { withFileTypes: true }).catch(() => [])).filter((e) => e.isSymbolicLink());
  const places = new Set<string>();
  for (const link of links) places.add(dirname(await realpath(join(input, link.name)).catch(() => join(input, link.name))));
  for (const place of places) if ((await identity(place)) === own) return true;
  return false;
}

/** Whether a folder is, or lies below, one that was named. */
async function liesIn(folder: string, named: string): Promise<boolean> {
  const wanted = await identity(named);
  if (wanted === null) return false;
  for (let at = await realpath(folder).catch(() => resolve(folder)); ; at = dirname(at)) {
    if ((await identity(at)) === wanted) return true;
    if (dirname(at) === at) return false;
  }
}

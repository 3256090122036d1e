import { createHash } from 'node:crypto';
import { readFile, readdir, stat } from 'node:fs/promises';
import { isAbsolute, join } from 'node:path';
import { RuddleError, isRuddleError } from '#core/errors';
import { channelName, plyProperties, readVdb } from '#core/formats';
import { type CacheFacts, type FileConvention, listFrames } from '#core/pass';
import type { FolderFacts } from '#core/passes';
import { type Settings, type ShotFields, canonicalJson, followersOf, inputsOf } from '#core/shot';
import type { PassInputFiles } from '#protocol';

/** Numbered files of a folder that a pass reads. */
interface FolderCache {
  readonly key: string;
  readonly gives: CacheFacts;
  /** Name and size of each frame's file. */
  readonly files: Readonly<Record<number, { readonly file: string; readonly bytes: number }>>;
}

const NUMBERED = /^(.*?)[._-]?(-?\d+)\.(vdb|ply)$/i;
/** Channels of the first file, by what the folder is like: it is read once. */
type Inside = Pick<CacheFacts, 'output' | 'voxelSizes' | 'channels'>;
const known = new Map<string, Inside>();

const count = (n: number, one: string): string => `${String(n)} ${one}${n === 1 ? '' : 's'}`;

/** What is in a folder of numbered `.vdb` or `.ply` files; why it cannot be read, in words, when it cannot. */
async function lookAtFolder(path: string, file: FileConvention): Promise<FolderCache | { readonly problem: string }> {
  if (!isAbsolute(path)) return { problem: `${path} is no whole path: write it from the root of the disk on.` };
  const names = await readdir(path).catch(() => null);
  if (!names) return { problem: `There is no folder ${path} that can be read.` };
  const series = new Map<string, Map<number, string>>();
  for (const name of names) {
    const [, stem, number, ending] = NUMBERED.exec(name) ?? [];
    if (stem === undefined || number === undefined || ending === undefined) continue;
    const own = `${stem}.${ending.toLowerCase()}`;
    series.set(own, (series.get(own) ?? new Map<number, string>()).set(Number(number), name));
  }
  // The longest; of two as long the first by name.
  const [longest] = [...series].sort(([a, x], [b, y]) => y.size - x.size || (a < b ? -1 : 1));
  if (!longest) return { problem: `There are no numbered .vdb or .ply files in ${path}.` };
  const numbered = longest[1];
  const numbers = [...numbered.keys()].sort((a, b) => a - b);
  const first = numbers[0] ?? 0;
  const last = numbers[numbers.length - 1] ?? 0;
  const every = Math.max(1, ...numbers.slice(1, 2).map((n) => n - first));
  const frames = { first, last, every };
  const gap = listFrames(frames).find((f) => !numbered.has(f));
  if (gap !== undefined) return { problem: `In ${path} frame ${String(gap)} is missing, between ${String(first)} and ${String(last)}.` };
  const extra = numbers.find((n) => (n - first) % every !== 0);
  if (extra !== undefined) return { problem: `In ${path} frames are ${count(every, 'number')} apart, but for frame ${String(extra)}.` };
  const files: Record<number, { file: string; bytes: number }> = {};
  const hash = createHash('sha256');
  for (const n of numbers) {
    const name = numbered.get(n) ?? '';
    const { size, mtimeMs } = await stat(join(path, name));
    files[n] = { file: name, bytes: size };
    hash.update(`${name} ${String(size)} ${String(mtimeMs)}\n`);
  }
  const key = hash.update(canonicalJson(file)).digest('hex');
  try {
    const inside = known.get(key) ?? (await inFirst(join(path, numbered.get(first) ?? ''), file));
    known.set(key, inside);
    return { key, gives: { ...inside, file, frames }, files };
  } catch (error) {
    if (!isRuddleError(error)) throw error;
    return { problem: error.message };
  }
}

/** Voxel size and channels of a file, or what its points have: no values are read. */
async function inFirst(path: string, { metresPerUnit }: FileConvention): Promise<Inside> {
  const bytes = await readFile(path);
  if (/\.ply$/i.test(path)) return { output: 'ply', voxelSizes: [], channels: plyProperties(bytes, path) };
  const { grids } = readVdb(bytes, path, () => false);
  const size = grids.find((g) => g.transform !== null)?.transform?.scale[0] ?? 1;
  return { output: 'vdb', voxelSizes: [size * metresPerUnit], channels: grids.map((g) => channelName(g.name)) };
}

/** What the folders hold that passes of a shot's sheets read, by path. Their files are read as the shot's own are written. */
export async function lookAtFolders(
  sheets: readonly Settings[],
  { metresPerUnit, timeScale }: Pick<ShotFields, 'metresPerUnit' | 'timeScale'>,
): Promise<Record<string, FolderFacts>> {
  const facts: Record<string, FolderFacts> = {};
  for (const sheet of sheets)
    for (const { input } of followersOf(sheet).flatMap(inputsOf)) {
      if (input.folder === null || facts[input.folder]) continue;
      const found = await lookAtFolder(input.folder, { metresPerUnit, timeScale, upAxis: sheet.scene.scale.upAxis });
      facts[input.folder] = 'problem' in found ? found : { key: found.key, gives: found.gives };
    }
  return facts;
}

/** The files of a folder that a pass reads. Throws `refused` when they are not those any more that it was planned with. */
export async function filesOfFolder(path: string, key: string, file: FileConvention): Promise<PassInputFiles> {
  const refuse = (message: string): RuddleError<'refused'> => new RuddleError('refused', message, { reason: 'input' });
  const found = await lookAtFolder(path, file);
  if ('problem' in found) throw refuse(found.problem);
  if (found.key !== key) throw refuse(`The files in ${path} have changed since this run was started: start it anew.`);
  const frames = Object.fromEntries(Object.entries(found.files).map(([frame, f]) => [frame, [{ ...f, checksum: null }]]));
  return { folder: path, gives: found.gives, frames };
}

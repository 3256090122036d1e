import { createHash } from 'node:crypto';
import { type Dir, closeSync, opendirSync, readSync, statSync } from 'node:fs';
import { isAbsolute, join } from 'node:path';
import { isRuddleError } from '#core/errors';
import { channelName, plyProperties, readVdb } from '#core/formats';
import { type CacheFacts, type FileConvention, listFrames } from '#core/pass';
import { canonicalJson } from '#core/shot';
import type { FolderCache, FolderProblem } from '#protocol';
import { MOST_BYTES, NotReadable, openRegular, readRegular } from '../regular-file';

const NUMBERED = /^(.*?)[._-]?(-?\d{1,15})\.(vdb|ply)$/i;
/** Names in a folder: of a cache of its own there are never as many. */
const MOST_NAMES = 100_000;
/** Where the head of a .ply file ends at the latest. */
const HEAD = 64 * 1024;
/** Channels of the first file, by what the folder is like: it is read once. */
type Inside = Pick<CacheFacts, 'output' | 'voxelSizes' | 'channels'>;
const known = new Map<string, Inside>();

const count = (n: number, one: string): string => `${String(n)} ${one}${n === 1 ? '' : 's'}`;

/** Names of numbered files by series; more than can be is said. */
function seriesIn(path: string): Map<string, Map<number, string>> | FolderProblem {
  let folder: Dir;
  try {
    folder = opendirSync(path);
  } catch {
    return { problem: `There is no folder ${path} that can be read.` };
  }
  try {
    const series = new Map<string, Map<number, string>>();
    let names = 0;
    for (let entry = folder.readSync(); entry !== null; entry = folder.readSync()) {
      if (++names > MOST_NAMES)
        return { problem: `${path} holds more than ${String(MOST_NAMES)} names: put the cache into a folder of its own.` };
      const [, stem, number, ending] = NUMBERED.exec(entry.name) ?? [];
      if (stem === undefined || number === undefined || ending === undefined) continue;
      const own = `${stem}.${ending.toLowerCase()}`;
      const frames = series.get(own) ?? new Map<number, string>();
      const other = frames.get(Number(number));
      if (other !== undefined)
        return { problem: `In ${path} ${[other, entry.name].sort().join(' and ')} are both frame ${String(Number(number))}.` };
      series.set(own, frames.set(Number(number), entry.name));
    }
    return series;
  } finally {
    folder.closeSync();
  }
}

/** The numbered `.vdb` or `.ply` files of a folder; or the reason why they cannot be read, in words. */
export function lookAtFolder(path: string, file: FileConvention, withFiles: boolean): FolderCache | FolderProblem {
  if (!isAbsolute(path)) return { problem: `${path} is no whole path: write it from the root of the disk on.` };
  const series = seriesIn(path);
  if ('problem' in series) return series;
  // The longest; of two as long the first by name.
  const [longest] = [...series].sort(([a, x], [b, y]) => y.size - x.size || (a < b ? -1 : 1));
  if (!longest) return { problem: `There are no numbered .vdb or .ply files in ${path}.` };
  const numbered = longest[1];
  const numbers = [...numbered.keys()].sort((a, b) => a - b);
  const first = numbers[0] ?? 0;
  const last = numbers[numbers.length - 1] ?? 0;
  const every = Math.max(1, ...numbers.slice(1, 2).map((n) => n - first));
  const extra = numbers.find((n) => (n - first) % every !== 0);
  if (extra !== undefined) return { problem: `In ${path} frames are ${count(every, 'number')} apart, but for frame ${String(extra)}.` };
  // Held against the names that are there: between two of them there can be any number of frames.
  const gap = numbers.find((n, at) => at > 0 && n !== (numbers[at - 1] ?? 0) + every);
  const missing = gap === undefined ? null : (numbers[numbers.indexOf(gap) - 1] ?? 0) + every;
  if (missing !== null) return { problem: `In ${path} frame ${String(missing)} is missing, between ${String(first)} and ${String(last)}.` };
  const files: Record<number, { file: string; bytes: number }> = {};
  const hash = createHash('sha256');
  for (const n of listFrames({ first, last, every })) {
    const name = numbered.get(n) ?? '';
    const found = statSync(join(path, name), { throwIfNoEntry: false });
    const why = !found ? 'is a link that leads nowhere' : notAFile(found);
    if (!found || why !== null) return { problem: `In ${path} ${name} ${why ?? ''}. Remove it, or name another folder.` };
    files[n] = { file: name, bytes: found.size };
    hash.update(`${name} ${String(found.size)} ${String(found.mtimeMs)}\n`);
  }
  const key = hash.update(canonicalJson(file)).digest('hex');
  const name = numbered.get(first) ?? '';
  try {
    const inside = known.get(key) ?? inFirst(join(path, name), file);
    known.set(key, inside);
    return { key, gives: { ...inside, file, frames: { first, last, every } }, files: withFiles ? files : null };
  } catch (error) {
    if (error instanceof NotReadable) return { problem: `In ${path} ${name} ${error.message}.` };
    if (!isRuddleError(error)) throw error;
    return { problem: error.message };
  }
}

function notAFile(found: { isFile(): boolean; isDirectory(): boolean; readonly size: number }): string | null {
  if (found.isDirectory()) return 'is a folder';
  if (!found.isFile()) return 'is no regular file';
  return found.size > MOST_BYTES ? `is too large: ${(found.size / 1e9).toFixed(1)} GB, and 2.1 GB can be read` : null;
}

/** Voxel size and channels of a file, or its points' properties: no values are read. */
function inFirst(path: string, { metresPerUnit }: FileConvention): Inside {
  if (/\.ply$/i.test(path)) return { output: 'ply', voxelSizes: [], channels: plyProperties(headOf(path), path) };
  const { grids } = readVdb(readRegular(path), path, () => false);
  const size = grids.find((g) => g.transform !== null)?.transform?.scale[0] ?? 1;
  return { output: 'vdb', voxelSizes: [size * metresPerUnit], channels: grids.map((g) => channelName(g.name)) };
}

function headOf(path: string): Buffer {
  const { handle, bytes } = openRegular(path);
  try {
    const head = Buffer.alloc(Math.min(bytes, HEAD));
    return head.subarray(0, readSync(handle, head, 0, head.length, 0));
  } finally {
    closeSync(handle);
  }
}

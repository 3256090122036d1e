import { createHash } from 'node:crypto';
import { closeSync, openSync, readSync, statSync, writeFileSync, writeSync } from 'node:fs';
import { join } from 'node:path';
import { Zip, ZipDeflate, strFromU8, strToU8 } from 'fflate';
import { RuddleError } from '#core/errors';
import { BUNDLE_SHOT, bundleGeometryHash, bundleGeometryName } from '#core/formats';
import { decodeGeometry } from '#core/mesh';
import type { ImportResults } from '#protocol';
import { unpackZip } from './unpack';

/** No bundle unpacks to more: a small file could claim to hold a disk. */
const MOST_BYTES = 2 ** 31;
const CHUNK = 1024 * 1024;
/** A fixed date: the same shot gives the same bytes. */
const DATE = '1980-06-01';

/** Throws `file-invalid` when it is no bundle, or when a geometry is not what its name says. */
export function unpackBundle(path: string, file: string, folder: string, progress: (part: number) => void): ImportResults['unpack'] {
  const refuse = (reason: string): never => {
    throw new RuddleError('file-invalid', `${file} is not a shot bundle: ${reason}.`, { file, reason });
  };
  const size = statSync(path).size;
  let shot: string | null = null;
  const hashes: string[] = [];
  unpackZip(path, file, {
    wanted: (name) => name === BUNDLE_SHOT || bundleGeometryHash(name) !== null,
    most: MOST_BYTES,
    progress: (bytes) => {
      progress(bytes / size);
    },
    take: (name, bytes) => {
      const hash = bundleGeometryHash(name);
      if (hash === null) {
        shot = strFromU8(bytes);
        return;
      }
      if (createHash('sha256').update(bytes).digest('hex') !== hash) refuse(`${name} is damaged`);
      // Its fingerprint says that it came whole, not that Ruddle wrote it.
      decodeGeometry(bytes, `${file}: ${name}`);
      writeFileSync(join(folder, hash), bytes);
      hashes.push(hash);
    },
  });
  return shot === null ? refuse(`it has no ${BUNDLE_SHOT}`) : { shot, hashes };
}

/** Writes a bundle; the same shot gives the same bytes. */
export function packBundle(
  shot: string,
  geometry: Readonly<Record<string, string>>,
  output: string,
  progress: (part: number) => void,
): ImportResults['pack'] {
  const handle = openSync(output, 'w');
  let bytes = 0;
  try {
    const zip = new Zip((error, data) => {
      if (error) throw error;
      writeSync(handle, data);
      bytes += data.length;
    });
    const add = (name: string): ZipDeflate => {
      const entry = new ZipDeflate(name, { level: 6 });
      entry.mtime = DATE;
      zip.add(entry);
      return entry;
    };
    add(BUNDLE_SHOT).push(strToU8(shot), true);
    const all = Object.entries(geometry).sort(([a], [b]) => (a < b ? -1 : 1));
    for (const [n, [hash, path]] of all.entries()) {
      progress(n / all.length);
      pushFile(add(bundleGeometryName(hash)), path);
    }
    zip.end();
  } finally {
    closeSync(handle);
  }
  return { bytes };
}

function pushFile(entry: ZipDeflate, path: string): void {
  const handle = openSync(path, 'r');
  try {
    for (;;) {
      const chunk = new Uint8Array(CHUNK);
      const length = readSync(handle, chunk, 0, CHUNK, null);
      entry.push(chunk.subarray(0, length), length < CHUNK);
      if (length < CHUNK) return;
    }
  } finally {
    closeSync(handle);
  }
}

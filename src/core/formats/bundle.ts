import { sha256 } from '@noble/hashes/sha2.js';
import { bytesToHex } from '@noble/hashes/utils.js';
import { strFromU8, strToU8, unzipSync, zipSync } from 'fflate';
import { RuddleError } from '#core/errors';

/** A shot file with the imported geometry that it needs: a .zip of `shot.json` and `geometry/<fingerprint>.geometry`. */
export interface Bundle {
  readonly shot: string;
  readonly geometry: ReadonlyMap<string, Uint8Array<ArrayBuffer>>;
}

const SHOT = 'shot.json';
const GEOMETRY = /^geometry\/([0-9a-f]{64})\.geometry$/;
/** No bundle unpacks to more: a small file could claim to hold a disk. */
const MOST_BYTES = 2 ** 31;

export function packBundle({ shot, geometry }: Bundle): Uint8Array<ArrayBuffer> {
  const files: Record<string, Uint8Array> = { [SHOT]: strToU8(shot) };
  for (const [hash, bytes] of geometry) files[`geometry/${hash}.geometry`] = bytes;
  // A fixed date: the same shot gives the same bytes.
  return zipSync(files, { level: 6, mtime: '1980-06-01' });
}

/** Throws `file-invalid` when it is no bundle, or when a geometry is not what its name says. */
export function unpackBundle(bytes: Uint8Array, file: string): Bundle {
  const refuse = (reason: string, cause?: unknown): never => {
    throw new RuddleError('file-invalid', `${file} is not a shot bundle: ${reason}.`, { file, reason }, cause);
  };
  let files: Record<string, Uint8Array>;
  let total = 0;
  try {
    files = unzipSync(bytes, {
      filter: ({ name, originalSize }) => {
        total += originalSize;
        if (total > MOST_BYTES) throw new Error('it would unpack to more than 2 GB');
        return name === SHOT || GEOMETRY.test(name);
      },
    });
  } catch (cause) {
    return refuse(cause instanceof Error ? cause.message : 'it is no .zip', cause);
  }
  const shot = files[SHOT];
  if (!shot) return refuse(`it has no ${SHOT}`);
  const geometry = new Map<string, Uint8Array<ArrayBuffer>>();
  for (const [name, data] of Object.entries(files)) {
    const hash = GEOMETRY.exec(name)?.[1];
    if (hash === undefined) continue;
    if (bytesToHex(sha256(data)) !== hash) refuse(`${name} is damaged`);
    geometry.set(hash, data as Uint8Array<ArrayBuffer>);
  }
  return { shot: strFromU8(shot), geometry };
}

export const isZip = (bytes: Uint8Array): boolean => bytes[0] === 0x50 && bytes[1] === 0x4b;

import { createHash } from 'node:crypto';
import { closeSync, readSync } from 'node:fs';
import { openRegular } from '../regular-file';

/** What a thread holds of a file at once, bytes. */
const CHUNK = 1024 * 1024;

/** What a file is by its bytes. */
export interface FileSum {
  readonly bytes: number;
  /** SHA-256, hexadecimal. */
  readonly checksum: string;
}

const chunk = Buffer.allocUnsafeSlow(CHUNK);

/** Reads a regular file to its end. Throws `NotReadable`, or what the system says. */
export function sumFile(path: string): FileSum {
  const { handle } = openRegular(path);
  try {
    const hash = createHash('sha256');
    let bytes = 0;
    for (;;) {
      const n = readSync(handle, chunk, 0, CHUNK, bytes);
      if (n === 0) return { bytes, checksum: hash.digest('hex') };
      hash.update(chunk.subarray(0, n));
      bytes += n;
    }
  } finally {
    closeSync(handle);
  }
}

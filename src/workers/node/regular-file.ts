import { closeSync, constants, fstatSync, openSync, readSync } from 'node:fs';

/** Node holds no larger file in one buffer. */
export const MOST_BYTES = 2 ** 31 - 1;

/** Why a path is no file that can be read, in words that follow its name. */
export class NotReadable extends Error {}

/** An open regular file and its size. Never waits: a FIFO, a device or a folder is told by its kind, not read. Throws `NotReadable`. */
export function openRegular(path: string): { readonly handle: number; readonly bytes: number } {
  let handle: number;
  try {
    // Without O_NONBLOCK opening a FIFO waits for a writer that may never come.
    handle = openSync(path, constants.O_RDONLY | constants.O_NONBLOCK);
  } catch (cause) {
    throw new NotReadable(`cannot be read${reasonOf(cause)}`, { cause });
  }
  const kind = fstatSync(handle);
  if (kind.isFile()) return { handle, bytes: kind.size };
  closeSync(handle);
  throw new NotReadable(kind.isDirectory() ? 'is a folder' : 'is no regular file');
}

/** All bytes of a regular file of at most `most`; where `exactly` is given it has as many. Throws `NotReadable`. */
export function readRegular(
  path: string,
  { most = MOST_BYTES, exactly }: { readonly most?: number; readonly exactly?: number } = {},
): Buffer {
  const { handle, bytes } = openRegular(path);
  try {
    if (exactly !== undefined && bytes !== exactly) throw new NotReadable(`has ${String(bytes)} of ${String(exactly)} bytes`);
    if (bytes > most) throw new NotReadable(`is too large: ${(bytes / 1e9).toFixed(1)} GB, and ${(most / 1e9).toFixed(1)} GB can be read`);
    const into = Buffer.allocUnsafeSlow(bytes);
    for (let at = 0; at < bytes;) {
      const n = readSync(handle, into, at, bytes - at, at);
      if (n === 0) throw new NotReadable('became shorter while it was read');
      at += n;
    }
    return into;
  } catch (cause) {
    throw cause instanceof NotReadable ? cause : new NotReadable(`cannot be read${reasonOf(cause)}`, { cause });
  } finally {
    closeSync(handle);
  }
}

function reasonOf(cause: unknown): string {
  const code = cause instanceof Error && 'code' in cause ? String(cause.code) : '';
  const words: Readonly<Record<string, string>> = {
    ENOENT: ': it does not exist, or is a link that leads nowhere',
    EACCES: ': it may not be read',
    ELOOP: ': its links lead in a circle',
    ENXIO: ': it is no regular file',
  };
  return words[code] ?? (code === '' ? '' : ` (${code})`);
}

import { createHash } from 'node:crypto';
import { readFile, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { RuddleError } from '#core/errors';
import { Checking, Unreadable } from '#workers/node';
import type { WrittenFile } from './run-record';

export type Damage = 'damaged' | 'missing';
/** `unreadable`: the system refuses to read it now; its contents are not known. */
export type Look = Damage | 'unreadable' | null;

const checking = new Checking();

const GONE = new Set<unknown>(['ENOENT', 'ENOTDIR']);
/** Whether an error says that there is no such file; any other says only that it cannot be read now. */
const isGone = (error: unknown): boolean => error instanceof Error && 'code' in error && GONE.has(error.code);

/** Whether a file is there in its full size: quick enough to be asked whenever a run is looked at. */
export async function lookAtSize(folder: string, file: Pick<WrittenFile, 'file' | 'bytes'>): Promise<Look> {
  try {
    const found = await stat(join(folder, file.file));
    return found.isFile() && found.size === file.bytes ? null : 'damaged';
  } catch (error) {
    return isGone(error) ? 'missing' : 'unreadable';
  }
}

/** Whether a file's bytes are those that were written: reads all of it, on a thread of its own. */
export async function lookAtFile(folder: string, file: WrittenFile): Promise<Look> {
  const size = await lookAtSize(folder, file);
  if (size !== null) return size;
  try {
    return (await checking.sum(join(folder, file.file))).checksum === file.checksum ? null : 'damaged';
  } catch (error) {
    if (error instanceof Unreadable) return 'unreadable';
    throw error;
  }
}

/** The bytes of a file, held against what was written. Throws `file-invalid` when it is not that any more. */
export async function readWritten(folder: string, { file, bytes, checksum }: WrittenFile): Promise<Buffer> {
  const refuse = (reason: string, cause?: unknown): RuddleError =>
    new RuddleError('file-invalid', `${join(folder, file)} ${reason}.`, { file, reason }, cause);
  // Sizes first: a file of another size is not ours, and a FIFO would be waited for.
  if ((await lookAtSize(folder, { file, bytes })) === 'damaged') {
    const size = (await stat(join(folder, file)).catch(() => null))?.size ?? 0;
    throw refuse(`has ${String(size)} of ${String(bytes)} bytes`);
  }
  const found = await readFile(join(folder, file)).catch((cause: unknown) => {
    throw refuse('cannot be read', cause);
  });
  if (found.length !== bytes) throw refuse(`has ${String(found.length)} of ${String(bytes)} bytes`);
  if (createHash('sha256').update(found).digest('hex') !== checksum) throw refuse('is not what was written');
  return found;
}

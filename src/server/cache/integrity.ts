import { createHash } from 'node:crypto';
import { createReadStream } from 'node:fs';
import { readFile, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { RuddleError } from '#core/errors';
import type { WrittenFile } from './run-record';

export type Damage = 'damaged' | 'missing';

/** Whether a file is there in its full size: quick enough to be asked whenever a run is looked at. */
export async function lookAtSize(folder: string, file: Pick<WrittenFile, 'file' | 'bytes'>): Promise<Damage | null> {
  try {
    const found = await stat(join(folder, file.file));
    return found.isFile() && found.size === file.bytes ? null : 'damaged';
  } catch {
    return 'missing';
  }
}

/** Whether a file holds what was written: reads all of it. */
export async function lookAtFile(folder: string, file: WrittenFile): Promise<Damage | null> {
  const size = await lookAtSize(folder, file);
  if (size !== null) return size;
  const hash = createHash('sha256');
  try {
    for await (const chunk of createReadStream(join(folder, file.file))) hash.update(chunk as Buffer);
  } catch {
    return 'damaged';
  }
  return hash.digest('hex') === file.checksum ? null : 'damaged';
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

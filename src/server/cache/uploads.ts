import { randomBytes } from 'node:crypto';
import { open, rm } from 'node:fs/promises';
import { createReadStream } from 'node:fs';
import { join } from 'node:path';
import { Readable } from 'node:stream';
import { makeFolder } from './files';
import { type Incoming, takeIn } from './incoming';

/** Where files lie while they are taken in; what a crash leaves there is removed at the next start. */
export const uploadsFolder = (data: string): string => join(data, 'uploads');

/** A place of its own for one import, removed when `body` ends, however it ends. */
export async function withWorkspace<T>(data: string, body: (folder: string) => Promise<T>): Promise<T> {
  const folder = join(uploadsFolder(data), randomBytes(9).toString('hex'));
  await makeFolder(folder);
  try {
    return await body(folder);
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}

/** Writes what arrives to a file: nothing is held in memory. Throws `refused` when it is more than `most` bytes. */
export async function receive(incoming: Incoming, path: string, most: number): Promise<number> {
  const file = await open(path, 'w');
  try {
    return await takeIn(incoming, most, async (chunk) => {
      await file.write(chunk);
    });
  } finally {
    await file.close();
  }
}

/** A file as the body of an answer; `onEnd` when it has been sent, or nobody wants it any more. */
export function sendFile(path: string, onEnd: () => void = () => undefined): ReadableStream<Uint8Array> {
  const stream = createReadStream(path);
  stream.once('close', onEnd);
  return Readable.toWeb(stream) as ReadableStream<Uint8Array>;
}

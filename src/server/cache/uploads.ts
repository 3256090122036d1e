import { randomBytes } from 'node:crypto';
import { open, rm } from 'node:fs/promises';
import { createReadStream } from 'node:fs';
import { join } from 'node:path';
import { makeFolder } from './files';
import { type Incoming, takeIn } from './incoming';

/** What of a file is sent at once, bytes. */
const CHUNK = 256 * 1024;

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

/** Resolves when the receiver has taken the bytes that were sent; at once where that cannot be told. */
export type Drained = () => Promise<void>;

/** A file as the body of an answer, as fast as the receiver takes it: one chunk is in memory. `onEnd` when all is sent, or the receiver has left. */
export function sendFile(path: string, drained: Drained, onEnd: () => void = () => undefined): ReadableStream<Uint8Array<ArrayBuffer>> {
  const stream = createReadStream(path, { highWaterMark: CHUNK });
  stream.once('close', onEnd);
  // Heard by whoever reads; where nobody does, nothing is lost.
  stream.on('error', () => undefined);
  const chunks = stream[Symbol.asyncIterator]() as AsyncIterator<Uint8Array<ArrayBuffer>, undefined>;
  return new ReadableStream<Uint8Array<ArrayBuffer>>(
    {
      async pull(controller) {
        await drained();
        const next = await chunks.next();
        if (next.done === true) controller.close();
        else controller.enqueue(next.value);
      },
      cancel() {
        stream.destroy();
      },
    },
    { highWaterMark: 0 },
  );
}

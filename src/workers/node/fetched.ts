import { RuddleError } from '#core/errors';
import type { PassFetch } from '#protocol';
import type { Reading } from './reading';
import { NotReadable } from './regular-file';

/** Bytes of a reason that are told. */
const REASON = 2000;
const HEAD = 8;

/** In a pass worker: asks for a file and waits for it. The wait is ended by the thread's end too, which no read of a file is. */
export function fetchBy(ask: (message: PassFetch) => void): (path: string, bytes: number) => Buffer {
  return (path, bytes) => {
    const into = new SharedArrayBuffer(bytes);
    const told = new SharedArrayBuffer(HEAD + REASON);
    const word = new Int32Array(told, 0, 2);
    ask({ kind: 'fetch', path, into, told });
    Atomics.wait(word, 0, 0);
    // Copies: text decoders and others refuse shared memory.
    if (Atomics.load(word, 0) === 1) return Buffer.from(new Uint8Array(into));
    throw new NotReadable(Buffer.from(new Uint8Array(told, HEAD, word[1])).toString('utf8'));
  };
}

/** On the other side: lets the reading process fill the file in, and wakes the worker. */
export async function answerFetch(reading: Reading, { path, into, told }: PassFetch): Promise<void> {
  const word = new Int32Array(told, 0, 2);
  try {
    await reading.fetch(path, new Uint8Array(into));
    Atomics.store(word, 0, 1);
  } catch (error) {
    const why =
      error instanceof RuddleError && error.tag === 'file-invalid'
        ? String((error.fields as { reason?: unknown }).reason)
        : 'cannot be read';
    word[1] = new TextEncoder().encodeInto(why, new Uint8Array(REASON)).written;
    new Uint8Array(told, HEAD).set(new TextEncoder().encode(why).subarray(0, word[1]));
    Atomics.store(word, 0, 2);
  }
  Atomics.notify(word, 0);
}

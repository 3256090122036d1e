import { closeSync, readSync } from 'node:fs';
import { RuddleError, toErrorData } from '#core/errors';
import type { ReadingAnswer, ReadingAsk } from '#protocol';
import { NotReadable, openRegular } from '../regular-file';
import { lookAtFolder } from './look';

const CHUNK = 1 << 20;

/** The body of a reading process: answers one question; a file's bytes go to `write` before the answer. */
export async function readingMain(ask: ReadingAsk, write: (bytes: Uint8Array) => Promise<void>): Promise<ReadingAnswer> {
  try {
    switch (ask.kind) {
      case 'look':
        return { kind: 'looked', found: lookAtFolder(ask.path, ask.file, ask.files) };
      case 'fetch':
        await send(ask.path, ask.bytes, write);
        return { kind: 'sent' };
    }
  } catch (cause) {
    const error =
      cause instanceof NotReadable ? new RuddleError('file-invalid', cause.message, { file: '', reason: cause.message }) : cause;
    return { kind: 'failed', error: toErrorData(error) };
  }
}

async function send(path: string, bytes: number, write: (bytes: Uint8Array) => Promise<void>): Promise<void> {
  const file = openRegular(path);
  try {
    if (file.bytes !== bytes) throw new NotReadable(`has ${String(file.bytes)} of ${String(bytes)} bytes`);
    for (let at = 0; at < bytes;) {
      const chunk = Buffer.allocUnsafeSlow(Math.min(CHUNK, bytes - at));
      const n = readSync(file.handle, chunk, 0, chunk.length, at);
      if (n === 0) throw new NotReadable('became shorter while it was read');
      await write(chunk.subarray(0, n));
      at += n;
    }
  } finally {
    closeSync(file.handle);
  }
}

import { RuddleError } from '#core/errors';
import { formatBytes } from '#core/units';

/** A body as it comes in. */
export interface Incoming {
  readonly stream: ReadableStream<Uint8Array> | null;
  /** What its header says of its length; null: nothing. */
  readonly announced: number | null;
}

/**
 * Hands over what arrives, piece by piece, and stops at `most` bytes: at once when its header says so already, else as soon as there are more. What has not
 * been read then is left unread, not cut off: a connection that breaks while a client still sends would take the answer with it. Throws `refused`.
 */
export async function takeIn(
  { stream, announced }: Incoming,
  most: number,
  take: (chunk: Uint8Array) => Promise<void> | void,
): Promise<number> {
  const tooLarge = (): RuddleError => new RuddleError('refused', `This is larger than ${formatBytes(most)}.`, { reason: 'too large' });
  if (announced !== null && announced > most) throw tooLarge();
  const reader = stream?.getReader();
  let bytes = 0;
  try {
    for (;;) {
      const next = await reader?.read();
      if (!next || next.done) return bytes;
      bytes += next.value.length;
      if (bytes > most) throw tooLarge();
      await take(next.value);
    }
  } finally {
    reader?.releaseLock();
  }
}

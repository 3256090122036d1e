import { closeSync, readSync } from 'node:fs';
import { Unzip, UnzipInflate, UnzipPassThrough } from 'fflate';
import { RuddleError } from '#core/errors';
import { formatSeconds } from '#core/units';
import { NotReadable, openRegular } from '../regular-file';

/** What is taken of a .zip, and how much of it. */
export interface UnpackOptions {
  /** Files that are wanted, by name. */
  readonly wanted: (name: string) => boolean;
  /** A wanted file, whole. It is not kept: whoever wants more of it than this call keeps it. */
  readonly take: (name: string, bytes: Uint8Array<ArrayBuffer>) => void;
  /** Bytes that all wanted files may come to. */
  readonly most: number;
  readonly progress?: (part: number) => void;
  /** Processor time that it may take, seconds. */
  readonly seconds?: number;
}

/**
 * Processor time that a .zip may take, seconds, by its size. A megabyte that unpacks to two gigabytes took 38 s; one of real geometry (2 to 20 times its size) takes less than
 * half a second.
 */
export const secondsOf = (bytes: number): number => 8 + bytes / 1e6;

const processorSeconds = (): number => {
  const { user, system } = process.cpuUsage();
  return (user + system) / 1e6;
};

const CHUNK = 256 * 1024;

/**
 * Unpacks the wanted files of a .zip on the disk, one after the other, and counts while it does: what a .zip claims to hold says nothing (a megabyte can
 * unpack to a gigabyte). Throws `file-invalid`.
 */
export function unpackZip(path: string, file: string, { wanted, take, most, progress, seconds }: UnpackOptions): void {
  const refuse = (reason: string, cause?: unknown): never => {
    throw new RuddleError('file-invalid', `${file}: ${reason}.`, { file, reason }, cause);
  };
  let total = 0;
  let found = false;
  let open = 0;
  let budget = Infinity;
  const began = processorSeconds();
  const unzip = new Unzip((entry) => {
    found = true;
    if (!wanted(entry.name)) return;
    const parts: Uint8Array[] = [];
    open++;
    entry.ondata = (error, data, final) => {
      if (error) throw error;
      total += data.length;
      if (processorSeconds() - began > budget)
        refuse(`unpacking it takes more than ${formatSeconds(budget)} of a core for its size; pack it anew`);
      if (total > most) refuse(`it unpacks to more than ${String(Math.round(most / 1e6))} MB`);
      parts.push(data);
      if (!final) return;
      open--;
      take(entry.name, joined(parts));
      parts.length = 0;
    };
    entry.start();
  });
  unzip.register(UnzipInflate);
  unzip.register(UnzipPassThrough);
  let handle: number | null = null;
  try {
    const opened = openRegular(path);
    handle = opened.handle;
    budget = seconds ?? secondsOf(opened.bytes);
    const chunk = new Uint8Array(CHUNK);
    const first = readSync(handle, chunk, 0, CHUNK, 0);
    if (first < 4 || chunk[0] !== 0x50 || chunk[1] !== 0x4b) refuse('it is no .zip');
    let at = 0;
    for (;;) {
      const length = readSync(handle, chunk, 0, CHUNK, at);
      at += length;
      // A copy: the reader keeps what it has not used yet.
      unzip.push(chunk.slice(0, length), length < CHUNK);
      progress?.(at);
      if (length < CHUNK) break;
    }
  } catch (cause) {
    if (cause instanceof RuddleError) throw cause;
    if (cause instanceof NotReadable) refuse(`it ${cause.message}`, cause);
    refuse(`it is a damaged .zip (${cause instanceof Error ? cause.message : String(cause)})`, cause);
  } finally {
    if (handle !== null) closeSync(handle);
  }
  if (!found) refuse('it is a damaged .zip (it holds no file)');
  if (open > 0) refuse('it is a damaged .zip (it ends too early)');
}

function joined(parts: readonly Uint8Array[]): Uint8Array<ArrayBuffer> {
  const out = new Uint8Array(parts.reduce((n, p) => n + p.length, 0));
  let at = 0;
  for (const p of parts) {
    out.set(p, at);
    at += p.length;
  }
  return out;
}

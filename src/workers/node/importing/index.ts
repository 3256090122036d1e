import { fork } from 'node:child_process';
import { mkdtemp, readFile, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { RuddleError, fromErrorData } from '#core/errors';
import { formatBytes, formatSeconds } from '#core/units';
import type { GeometryInfo, ImportJob, ImportMessage, ImportResults } from '#protocol';
import importUrl from './import.node.ts?nodeworker';

export { pngOf } from './read-picture';

export interface ImportOptions {
  /** Ends it: the client left, or cancelled. */
  readonly signal?: AbortSignal;
  readonly onProgress?: (stage: string, part: number | null) => void;
  /** Resident memory that it may hold, bytes. */
  readonly memoryBytes?: number;
  readonly seconds?: number;
}

/** Five million triangles with an animation take about half of it. */
const MEMORY = 4 * 1024 ** 3;
const SECONDS = 600;
/** V8's own heap, MB; the rest is for buffers. */
const HEAP = 3072;

/**
 * Does work on a file from outside in a process of its own, with limits of memory and time: a file that is made to do harm, or is only too large, ends that
 * process and nothing else. Rejects with `file-invalid`, or `cancelled` when the signal is heard.
 */
export function runImport<J extends ImportJob>(job: J, options: ImportOptions = {}): Promise<ImportResults[J['kind']]> {
  const { signal, onProgress, memoryBytes = MEMORY, seconds = SECONDS } = options;
  const cancelled = (): RuddleError => new RuddleError('cancelled', 'The import was cancelled.', {});
  const refusal = (reason: string): RuddleError => {
    const file = job.kind === 'pack' ? 'the bundle' : job.file;
    return new RuddleError('file-invalid', `${file}: ${reason}.`, { file, reason });
  };
  if (signal?.aborted) return Promise.reject(cancelled());
  return new Promise((resolve, reject) => {
    const child = fork(fileURLToPath(importUrl), [String(memoryBytes)], {
      execArgv: [`--max-old-space-size=${String(HEAP)}`],
      // What a library prints about a file is nothing for the server's own output; V8's last words neither.
      stdio: ['ignore', 'ignore', 'ignore', 'ipc'],
    });
    let why: RuddleError | null = null;
    let answered = false;
    const end = (reason: RuddleError): void => {
      why ??= reason;
      child.kill('SIGKILL');
    };
    const timer = setTimeout(() => {
      end(refusal(`it was given up after ${formatSeconds(seconds)}; simplify it in the program that it comes from`));
    }, seconds * 1000);
    const abort = (): void => {
      end(cancelled());
    };
    signal?.addEventListener('abort', abort);
    child.on('message', (message: ImportMessage) => {
      switch (message.kind) {
        case 'progress':
          onProgress?.(message.stage, message.part);
          return;
        case 'done':
          answered = true;
          child.disconnect();
          resolve(message.result as ImportResults[J['kind']]);
          return;
        case 'failed':
          answered = true;
          child.disconnect();
          reject(fromErrorData(message.error));
          return;
      }
    });
    child.on('error', (cause) => {
      reject(new RuddleError('internal', `The import could not be started: ${cause.message}`, { where: 'import' }, cause));
    });
    child.on('exit', (code, ended) => {
      clearTimeout(timer);
      signal?.removeEventListener('abort', abort);
      if (answered) return;
      // Killed by its own watch, by V8 when its heap is full, or by the system.
      const memory = ended === 'SIGKILL' || ended === 'SIGABRT' || ended === 'SIGTRAP' || code === 134;
      reject(
        why ??
          (memory
            ? refusal(`it needs more than ${formatBytes(memoryBytes)} of memory; simplify it in the program that it comes from`)
            : new RuddleError('internal', `The import ended with ${ended ?? String(code)}.`, { where: 'import' })),
      );
    });
    child.send(job);
  });
}

/** A file on the disk as geometry in memory: what the command line does with it. */
export async function importGeometry(
  input: string,
  file: string,
  options: ImportOptions = {},
): Promise<{ readonly info: GeometryInfo; readonly bytes: Buffer }> {
  const folder = await mkdtemp(join(tmpdir(), 'ruddle-import-'));
  const output = join(folder, 'geometry');
  try {
    const info = await runImport({ kind: 'geometry', input, file, output }, options);
    return { info, bytes: await readFile(output) };
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}

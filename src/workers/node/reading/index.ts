import { type ChildProcess, fork } from 'node:child_process';
import { fileURLToPath } from 'node:url';
import { RuddleError, fromErrorData } from '#core/errors';
import type { FileConvention } from '#core/pass';
import { formatBytes, formatSeconds } from '#core/units';
import type { FolderCache, FolderProblem, ReadingAnswer, ReadingAsk } from '#protocol';
import readingUrl from './reading.node.ts?nodeworker';

/** Resident memory of the process: the largest file that can be read, and its tables. */
const MEMORY = 3 * 1024 ** 3;
/** Heads of a folder's files are looked at in so long, seconds: a disk that answers at all does. */
const LOOK_SECONDS = 10;
/** A file whose bytes stop coming for so long is given up, seconds. */
const SILENCE_SECONDS = 30;
/** Unasked for so long it ends, milliseconds; the next question starts another. */
const IDLE = 20_000;
/** What gave no answer is not asked again for so long, milliseconds: each time would be waited for. */
const REMEMBERED = 30_000;

export interface ReadingLimits {
  readonly lookSeconds?: number;
  readonly silenceSeconds?: number;
  readonly memoryBytes?: number;
}

/**
 * Reads folders and files from outside in a process of its own: a disk that hangs, a FIFO, a file without end stop that process, which is then killed, and never a thread
 * of this one. One question at a time, in the order asked.
 */
export class Reading {
  #child: ChildProcess | null = null;
  #turn: Promise<unknown> = Promise.resolve();
  #idle: NodeJS.Timeout | null = null;
  #closed = false;
  readonly #silent = new Map<string, { readonly until: number; readonly problem: string }>();

  constructor(private readonly limits: ReadingLimits = {}) {}

  /** What a folder of numbered files holds, or why it cannot be read. */
  async look(path: string, file: FileConvention, files: boolean): Promise<FolderCache | FolderProblem> {
    const before = this.#silent.get(path);
    if (before && before.until > Date.now()) return { problem: before.problem };
    const seconds = this.limits.lookSeconds ?? LOOK_SECONDS;
    try {
      const answer = await this.#ask({ kind: 'look', path, file, files }, { path, seconds, into: null });
      return answer.kind === 'looked' ? answer.found : { problem: `${path} cannot be read.` };
    } catch (error) {
      if (!(error instanceof RuddleError) || error.tag !== 'file-invalid') throw error;
      this.#silent.set(path, { until: Date.now() + REMEMBERED, problem: error.message });
      return { problem: error.message };
    }
  }

  /** Fills `into` with a file that has exactly as many bytes. Throws `file-invalid`; `cancelled` when it is closed meanwhile. */
  async fetch(path: string, into: Uint8Array): Promise<void> {
    const seconds = this.limits.silenceSeconds ?? SILENCE_SECONDS;
    await this.#ask({ kind: 'fetch', path, bytes: into.length }, { path, seconds, into });
  }

  /** Ends the process at once, in the middle of a read too. */
  close(): void {
    this.#closed = true;
    this.#end();
  }

  #end(): void {
    if (this.#idle) clearTimeout(this.#idle);
    this.#child?.kill('SIGKILL');
    this.#child = null;
  }

  #ask(ask: ReadingAsk, wait: Wait): Promise<ReadingAnswer> {
    const mine = this.#turn.then(() => {
      if (this.#closed) throw new RuddleError('cancelled', 'Reading was cancelled.', {});
      return this.#answer(ask, wait);
    });
    this.#turn = mine.catch(() => undefined);
    return mine;
  }

  #answer(ask: ReadingAsk, { path, seconds, into }: Wait): Promise<ReadingAnswer> {
    if (this.#idle) clearTimeout(this.#idle);
    const memory = this.limits.memoryBytes ?? MEMORY;
    const child = (this.#child ??= fork(fileURLToPath(readingUrl), [String(memory)], { stdio: ['ignore', 'pipe', 'ignore', 'ipc'] }));
    held(child, true);
    return new Promise((resolve, reject) => {
      let got = 0;
      let sent = false;
      let timer: NodeJS.Timeout | null = null;
      const refuse = (reason: string, cause?: unknown): RuddleError =>
        new RuddleError('file-invalid', `${path} ${reason}.`, { file: path, reason }, cause);
      const over = (): void => {
        if (timer) clearTimeout(timer);
        child.off('message', hear).off('exit', lost).off('error', broken);
        child.stdout?.off('data', take);
        held(child, false);
        this.#idle = setTimeout(() => {
          this.#end();
        }, IDLE).unref();
      };
      const fail = (error: RuddleError): void => {
        over();
        // Its late bytes would be taken for the answer to the next question.
        this.#end();
        reject(error);
      };
      const patience = (): void => {
        if (timer) clearTimeout(timer);
        timer = setTimeout(() => {
          fail(refuse(`gave no answer in ${formatSeconds(seconds)}: look whether its disk is there`));
        }, seconds * 1000);
      };
      const whole = (answer: ReadingAnswer): void => {
        over();
        resolve(answer);
      };
      const take = (chunk: Buffer): void => {
        if (!into || got + chunk.length > into.length) {
          fail(refuse('gave more than it has'));
          return;
        }
        into.set(chunk, got);
        got += chunk.length;
        patience();
        if (sent && got === into.length) whole({ kind: 'sent' });
      };
      const hear = (answer: ReadingAnswer): void => {
        if (answer.kind === 'failed') {
          const { tag, message, cause } = fromErrorData(answer.error);
          fail(tag === 'file-invalid' ? refuse(message, cause) : refuse(`cannot be read: ${message}`, cause));
        } else if (answer.kind === 'sent' && got < (into?.length ?? 0)) sent = true;
        else whole(answer);
      };
      const lost = (_code: number | null, signal: NodeJS.Signals | null): void => {
        if (this.#child === child) this.#child = null;
        if (this.#closed) fail(new RuddleError('cancelled', 'Reading was cancelled.', {}));
        else
          fail(
            refuse(
              signal === 'SIGKILL' ? `needs more than ${formatBytes(memory)} of memory` : 'cannot be read: the process that reads it ended',
            ),
          );
      };
      const broken = (cause: Error): void => {
        fail(refuse(`cannot be read: ${cause.message}`, cause));
      };
      child.on('message', hear).on('exit', lost).on('error', broken);
      child.stdout?.on('data', take);
      patience();
      child.send(ask);
    });
  }
}

interface Wait {
  readonly path: string;
  readonly seconds: number;
  readonly into: Uint8Array | null;
}

/** Whether this process stays for its sake. */
function held(child: ChildProcess, on: boolean): void {
  const what = [child, child.channel, child.stdout as unknown as { ref(): void; unref(): void } | null];
  for (const w of what)
    if (on) w?.ref();
    else w?.unref();
}

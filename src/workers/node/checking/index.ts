import { Worker } from 'node:worker_threads';
import checkingUrl from './checking.node.ts?nodeworker';
import type { CheckReply, CheckRequest } from './messages';
import type { FileSum } from './sum-file';

/** The file cannot be read to its end; nothing is said of what it holds. The message goes on after the file's name. */
export class Unreadable extends Error {}

interface Waiting {
  readonly resolve: (sum: FileSum) => void;
  readonly reject: (error: Unreadable) => void;
}

/** Sums files on a thread of its own: the thread that answers requests neither waits for a disk nor hashes gigabytes. One file after the other. */
export class Checking {
  #worker: Worker | null = null;
  readonly #waiting = new Map<number, Waiting>();
  #next = 1;

  /** Rejects with `Unreadable`. */
  sum(path: string): Promise<FileSum> {
    const worker = (this.#worker ??= this.#begin());
    const id = this.#next++;
    return new Promise((resolve, reject) => {
      this.#waiting.set(id, { resolve, reject });
      // The process stays for an answer that is waited for, and ends when none is.
      worker.ref();
      worker.postMessage({ id, path } satisfies CheckRequest);
    });
  }

  #begin(): Worker {
    const worker = new Worker(new URL(checkingUrl));
    worker.on('message', (reply: CheckReply) => {
      const waiting = this.#waiting.get(reply.id);
      this.#waiting.delete(reply.id);
      if (this.#waiting.size === 0) worker.unref();
      if ('sum' in reply) waiting?.resolve(reply.sum);
      else waiting?.reject(new Unreadable(reply.why));
    });
    const lost = (reason: string): void => {
      if (this.#worker !== worker) return;
      this.#worker = null;
      const all = [...this.#waiting.values()];
      this.#waiting.clear();
      for (const w of all) w.reject(new Unreadable(`could not be checked: ${reason}`));
    };
    worker.on('error', (error) => {
      lost(error.message);
    });
    worker.on('exit', (code) => {
      lost(`its thread ended with ${String(code)}`);
    });
    return worker;
  }
}

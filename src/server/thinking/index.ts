import { Worker } from 'node:worker_threads';
import { RuddleError, fromErrorData } from '#core/errors';
import type { Answers, Question, ThinkingReply, ThinkingRequest, ThinkingStart } from './questions';
import thinkUrl from './think.node.ts?nodeworker';

export type { Foreseen } from './questions';

/** Longer than anything that is asked takes, milliseconds; a thread that does not answer by then is ended. */
const PATIENCE = 60_000;

interface Waiting {
  readonly resolve: (answer: Answers[Question['kind']]) => void;
  readonly reject: (error: Error) => void;
}

/**
 * Plans, predictions and what they are made from, worked out on a thread of their own with its own connection to the database: they may take seconds on what a user made,
 * and meanwhile the server goes on answering. A thread that fails, or does not come back, is ended and started anew with the next question.
 */
export class Thinking {
  #worker: Worker | null = null;
  readonly #waiting = new Map<number, Waiting>();
  #next = 1;

  constructor(private readonly start: ThinkingStart) {}

  ask<Q extends Question>(question: Q): Promise<Answers[Q['kind']]> {
    const worker = (this.#worker ??= this.#begin());
    const id = this.#next++;
    return new Promise<Answers[Q['kind']]>((resolve, reject) => {
      const timer = setTimeout(() => {
        this.#end(new RuddleError('internal', 'The server could not work this out within a minute.', { where: question.kind }));
      }, PATIENCE);
      this.#waiting.set(id, {
        resolve: (answer) => {
          clearTimeout(timer);
          resolve(answer as Answers[Q['kind']]);
        },
        reject: (error) => {
          clearTimeout(timer);
          reject(error);
        },
      });
      worker.postMessage({ kind: 'ask', id, question } satisfies ThinkingRequest);
    });
  }

  /** What was learnt is old: a run ended. */
  forget(): void {
    this.#worker?.postMessage({ kind: 'forget' } satisfies ThinkingRequest);
  }

  async close(): Promise<void> {
    const worker = this.#worker;
    this.#end(new RuddleError('cancelled', 'The server is being ended.', {}));
    await worker?.terminate();
  }

  #begin(): Worker {
    const worker = new Worker(new URL(thinkUrl), { workerData: this.start });
    worker.unref();
    worker.on('message', (reply: ThinkingReply) => {
      const waiting = this.#waiting.get(reply.id);
      this.#waiting.delete(reply.id);
      if ('error' in reply) waiting?.reject(fromErrorData(reply.error));
      else waiting?.resolve(reply.answer);
    });
    const failed = (reason: string, cause?: unknown): void => {
      if (this.#worker === worker) this.#end(new RuddleError('internal', `Planning failed: ${reason}`, { where: 'thinking' }, cause));
    };
    worker.on('error', (cause) => {
      failed(cause.message, cause);
    });
    worker.on('exit', (code) => {
      failed(`its thread ended with ${String(code)}.`);
    });
    return worker;
  }

  /** Ends the thread; whoever waits is told why. */
  #end(reason: RuddleError): void {
    const worker = this.#worker;
    this.#worker = null;
    const waiting = [...this.#waiting.values()];
    this.#waiting.clear();
    for (const w of waiting) w.reject(reason);
    void worker?.terminate();
  }
}

import type { Worker } from 'node:worker_threads';
import { RuddleError } from '#core/errors';

/** A thread that has been silent for so long while it was to compute is given up, milliseconds. */
const PATIENCE = 30 * 60_000;
/** So long a thread may take to hear that it is to end, milliseconds. */
const GRACE = 1000;

export interface Watch {
  /** It said something, or is asked something: its silence counts from now. */
  heard(): void;
  /** Nothing is expected of it: its silence does not count. */
  rest(): void;
  /** Ends it: by itself within a second, else its thread is taken down, whatever it is at. */
  giveUp(): void;
  /** It is over as it should be: nothing more is told of it. */
  done(): void;
}

/**
 * Watches a worker that computes, and tells once when it is lost: it threw, ran out of memory, ended by itself, or says nothing any more. Its thread is
 * gone then. The error of one that was given up is `cancelled`.
 */
export function watch(worker: Worker, lost: (error: RuddleError) => void, patience = PATIENCE, grace = GRACE): Watch {
  let over = false;
  let givenUp = false;
  let silence: NodeJS.Timeout | null = null;
  let end: NodeJS.Timeout | null = null;
  const done = (): void => {
    over = true;
    if (silence) clearTimeout(silence);
    if (end) clearTimeout(end);
    worker.off('exit', onExit);
  };
  const tell = (reason: string, cause?: unknown): void => {
    if (over) return;
    done();
    lost(
      givenUp
        ? new RuddleError('cancelled', 'The run was cancelled.', {})
        : new RuddleError('internal', `The thread that computes it ${reason}`, { where: 'compute' }, cause),
    );
  };
  const onExit = (code: number): void => {
    tell(`ended with code ${String(code)}.`);
  };
  const heard = (): void => {
    if (silence) clearTimeout(silence);
    if (over) return;
    silence = setTimeout(() => {
      tell(`has said nothing for ${String(Math.round(patience / 60_000))} minutes, and was taken down.`);
      void worker.terminate();
    }, patience);
  };
  // Stays when it is done: an error that nobody hears would end the process.
  worker.on('error', (cause) => {
    const memory = 'code' in cause && cause.code === 'ERR_WORKER_OUT_OF_MEMORY';
    tell(memory ? 'ran out of memory.' : `failed: ${cause.message}`, cause);
  });
  worker.on('exit', onExit);
  heard();
  return {
    heard,
    rest: () => {
      if (silence) clearTimeout(silence);
    },
    done,
    giveUp: () => {
      givenUp = true;
      if (over || end) return;
      end = setTimeout(() => {
        void worker.terminate();
      }, grace);
    },
  };
}

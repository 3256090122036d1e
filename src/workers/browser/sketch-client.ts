import { RuddleError } from '#core/errors';
import type { Plan } from '#core/shot';
import { cancelBy, newControl } from '#kernels';
import type { SketchMessage, SketchRequest } from '#protocol';

export interface Sketcher {
  /** Replaces what it computes; answers carry the number that is returned. */
  start(plan: Plan): number;
  /** Ends what it computes. */
  stop(): void;
  close(): void;
}

/** Threads are given only where the page is isolated: without that there is no shared memory. */
export function createSketcher(threads: number, receive: (message: SketchMessage) => void): Sketcher {
  if (!globalThis.crossOriginIsolated) {
    throw new RuddleError(
      'refused',
      'A Sketch needs shared memory, which this browser gives to isolated pages only. Open Ruddle at its own address.',
      {
        reason: 'not isolated',
      },
    );
  }
  const worker = new Worker(new URL('./sketch.worker.ts', import.meta.url), { type: 'module' });
  const control = newControl(threads);
  const post = (request: SketchRequest): void => {
    worker.postMessage(request);
  };
  let generation = 0;
  worker.onmessage = (message: MessageEvent<SketchMessage>) => {
    // What an overtaken run still had to say is of no use any more.
    if (message.data.generation === generation) receive(message.data);
  };
  worker.onerror = (event) => {
    receive({
      kind: 'failed',
      generation,
      error: { tag: 'internal', message: `The Sketch failed: ${event.message}`, fields: { where: 'sketch' }, cause: null },
    });
  };
  post({ kind: 'setup', threads, control });
  return {
    start(plan) {
      generation++;
      cancelBy(control);
      post({ kind: 'start', generation, plan });
      return generation;
    },
    stop() {
      generation++;
      cancelBy(control);
      post({ kind: 'stop' });
    },
    close() {
      cancelBy(control);
      worker.terminate();
    },
  };
}

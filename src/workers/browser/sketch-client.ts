import { type ErrorData, RuddleError } from '#core/errors';
import { cancelBy, newControl } from '#kernels';
import type { PassSketchMessage, PassSketchStart, SketchMessage, SketchStart } from '#protocol';

/** A worker that sketches; what it is told to start lacks only its number. */
export interface SketcherOf<Start> {
  /** Replaces what it computes; answers carry the number that is returned. */
  start(start: Omit<Start, 'kind' | 'generation'>): number;
  /** Ends what it computes. */
  stop(): void;
  close(): void;
}
export type Sketcher = SketcherOf<SketchStart>;
export type PassSketcher = SketcherOf<PassSketchStart>;

/** Threads are given only where the page is isolated: without that there is no shared memory. */
function sketcherOf<Start, Message extends { readonly generation: number }>(
  makeWorker: () => Worker,
  threads: number,
  receive: (message: Message | { readonly kind: 'failed'; readonly generation: number; readonly error: ErrorData }) => void,
): SketcherOf<Start> {
  if (!globalThis.crossOriginIsolated) {
    throw new RuddleError(
      'refused',
      'A Sketch needs shared memory, which this browser gives to isolated pages only. Open Ruddle at its own address.',
      {
        reason: 'not isolated',
      },
    );
  }
  const worker = makeWorker();
  const control = newControl(threads);
  let generation = 0;
  worker.onmessage = (message: MessageEvent<Message>) => {
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
  worker.postMessage({ kind: 'setup', threads, control });
  return {
    start(start) {
      generation++;
      cancelBy(control);
      worker.postMessage({ kind: 'start', generation, ...start });
      return generation;
    },
    stop() {
      generation++;
      cancelBy(control);
      worker.postMessage({ kind: 'stop' });
    },
    close() {
      cancelBy(control);
      worker.terminate();
    },
  };
}

export const createSketcher = (threads: number, receive: (message: SketchMessage) => void): Sketcher =>
  sketcherOf<SketchStart, SketchMessage>(
    () => new Worker(new URL('./sketch.worker.ts', import.meta.url), { type: 'module' }),
    threads,
    receive,
  );

export const createPassSketcher = (threads: number, receive: (message: PassSketchMessage) => void): PassSketcher =>
  sketcherOf<PassSketchStart, PassSketchMessage>(
    () => new Worker(new URL('./pass-sketch.worker.ts', import.meta.url), { type: 'module' }),
    threads,
    receive,
  );

import { RuddleError, fromErrorData } from '#core/errors';
import type { ShapeAnswers, ShapeQuestion, ShapeReply } from '#protocol';

type Waiting = { readonly resolve: (answer: never) => void; readonly reject: (error: Error) => void };

/** Asks one worker for shapes; it is started with the first question, and anew after it has failed. */
export function createShapesClient(
  open: () => Pick<Worker, 'postMessage' | 'terminate' | 'onmessage' | 'onerror'> = () =>
    new Worker(new URL('./shapes.worker.ts', import.meta.url), { type: 'module' }),
) {
  let worker: ReturnType<typeof open> | null = null;
  let last = 0;
  const waiting = new Map<number, Waiting>();

  const begin = (): ReturnType<typeof open> => {
    const made = open();
    made.onmessage = ({ data }: MessageEvent<ShapeReply>) => {
      const found = waiting.get(data.id);
      waiting.delete(data.id);
      if ('error' in data) found?.reject(fromErrorData(data.error));
      else found?.resolve(data.answer as never);
    };
    made.onerror = (event) => {
      // What it was asked is never answered any more.
      made.terminate();
      if (worker === made) worker = null;
      const all = [...waiting.values()];
      waiting.clear();
      for (const w of all) w.reject(new RuddleError('internal', `Shapes could not be worked out: ${event.message}`, { where: 'shapes' }));
    };
    return made;
  };

  return {
    /** Rejects with a tagged error. */
    ask<K extends ShapeQuestion['kind']>(question: Extract<ShapeQuestion, { kind: K }>): Promise<ShapeAnswers[K]> {
      const asked = (worker ??= begin());
      const id = ++last;
      return new Promise<ShapeAnswers[K]>((resolve, reject) => {
        waiting.set(id, { resolve, reject });
        asked.postMessage({ id, question });
      });
    },
  };
}

let page: ReturnType<typeof createShapesClient> | null = null;

/** Asks the page's one worker. */
export const askShapes = <K extends ShapeQuestion['kind']>(question: Extract<ShapeQuestion, { kind: K }>): Promise<ShapeAnswers[K]> =>
  (page ??= createShapesClient()).ask<K>(question);

import { fromErrorData } from '#core/errors';
import type { ShapeAnswers, ShapeQuestion, ShapeReply } from '#protocol';

type Waiting = { readonly resolve: (answer: never) => void; readonly reject: (error: Error) => void };

let worker: Worker | null = null;
let last = 0;
const waiting = new Map<number, Waiting>();

function open(): Worker {
  const made = new Worker(new URL('./shapes.worker.ts', import.meta.url), { type: 'module' });
  made.onmessage = ({ data }: MessageEvent<ShapeReply>) => {
    const found = waiting.get(data.id);
    waiting.delete(data.id);
    if ('error' in data) found?.reject(fromErrorData(data.error));
    else found?.resolve(data.answer as never);
  };
  return made;
}

/** Asks the page's one worker for shapes; it is started with the first question. Rejects with a tagged error. */
export function askShapes<K extends ShapeQuestion['kind']>(question: Extract<ShapeQuestion, { kind: K }>): Promise<ShapeAnswers[K]> {
  worker ??= open();
  const id = ++last;
  return new Promise<ShapeAnswers[K]>((resolve, reject) => {
    waiting.set(id, { resolve, reject });
    worker?.postMessage({ id, question });
  });
}

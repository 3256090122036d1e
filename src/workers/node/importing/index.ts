import { Worker } from 'node:worker_threads';
import { RuddleError, fromErrorData } from '#core/errors';
import type { ImportMessage, ImportStart } from '#protocol';
import type { Made } from './make';
import importUrl from './import.node.ts?nodeworker';

export { pngOf } from './read-picture';

/** Reads a mesh, a picture or a signed distance on a thread of its own: two million triangles take a while. */
export function importGeometry(bytes: Uint8Array, file: string): Promise<Made> {
  const start: ImportStart = { bytes, file };
  const worker = new Worker(new URL(importUrl), { workerData: start });
  return new Promise((resolve, reject) => {
    worker.on('message', (message: ImportMessage) => {
      if (message.kind === 'done') resolve(message);
      else reject(fromErrorData(message.error));
    });
    worker.on('error', (cause) => {
      reject(new RuddleError('internal', `Importing failed: ${cause.message}`, { where: 'import' }, cause));
    });
    worker.on('exit', () => {
      reject(new RuddleError('internal', 'Importing ended without an answer.', { where: 'import' }));
    });
  });
}

import { parentPort, workerData } from 'node:worker_threads';
import { toErrorData } from '#core/errors';
import type { ImportMessage, ImportStart } from '#protocol';
import { makeGeometry } from './make';

const { bytes, file } = workerData as ImportStart;
const send = (message: ImportMessage, transfer: ArrayBuffer[]): void => {
  parentPort?.postMessage(message, transfer);
};
void makeGeometry(bytes, file).then(
  (made) => {
    send({ kind: 'done', ...made }, [made.bytes.buffer]);
  },
  (error: unknown) => {
    send({ kind: 'failed', error: toErrorData(error) }, []);
  },
);

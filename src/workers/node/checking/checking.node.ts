import { parentPort } from 'node:worker_threads';
import { NotReadable } from '../regular-file';
import type { CheckReply, CheckRequest } from './messages';
import { sumFile } from './sum-file';

function answerTo({ id, path }: CheckRequest): CheckReply {
  try {
    return { id, sum: sumFile(path) };
  } catch (error) {
    if (error instanceof NotReadable) return { id, why: error.message };
    return { id, why: `cannot be read: ${error instanceof Error ? error.message : String(error)}` };
  }
}

parentPort?.on('message', (request: CheckRequest) => {
  parentPort?.postMessage(answerTo(request));
});

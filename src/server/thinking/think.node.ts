import { parentPort, workerData } from 'node:worker_threads';
import type { ThinkingRequest, ThinkingStart } from './questions';
import { thinkMain } from './think-main';

const ready = thinkMain(workerData as ThinkingStart, (reply) => parentPort?.postMessage(reply));
parentPort?.on('message', (request: ThinkingRequest) => {
  void ready.then((take) => {
    take(request);
  });
});

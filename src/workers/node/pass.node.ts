import { parentPort, workerData } from 'node:worker_threads';
import type { PassAsk, PassStart } from '#protocol';
import { passMain } from './pass-main';

const answer = passMain(workerData as PassStart, (message, transfer) => parentPort?.postMessage(message, transfer));
parentPort?.on('message', (ask: PassAsk) => void answer(ask));

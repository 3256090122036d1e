import { parentPort, workerData } from 'node:worker_threads';
import type { PassAsk, PassStart } from '#protocol';
import { fetchBy } from './fetched';
import { passMain } from './pass-main';

const fetch = fetchBy((message) => parentPort?.postMessage(message));
const answer = passMain(workerData as PassStart, (message, transfer) => parentPort?.postMessage(message, transfer), fetch);
parentPort?.on('message', (ask: PassAsk) => void answer(ask));

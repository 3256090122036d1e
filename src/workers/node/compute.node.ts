import { parentPort, workerData } from 'node:worker_threads';
import type { ComputeStart } from '#protocol';
import { computeMain } from './compute-main';

computeMain(workerData as ComputeStart, (message, transfer) => parentPort?.postMessage(message, transfer));

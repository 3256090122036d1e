import { workerData } from 'node:worker_threads';
import { helpLoop, type HelperStart } from '#kernels';

helpLoop(workerData as HelperStart);

import { Worker } from 'node:worker_threads';
import type { HelperStart } from '#kernels';
import helperUrl from './kernel-helper.node.ts?nodeworker';

/** Starts a kernel helper on a thread of its own; it ends when its team is stopped, and does not keep the process alive. */
export function startHelperThread(start: HelperStart): void {
  new Worker(new URL(helperUrl), { workerData: start }).unref();
}

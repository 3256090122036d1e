import { Worker } from 'node:worker_threads';

const EVERY = 25;

// A thread of its own: the thread that reads a file may not come back to its event loop for minutes.
const WATCH = `
const { workerData } = require('node:worker_threads');
setInterval(() => {
  if (process.memoryUsage.rss() > workerData.most || process.ppid !== workerData.parent) process.kill(process.pid, 'SIGKILL');
}, ${String(EVERY)});
`;

/**
 * Ends this process when it holds more resident memory than `most` bytes, or when its parent is gone. V8's own limit is not enough: buffers lie outside
 * of its heap.
 */
export function watchMemory(most: number): void {
  new Worker(WATCH, { eval: true, workerData: { most, parent: process.ppid } }).unref();
}

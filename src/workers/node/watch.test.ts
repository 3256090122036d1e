import { Worker } from 'node:worker_threads';
import { afterEach, describe, expect, it } from 'vitest';
import type { RuddleError } from '#core/errors';
import { type Watch, watch } from './watch';

const workers: Worker[] = [];
afterEach(async () => {
  for (const w of workers.splice(0)) await w.terminate();
});

/** A worker that does this, and what is told of it. */
function begin(code: string, patience = 60_000, grace = 1000, limits?: Worker['resourceLimits']) {
  const worker = new Worker(code, { eval: true, ...(limits ? { resourceLimits: limits } : {}) });
  workers.push(worker);
  let watched: Watch | null = null;
  const told: RuddleError[] = [];
  const lost = new Promise<RuddleError>((resolve) => {
    watched = watch(
      worker,
      (error) => {
        told.push(error);
        resolve(error);
      },
      patience,
      grace,
    );
  });
  return { worker, lost, told, watched: watched as unknown as Watch };
}
const gone = async (worker: Worker): Promise<void> => {
  // A thread that is gone has no number any more.
  while (worker.threadId !== -1) await new Promise((resolve) => setTimeout(resolve, 20));
};
const HANGS = 'for (;;);';
const WAITS = "require('node:worker_threads').parentPort.on('message', () => undefined);";

describe('a thread that computes', () => {
  it('and throws: told with its words', async () => {
    const { lost } = begin("throw new Error('the kernel broke')");
    expect(await lost).toMatchObject({ tag: 'internal', message: 'The thread that computes it failed: the kernel broke' });
  });

  it('and runs out of memory: told as that, and nothing else is taken down', async () => {
    const { lost, worker } = begin('const all = []; for (;;) all.push(new Array(1e5).fill(Math.random()));', 60_000, 1000, {
      maxOldGenerationSizeMb: 24,
    });
    expect(await lost).toMatchObject({ message: 'The thread that computes it ran out of memory.' });
    await gone(worker);
  });

  it('and ends by itself', async () => {
    expect(await begin('process.exit(3)').lost).toMatchObject({ message: 'The thread that computes it ended with code 3.' });
  });

  it('and hangs: taken down when it was silent for too long; one that is heard from is not', async () => {
    const hung = begin(HANGS, 400);
    const alive = begin(WAITS, 400);
    const hearing = setInterval(() => {
      alive.watched.heard();
    }, 50);
    expect(await hung.lost).toMatchObject({
      message: expect.stringMatching(/has said nothing for 0 minutes, and was taken down/) as string,
    });
    await gone(hung.worker);
    await new Promise((resolve) => setTimeout(resolve, 400));
    clearInterval(hearing);
    expect(alive.told).toEqual([]);
  });

  it('is given up within its grace, whatever it is at: that is a cancel', async () => {
    const { watched, lost, worker } = begin(HANGS, 60_000, 300);
    await new Promise((resolve) => worker.once('online', resolve));
    const before = performance.now();
    watched.giveUp();
    watched.giveUp();
    expect(await lost).toMatchObject({ tag: 'cancelled' });
    expect(performance.now() - before).toBeGreaterThan(250);
    await gone(worker);
  });

  it('that is done is told nothing of', async () => {
    const { watched, told, worker } = begin(WAITS, 100);
    watched.done();
    watched.heard();
    await new Promise((resolve) => setTimeout(resolve, 300));
    await worker.terminate();
    expect(told).toEqual([]);
  });
});

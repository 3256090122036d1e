import { Worker } from 'node:worker_threads';
import { expect, it } from 'vitest';
import { waitedForCore, waitedSince } from './waiting';

it('what was waited since the last question is told, never less than nothing', () => {
  const told = [3, 3.5, 3.2, 4];
  const since = waitedSince(() => told.shift()!);
  expect([since(), since(), since()].map((s) => Number(s.toFixed(6)))).toEqual([0.5, 0, 0.8]);
});

it('a thread that shares its core with others waits, and is told so', async () => {
  if (waitedForCore() === 0) return;
  const busy = Array.from({ length: 6 }, () => new Worker('for (;;);', { eval: true }));
  try {
    await new Promise((resolve) => setTimeout(resolve, 300));
    const since = waitedSince();
    const began = performance.now();
    const used = process.cpuUsage();
    // Until three times as many threads as cores have had a turn: by what was waited, and not by the clock.
    let waited = 0;
    while (waited < 0.2 && performance.now() - began < 60_000) waited += since();
    expect(waited).toBeGreaterThanOrEqual(0.2);
    expect(process.cpuUsage(used).user).toBeGreaterThan(0);
  } finally {
    await Promise.all(busy.map((w) => w.terminate()));
  }
});

import { describe, expect, it } from 'vitest';
import type { LightVolume, ShadowInput } from '#core/look';
import { createShadowBuilder } from './shadow-client';

const input = (n: number): ShadowInput => ({ data: new Uint8Array([n]), size: [1, 1, 1], depthPerVoxel: 1, light: [0, 1, 0] });
const light = (n: number): LightVolume => ({ size: [1, 1, 1], data: new Uint8Array([n]) });

/** A worker that answers when it is told to. */
function slowWorker() {
  const asked: number[] = [];
  const worker = {
    onmessage: null as Worker['onmessage'],
    onerror: null as Worker['onerror'],
    postMessage: (message: unknown) => void asked.push((message as ShadowInput).data[0] ?? 0),
    terminate: () => undefined,
  };
  const answer = (n: number): void => {
    worker.onmessage?.call(worker as unknown as Worker, { data: light(n) } as MessageEvent);
  };
  return { worker, asked, answer };
}

describe('light volumes', () => {
  it('are built one at a time; of those that wait only the latest is', async () => {
    const { worker, asked, answer } = slowWorker();
    const shadows = createShadowBuilder(worker);
    const all = [1, 2, 3, 4].map((n) => shadows.build(input(n)));
    expect(asked).toEqual([1]);
    answer(1);
    expect(asked).toEqual([1, 4]);
    answer(4);
    // The first was overtaken while it was built: its frame is not shown any more.
    expect((await Promise.all(all)).map((l) => l?.data[0] ?? null)).toEqual([null, null, null, 4]);
    const last = shadows.build(input(5));
    answer(5);
    expect((await last)?.data[0]).toBe(5);
  });
});

import { expect, it } from 'vitest';
import { processorSeconds } from '#testing/values';
import { warmUp } from '.';

it.each(['gas', 'liquid'] as const)('a tiny %s runs whole, and takes no more than a moment', async (kind) => {
  expect(await processorSeconds(() => warmUp(kind))).toBeLessThan(3);
});

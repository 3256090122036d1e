import { expect, it } from 'vitest';
import { warmUp } from '.';

it.each(['gas', 'liquid'] as const)('a tiny %s runs whole, and takes no more than a moment', (kind) => {
  const began = performance.now();
  warmUp(kind);
  expect(performance.now() - began).toBeLessThan(3000);
});

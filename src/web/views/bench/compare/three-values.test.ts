import { describe, expect, it } from 'vitest';
import { threeValues } from './three-values';

describe('three values to try', () => {
  it('are half, the present one and twice it', () => {
    expect(threeValues(0.05, { min: 0.001, max: 1, step: 0.01 }, false)).toEqual([0.025, 0.05, 0.1]);
    expect(threeValues(4, { min: 1, max: 64, step: 1 }, true)).toEqual([2, 4, 8]);
  });
  it('go to both sides of zero, and of what is negative', () => {
    expect(threeValues(0, { min: -100, max: 100, step: 1 }, false)).toEqual([-20, 0, 20]);
    const [a, b, c] = threeValues(-4, { min: -10, max: 10, step: 1 }, false);
    expect([a < b, b, c > b]).toEqual([true, -4, true]);
  });
  it('stay in the range, on one side of its ends', () => {
    expect(threeValues(0, { min: 0, max: 1, step: 0.1 }, false)).toEqual([0, 0.5, 1]);
    expect(threeValues(1, { min: 0, max: 1, step: 0.1 }, false)).toEqual([0, 0.5, 1]);
    expect(threeValues(1, { min: 1, max: 64, step: 1 }, true)).toEqual([1, 2, 3]);
  });
});

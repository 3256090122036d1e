import { describe, expect, it } from 'vitest';
import { regionWeight } from './force-fields';

describe('a region of a force', () => {
  it('weights go from all to nothing across the soft edge', () => {
    expect([-1, -0.26, 0, 0.26, 1].map((d) => regionWeight(d, 0.5))).toEqual([1, 1, 0.5, 0, 0]);
    expect([-0.1, 0.1].map((d) => regionWeight(d, 0))).toEqual([1, 0]);
    expect(regionWeight(-0.1, 0.5)).toBeGreaterThan(regionWeight(-0.05, 0.5));
  });
});

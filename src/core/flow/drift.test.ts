import { describe, expect, it } from 'vitest';
import { driftOf } from './drift';

describe('a wind that changes', () => {
  it('carries turbulence along by the way that the air has gone, the same however the substeps fall', () => {
    const drift = driftOf((t) => [t < 1 ? 2 * t : 2, 0, -1], 24);
    expect(drift(2)[0]).toBeCloseTo(1 + 2, 6);
    expect(drift(2)[2]).toBeCloseTo(-2, 9);
    expect(drift(-0.5)[2]).toBeCloseTo(0.5, 9);
    const again = driftOf((t) => [t < 1 ? 2 * t : 2, 0, -1], 24);
    again(0.013);
    again(1.7);
    expect(again(2)).toEqual(drift(2));
  });
});

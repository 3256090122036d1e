import { describe, expect, it } from 'vitest';
import { PLOT, frameScale, frameTicks, valueScale } from './curve-scales';

const domain = (values: number[]): number[] => valueScale(values).domain();

describe('scales of a curve', () => {
  it('end at round numbers outside of all values, at nothing for what is never negative', () => {
    expect(domain([0, 3.7])).toEqual([0, 4]);
    expect(domain([-3.7, 1])).toEqual([-4, 2]);
    const [low, high] = domain([5, 5]);
    expect(low).toBeLessThan(5);
    expect(high).toBeGreaterThan(5);
    expect(domain([0, 0])[0]).toBe(0);
    expect(domain([0, 0])[1]).toBeGreaterThanOrEqual(0.5);
    expect(domain([-2, 0])).toEqual([-2.5, 0]);
    expect(domain([NaN, Infinity]).every(Number.isFinite)).toBe(true);
  });

  it('larger values stand higher', () => {
    const y = valueScale([0, 10]);
    expect(y(0)).toBe(PLOT.bottom);
    expect(y(9)).toBeLessThan(y(1));
  });

  it('name whole frames only, also of a shot of one frame', () => {
    expect(frameTicks(frameScale([1, 24]), 12)).toEqual([2, 4, 6, 8, 10, 12, 14, 16, 18, 20, 22, 24]);
    expect(frameTicks(frameScale([1, 3]), 12)).toEqual([1, 2, 3]);
    expect(frameTicks(frameScale([7, 7]), 12)).toEqual([7, 8]);
  });
});

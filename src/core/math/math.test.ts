import { describe, expect, it } from 'vitest';
import { fractalNoise, hash3, mulberry32, rotationFromDegrees, unrotate } from '.';

describe('randomness', () => {
  it('is the same for the same seed, and spread evenly', () => {
    const [a, b] = [mulberry32(7), mulberry32(7)];
    const list = Array.from({ length: 4000 }, () => a());
    expect(list.slice(0, 50)).toEqual(Array.from({ length: 50 }, () => b()));
    expect(list.reduce((s, v) => s + v, 0) / list.length).toBeCloseTo(0.5, 1);
    const bits = Array.from({ length: 4000 }, (_x, n) => hash3(n, 3, -5, 1) & 1).reduce((s, v) => s + v, 0);
    expect(bits / 4000).toBeCloseTo(0.5, 1);
  });
});

describe('noise', () => {
  it('is smooth, about zero in the mean, and another with another seed', () => {
    let [sum, steepest, largest, differs] = [0, 0, 0, 0];
    for (let n = 0; n < 4000; n++) {
      const p = [n * 0.173, n * 0.071, n * 0.113, n * 0.031] as const;
      const v = fractalNoise(...p, 1, 3);
      sum += v;
      largest = Math.max(largest, Math.abs(v));
      steepest = Math.max(steepest, Math.abs(fractalNoise(p[0] + 1e-3, p[1], p[2], p[3], 1, 3) - v));
      differs += Math.abs(fractalNoise(...p, 2, 3) - v);
    }
    expect(Math.abs(sum / 4000)).toBeLessThan(0.05);
    expect(largest).toBeLessThan(1.2);
    expect(largest).toBeGreaterThan(0.3);
    expect(steepest).toBeLessThan(0.02);
    expect(differs / 4000).toBeGreaterThan(0.05);
  });
});

describe('rotation', () => {
  it('about x, then y, then z, as the shot file says', () => {
    // World x of a box turned 90 degrees about z is its own -y... and back again.
    const r = rotationFromDegrees([0, 0, 90]);
    const p = unrotate(r, [0, 1, 0]);
    [1, 0, 0].forEach((v, a) => {
      expect(p[a]).toBeCloseTo(v, 12);
    });
    const q = unrotate(rotationFromDegrees([90, 0, 0]), [0, 0, 1]);
    [0, 1, 0].forEach((v, a) => {
      expect(q[a]).toBeCloseTo(v, 12);
    });
  });
});

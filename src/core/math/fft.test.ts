import { describe, expect, it } from 'vitest';
import { mulberry32 } from './random';
import { fft3, wavesOf } from './fft';

describe('the transform of a box', () => {
  it('is the sum that defines it, along sides of unlike length', () => {
    const sides = [4, 8, 2] as const;
    const random = mulberry32(3);
    const data = Float64Array.from({ length: 2 * 64 }, () => random() - 0.5);
    const was = data.slice();
    fft3(data, sides, false);
    for (const [kx, ky, kz] of [
      [0, 0, 0],
      [1, 3, 1],
      [3, 7, 0],
    ] as const) {
      let [re, im] = [0, 0];
      for (let n = 0; n < 64; n++) {
        const [x, y, z] = [n % 4, Math.floor(n / 4) % 8, Math.floor(n / 32)];
        const a = -2 * Math.PI * ((kx * x) / 4 + (ky * y) / 8 + (kz * z) / 2);
        re += was[2 * n]! * Math.cos(a) - was[2 * n + 1]! * Math.sin(a);
        im += was[2 * n]! * Math.sin(a) + was[2 * n + 1]! * Math.cos(a);
      }
      const n = (kz * 8 + ky) * 4 + kx;
      expect(data[2 * n]).toBeCloseTo(re, 10);
      expect(data[2 * n + 1]).toBeCloseTo(im, 10);
    }
  });

  it('is undone by its inverse', () => {
    const random = mulberry32(4);
    const data = Float64Array.from({ length: 2 * 512 }, () => random() - 0.5);
    const was = data.slice();
    fft3(data, [8, 8, 8], false);
    fft3(data, [8, 8, 8], true);
    data.forEach((v, n) => {
      expect(v).toBeCloseTo(was[n]!, 12);
    });
  });

  it('counts waves with their sign', () => {
    expect([0, 1, 4, 5, 7].map((n) => wavesOf(n, 8))).toEqual([0, 1, 4, -3, -1]);
  });
});

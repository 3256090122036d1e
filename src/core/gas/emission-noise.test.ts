import { describe, expect, it } from 'vitest';
import { mulberry32 } from '#core/math';
import { gasOptions, withTeam } from '#testing';
import { emission } from './emission';
import { EmissionNoise } from './emission-noise';

const [mouth] = gasOptions().sources;

describe('emission noise by the kernel', () => {
  it('is the pattern that is given point by point, with more points than one launch takes, negative places and late moments', async () => {
    if (!mouth) throw new Error('the harness has no source');
    const random = mulberry32(5);
    const position = Float32Array.from({ length: 3 * 20_011 }, () => (random() - 0.5) * 40);
    await withTeam(1, (team) => {
      const kernel = new EmissionNoise(team);
      for (const [octaves, size, change, seed, time] of [
        [1, 0.7, 0.3, 7, 0.4],
        [3, 0.35, 0.12, 90, 41.3],
        [6, 1.9, 4, 1, -2.2],
      ] as const) {
        const source = { ...mouth, noise: { amount: 0.8, size, change, octaves, seed } };
        const through = kernel.at(position, source, time, 1 / 24);
        let most = 0;
        let spread = 0;
        for (let n = 0; n < 20_011; n++) {
          const [x, y, z] = [position[3 * n]!, position[3 * n + 1]!, position[3 * n + 2]!];
          const want = emission(source, x, y, z, time, 1 / 24);
          most = Math.max(most, Math.abs(want - through![n]!));
          spread = Math.max(spread, Math.abs(want - 1));
        }
        // Places of single precision, 20 m / size x 2^octaves from the origin: 1e-7 of that, times the steepest slope of the noise (about 2) and the amount.
        expect(most).toBeLessThan(((20 / size) * 2 ** octaves * 1.2e-7 + 2e-6) * 4);
        expect(spread).toBeGreaterThan(0.2);
      }
      expect(kernel.at(position, { noise: null }, 0, 1)).toBeNull();
    });
  });
});

import { describe, expect, it } from 'vitest';
import { withTeam } from '#testing';
import { makeTurbulence, noiseArguments } from './turbulence';
import type { Turbulence } from './options';

const settings: Turbulence = { strength: 2, size: 1.6, change: 4, octaves: 3, seed: 5 };

describe('turbulence', () => {
  it('has a root mean square of 1, no mean, repeats, and is divergence-free on its lattice', async () => {
    await withTeam(1, (team) => {
      const { a, n } = makeTurbulence(team, settings);
      const m = n + 1;
      const v = team.floats(a, m ** 3 * 4);
      const at = (i: number, j: number, k: number, c: number): number => v[((k * m + j) * m + i) * 4 + c]!;
      let [squares, worst, largest] = [0, 0, 0];
      const mean = [0, 0, 0];
      for (let k = 1; k < n; k++) {
        for (let j = 1; j < n; j++) {
          for (let i = 1; i < n; i++) {
            for (const c of [0, 1, 2]) {
              squares += at(i, j, k, c) ** 2;
              mean[c]! += at(i, j, k, c);
              largest = Math.max(largest, Math.abs(at(i, j, k, c)));
            }
            const divergence =
              at(i + 1, j, k, 0) - at(i - 1, j, k, 0) + at(i, j + 1, k, 1) - at(i, j - 1, k, 1) + at(i, j, k + 1, 2) - at(i, j, k - 1, 2);
            worst = Math.max(worst, Math.abs(divergence));
          }
        }
      }
      const count = (n - 1) ** 3;
      expect(Math.sqrt(squares / count)).toBeCloseTo(1, 1);
      for (const c of mean) expect(Math.abs(c / count)).toBeLessThan(0.05);
      expect(worst).toBeLessThan(1e-4 * largest);
      for (const c of [0, 1, 2]) expect(at(0, 7, 9, c)).toBe(at(n, 7, 9, c));
      // A peak is about three times the root mean square: what the choice of substeps counts on.
      expect(largest).toBeLessThan(4);
    });
  });

  it('keeps its strength as it turns, and is carried along by the wind', () => {
    for (const time of [0, 0.7, 1.9]) {
      const { gainA, gainB } = noiseArguments(settings, [0, 0, 0], 0.1, [0, 0, 0], time, 0.04);
      expect(Math.hypot(gainA, gainB)).toBeCloseTo(2 * 0.04, 12);
    }
    const here = noiseArguments(settings, [16, 0, 0], 0.1, [0, 0, 0], 0, 0.04);
    const later = noiseArguments(settings, [26, 0, 0], 0.1, [1, 0, 0], 1, 0.04);
    // A metre further downwind a second later the pattern is the same.
    expect(later.offset[0]).toBeCloseTo(here.offset[0], 9);
  });
});

import { describe, expect, it } from 'vitest';
import { isRuddleError } from '#core/errors';
import { gasOptions, withTeam } from '#testing';
import { limitWindow } from '#core/flow';
import { solveGas, windowBytes, leastBytes } from '.';

const limit = (edge: number) => ({ limit: { min: [0, 0, 0], max: [edge, edge, edge] } }) as const;

describe('what bounds take at least', () => {
  it('fixed ones their whole limit box, adaptive ones the largest source that stands still', () => {
    const fixed = gasOptions({ voxelSize: 0.1, bounds: { mode: 'fixed', ...limit(3.2) } });
    expect(leastBytes(fixed)).toBe(windowBytes(limitWindow(fixed), fixed.matter));
    const adaptive = gasOptions({ voxelSize: 0.1, bounds: { mode: 'adaptive', ...limit(100) } });
    expect(leastBytes(adaptive)).toBeGreaterThan(0);
    expect(leastBytes(adaptive)).toBeLessThan(leastBytes(fixed));
    const [source] = adaptive.sources;
    const big = { ...adaptive, sources: [{ ...source!, shape: { kind: 'ball' as const, centre: [50, 50, 50] as const, radius: 30 } }] };
    // 600 voxels a side; what the window rounds to is at most two tiles more.
    expect(leastBytes(big)).toBeGreaterThan(windowBytes({ ox: 0, oy: 0, oz: 0, nx: 600, ny: 600, nz: 600 }, big.matter));
    expect(leastBytes(big)).toBeLessThan(windowBytes({ ox: 0, oy: 0, oz: 0, nx: 624, ny: 624, nz: 624 }, big.matter));
    // One that goes about may be elsewhere, or small, when it matters.
    const moves = { 'shape.radius': { kind: 'expression' as const, text: '0.1' } };
    expect(leastBytes({ ...big, sources: [{ ...big.sources[0]!, moves }] })).toBe(0);
  });

  it('a box of 4e29 bytes is refused with the error of fixed bounds, not with one of the language', async () => {
    for (const mode of ['adaptive', 'fixed', 'dense'] as const) {
      const absurd = gasOptions({ voxelSize: 1e-4, bounds: { mode, limit: { min: [-1e5, -1e5, -1e5], max: [1e5, 1e5, 1e5] } } });
      expect(leastBytes(absurd)).toBe(Infinity);
      await withTeam(1, (team) => {
        const begin = (): unknown =>
          [...solveGas(absurd, { team, clock: () => 0, channels: { names: ['density'] }, cancelled: () => false })].length;
        let caught: unknown = null;
        try {
          begin();
        } catch (error) {
          caught = error;
        }
        expect(isRuddleError(caught, 'arena-too-small')).toBe(true);
        expect(String((caught as Error).message)).toMatch(/more than 1000 TB are needed/);
      });
    }
  });
});

import { describe, expect, it } from 'vitest';
import { chooseActive, limitWindow, tilesAtHalf, windowAround, type Census } from './activity';

const limit = { ox: -8, oy: 0, oz: 0, nx: 48, ny: 32, nz: 16 } as const;
const nothing: Census = { matter: [], motion: [], solids: [], travel: 1 };
const tilesOf = (census: Census, mode: 'adaptive' | 'fixed' | 'dense', reach = 0): string[] => {
  const { tiles } = chooseActive(limit, census, mode, reach);
  return Array.from({ length: tiles.length / 3 }, (_t, n) => tiles.subarray(3 * n, 3 * n + 3).join());
};

describe('the active set', () => {
  it('holds the tiles within travel and stencil of matter, by voxels', () => {
    expect(tilesOf({ ...nothing, matter: [3, 3, 3, 4, 4, 4] }, 'adaptive')).toEqual(['0,0,0']);
    // At voxel 6 the neighbour is within 1 + 2 voxels.
    expect(tilesOf({ ...nothing, matter: [6, 3, 3, 6, 4, 4] }, 'adaptive')).toEqual(['0,0,0', '1,0,0']);
    expect(tilesOf({ ...nothing, matter: [3, 3, 3, 4, 4, 4], travel: 2 }, 'adaptive')).toHaveLength(3 * 2 * 2);
  });
  it('reaches further when asked to, and never outside the limit box', () => {
    expect(tilesOf({ ...nothing, matter: [3, 3, 3, 4, 4, 4] }, 'adaptive', 10)).toHaveLength(3 * 2 * 2);
    expect(tilesOf({ ...nothing, matter: [3, 3, 3, 4, 4, 4] }, 'adaptive', 1000)).toHaveLength(6 * 4 * 2);
  });
  it('follows motion in fixed bounds only; dense holds all', () => {
    const moving = { ...nothing, motion: [16, 8, 0, 23, 15, 7] };
    expect(tilesOf(moving, 'adaptive', 100)).toEqual([]);
    expect(tilesOf(moving, 'fixed')).toContain('2,1,0');
    expect(tilesOf(nothing, 'dense')).toHaveLength(6 * 4 * 2);
  });
  it('has a window around it, or none', () => {
    const set = chooseActive(limit, { ...nothing, matter: [-8, 12, 3, -7, 12, 4] }, 'adaptive', 0);
    expect(windowAround(set)).toEqual({ ox: -8, oy: 8, oz: 0, nx: 8, ny: 8, nz: 8 });
    expect(windowAround(chooseActive(limit, nothing, 'adaptive', 0))).toBeNull();
  });
  it('lies in the voxels that the limit box touches', () => {
    const bounds = { limit: { min: [-0.3, 0, 0.05] as const, max: [1.61, 0.8, 1.6] as const } };
    const w = limitWindow({ voxelSize: 0.1, bounds } as unknown as Parameters<typeof limitWindow>[0]);
    expect(w).toEqual({ ox: -8, oy: 0, oz: 0, nx: 32, ny: 8, nz: 16 });
  });
  it('knows how many tiles half the voxel size would wake for the same matter', () => {
    const options = {
      voxelSize: 0.1,
      bounds: { mode: 'adaptive', reach: 0, limit: { min: [0, 0, 0], max: [6.4, 6.4, 6.4] } },
    } as unknown as Parameters<typeof tilesAtHalf>[0];
    // Voxels 8 to 15 of each axis are 16 to 31 of the finer ones, and within 1 + 2 of the tiles around: four a side.
    expect(tilesAtHalf(options, { ...nothing, matter: [8, 8, 8, 15, 15, 15] })).toBe(4 ** 3);
    // A reach of 0.4 m is 8 of them: no more tiles; of 0.5 m 10: six a side.
    const reaching = (reach: number) => ({ ...options, bounds: { ...options.bounds, reach } });
    expect(tilesAtHalf(reaching(0.4), { ...nothing, matter: [8, 8, 8, 15, 15, 15] })).toBe(4 ** 3);
    expect(tilesAtHalf(reaching(0.5), { ...nothing, matter: [8, 8, 8, 15, 15, 15] })).toBe(6 ** 3);
    expect(tilesAtHalf(options, { ...nothing, solids: [8, 8, 8, 15, 15, 15] })).toBe(4 ** 3);
  });
});

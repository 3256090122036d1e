import { describe, expect, it } from 'vitest';
import { allClosed, allOpen, levelOf, withTeam } from '#testing';
import { Pool, Reader } from '.';
import { WallField, boxDistance, cutAtWalls, reachIntoWalls, standsIn } from './walls';

/** Voxels of a centimetre. */
const H = 0.01;
const box = { min: [-0.1, -0.1, -0.1], max: [0.1, 0.1, 0.1] } as const;

describe('walls of a skin', () => {
  it('a box is as far as its nearest closed wall, or open one', () => {
    const walls = { ...allOpen, floor: 'closed', left: 'closed' } as const;
    const closed = boxDistance(box, walls, 'closed');
    expect(closed(0, 0, 0)).toBeCloseTo(0.1, 9);
    expect(closed(-0.07, 0.05, 0)).toBeCloseTo(0.03, 9);
    expect(closed(0, -0.12, 0)).toBeCloseTo(-0.02, 9);
    expect(closed(0.5, 0, 0)).toBeCloseTo(0.1, 9);
    const open = boxDistance(box, walls, 'open');
    expect(open(0.08, 0, 0)).toBeCloseTo(0.02, 9);
    expect(boxDistance(box, allOpen, 'closed')(0, 0, 0)).toBe(Infinity);
  });

  it('liquid that ends two voxels before three walls meets them, in their corner too, and no further', async () => {
    await withTeam(1, (team) => {
      // A cube of liquid, 8 voxels from the middle each way; walls at 10.
      const level = levelOf(new Pool(team), 3, (x, y, z) => Math.max(Math.abs(x), Math.abs(y), Math.abs(z)) - 8);
      const walls = new WallField(boxDistance(box, { ...allClosed, right: 'open', ceiling: 'open', front: 'open' }, 'closed'), H);
      expect(standsIn(level, walls)).toBe(true);
      reachIntoWalls(level, walls, 3, 0);
      standsIn(level, walls);
      cutAtWalls(level, walls, 0);
      const reader = new Reader(level);
      // Up to the closed ones, also where three of them meet; the open ones are left alone.
      for (const at of [
        [-9.5, 0, 0],
        [0, -9.5, 0],
        [-9.5, -9.5, 0],
        [-9.5, -9.5, -9.5],
      ] as const)
        expect(reader.between(at[0], at[1], at[2]), at.join()).toBeLessThan(0);
      for (const at of [
        [-10.5, 0, 0],
        [-10.5, -10.5, -10.5],
        [9, 0, 0],
        [0, 9, 0],
      ] as const)
        expect(reader.between(at[0], at[1], at[2]), at.join()).toBeGreaterThan(0);
    });
  });

  it('a film of half a voxel on a floor lies on it, not above', async () => {
    await withTeam(1, (team) => {
      // The floor at -10 lies between voxel middles at -10.5 and -9.5; the film ends at -9.4.
      const level = levelOf(new Pool(team), 3, (x, y, z) => Math.max(y + 9.4, Math.hypot(x, z) - 12));
      const walls = new WallField(boxDistance(box, { ...allOpen, floor: 'closed' }, 'closed'), H);
      standsIn(level, walls);
      cutAtWalls(level, walls, 0);
      const reader = new Reader(level);
      const [above, below] = [reader.at(0, -10, 0), reader.at(0, -11, 0)];
      expect(above).toBeLessThan(0);
      // Where the line between them is zero.
      expect(-9.5 - above / (above - below)).toBeCloseTo(-10, 1);
    });
  });

  it('far from all walls nothing is done', async () => {
    await withTeam(1, (team) => {
      const level = levelOf(new Pool(team), 1, (x, y, z) => Math.hypot(x, y, z) - 4);
      const before = level.values().slice();
      const walls = new WallField((x) => x + 5, H);
      expect(standsIn(level, walls)).toBe(false);
      cutAtWalls(level, walls, 0);
      expect(level.values()).toEqual(before);
    });
  });
});

import { describe, expect, it } from 'vitest';
import { levelOf, measureMesh, withTeam } from '#testing';
import { type Filter, type Level, Pool, Reader, applyFilter, keepVolume, markThin, polygonsOfLevel } from '.';

const filter = (changes: Partial<Filter>): Filter => ({
  kind: 'gaussian',
  on: true,
  strength: 1,
  iterations: 1,
  spareThin: 0,
  spareWalls: 0,
  ...changes,
});
const radiusOf = (level: Level): number => Math.cbrt((3 * measureMesh(polygonsOfLevel(level, 1)).volume) / (4 * Math.PI));
const ball = (r: number) => (x: number, y: number, z: number) => Math.hypot(x - 0.3, y + 0.2, z) - r;

/** A plane of a normal that is no axis; beyond the box it goes on, so it is read near the middle. */
const N = [2 / 3, 2 / 3, 1 / 3] as const;
const plane = (x: number, y: number, z: number): number => N[0] * x + N[1] * y + N[2] * z - 0.37;
/** Farthest that a level's values lie off a function, near its zero line, in the middle of the box. */
function off(level: Level, want: (x: number, y: number, z: number) => number, within = 1.5): number {
  const reader = new Reader(level);
  let worst = 0;
  for (let k = -5; k < 5; k++)
    for (let j = -5; j < 5; j++)
      for (let i = -5; i < 5; i++) {
        const d = want(i + 0.5, j + 0.5, k + 0.5);
        if (Math.abs(d) < within) worst = Math.max(worst, Math.abs(reader.at(i, j, k) - d));
      }
  return worst;
}

describe('filters of a level', () => {
  it('the distance of a plane is the plane, and stays it', async () => {
    await withTeam(1, (team) => {
      const level = levelOf(new Pool(team), 2, plane);
      expect(off(level, plane, 3)).toBeLessThan(1e-4);
      level.redistance();
      expect(off(level, plane, 3)).toBeLessThan(1e-4);
    });
  });

  it('a Gaussian and a median keep a plane', async () => {
    await withTeam(1, (team) => {
      const pool = new Pool(team);
      for (const kind of ['gaussian', 'median', 'curvature'] as const) {
        const level = levelOf(pool, 3, plane);
        applyFilter(level, filter({ kind, iterations: 2 }));
        // Further off, the Gaussian sees where the band ends.
        expect(off(level, plane, 0.5), kind).toBeLessThan(4e-3);
      }
    });
  });

  it('an offset moves a plane exactly, also further than the band is wide', async () => {
    await withTeam(1, (team) => {
      const level = levelOf(new Pool(team), 3, plane);
      level.offset(6.5);
      level.offset(-4.25);
      expect(off(level, (x, y, z) => plane(x, y, z) - 2.25)).toBeLessThan(1e-3);
    });
  });

  it('an offset makes the edge of a box round', async () => {
    await withTeam(1, (team) => {
      const box = (x: number, y: number, z: number, half = 4): number => {
        const q = [Math.abs(x) - half, Math.abs(y) - half, Math.abs(z) - half] as const;
        return Math.hypot(...q.map((v) => Math.max(0, v))) + Math.min(0, Math.max(...q));
      };
      const level = levelOf(new Pool(team), 2, box);
      level.offset(2);
      const reader = new Reader(level);
      // Beyond the middle of a face two voxels, beyond an edge two along the diagonal (2.83 for one that stays sharp).
      const along = (far: number, ways: readonly [number, number, number]): number => {
        const length = Math.hypot(...ways);
        return reader.between(...(ways.map((w) => w * 4 + (w * far) / length) as [number, number, number]));
      };
      expect(Math.abs(along(2, [1, 0, 0]))).toBeLessThan(0.02);
      expect(Math.abs(along(2, [1, 1, 0]))).toBeLessThan(0.15);
      expect(along(2.5, [1, 1, 0])).toBeGreaterThan(0.2);
    });
  });

  it('motion by curvature shrinks a ball as r^2 = r0^2 - 4 t', async () => {
    await withTeam(1, (team) => {
      const pool = new Pool(team);
      // A radius of six voxels at the end is one for which the differences are a little coarse.
      for (const [r, within] of [
        [8, 0.03],
        [12, 0.005],
      ] as const) {
        const level = levelOf(pool, 3, ball(r));
        const polygons = radiusOf(level) / r;
        applyFilter(level, filter({ kind: 'curvature', strength: 1, iterations: 48 }));
        // 48 steps of a sixth of a squared voxel.
        expect(Math.abs(radiusOf(level) / polygons / Math.sqrt(r * r - 4 * 8) - 1)).toBeLessThan(within);
      }
    });
  });

  it('a Gaussian shrinks a ball by its second moment, and the volume is kept by moving the level', async () => {
    await withTeam(1, (team) => {
      const level = levelOf(new Pool(team), 2, ball(8));
      const before = level.volume();
      expect(before / ((4 / 3) * Math.PI * 512)).toBeCloseTo(1, 2);
      applyFilter(level, filter({ strength: 1, iterations: 2 }));
      // Of a distance d a Gaussian of variance s^2 makes d + s^2 / r.
      expect(radiusOf(level)).toBeCloseTo(8 - 2 / 8, 1);
      const shift = keepVolume(level, before, 3);
      expect(shift).toBeCloseTo(0.25, 1);
      expect(level.volume() / before).toBeCloseTo(1, 3);
    });
  });

  it('erode and dilate are each other, open takes what is thin, close fills a gap', async () => {
    await withTeam(1, (team) => {
      const pool = new Pool(team);
      const slab = (x: number, y: number, z: number): number => Math.max(Math.abs(y) - 0.9, Math.hypot(x, z) - 9);
      const thinBall = (x: number, y: number, z: number): number => Math.min(ball(6)(x, y, z), slab(x, y, z));
      const eroded = levelOf(pool, 2, ball(8));
      applyFilter(eroded, filter({ kind: 'erode', strength: 1.5 }));
      expect(radiusOf(eroded)).toBeCloseTo(6.5, 1);
      applyFilter(eroded, filter({ kind: 'dilate', strength: 1.5 }));
      expect(radiusOf(eroded)).toBeCloseTo(8, 1);
      const opened = levelOf(pool, 2, thinBall);
      applyFilter(opened, filter({ kind: 'open', strength: 1.5 }));
      expect(radiusOf(opened)).toBeCloseTo(6, 1);
      const gap = levelOf(pool, 2, (x, y, z) => Math.max(ball(7)(x, y, z), 0.8 - Math.abs(x)));
      applyFilter(gap, filter({ kind: 'close', strength: 1.5 }));
      expect(new Reader(gap).between(0, 0, 0)).toBeLessThan(0);
    });
  });

  it('spares what is thin, wholly or in part', async () => {
    await withTeam(1, (team) => {
      const pool = new Pool(team);
      const sheet = (x: number, y: number, z: number): number =>
        Math.min(ball(5)(x, y, z), Math.max(Math.abs(y) - 0.8, Math.hypot(x, z) - 12));
      for (const kind of ['gaussian', 'open'] as const) {
        const values = [0, 1].map((spareThin) => {
          const level = levelOf(pool, 3, sheet);
          markThin(level, 3);
          applyFilter(level, filter({ kind, strength: 1.3, iterations: kind === 'gaussian' ? 4 : 1, spareThin }));
          return new Reader(level).between(9.5, 0, 0);
        });
        expect(values[0], kind).toBeGreaterThan(0);
        expect(values[1], kind).toBeLessThan(0);
      }
    });
  });

  it('marks nothing of a solid body as thin, whatever lay in its memory before', async () => {
    await withTeam(1, (team) => {
      const pool = new Pool(team);
      // Buffers that are used again hold what was in them.
      const used = Array.from({ length: 6 }, () => pool.take(216 * 2048));
      for (const pointer of used) team.floats(pointer, 216 * 512).fill(7);
      pool.give(...used);
      const level = levelOf(pool, 3, ball(18));
      markThin(level, 3);
      const mask = team.floats(level.beside('thin'), level.slots * 512);
      expect(mask.every((v) => v >= 0 && v < 0.2)).toBe(true);
    });
  });

  it('spares a sheet that lies alone, far from all that a filter leaves', async () => {
    await withTeam(1, (team) => {
      const alone = (x: number, y: number, z: number): number =>
        Math.min(Math.hypot(x, y + 14, z) - 6, Math.max(Math.abs(y - 14) - 0.9, Math.hypot(x, z) - 12));
      const level = levelOf(new Pool(team), 3, alone);
      markThin(level, 3);
      applyFilter(level, filter({ kind: 'open', strength: 1.5, spareThin: 1 }));
      const reader = new Reader(level);
      expect(reader.at(0, 13, 0)).toBeCloseTo(-0.4, 2);
      expect(reader.between(9, 14, 3)).toBeLessThan(-0.35);
      expect(reader.between(0, -14, 0)).toBe(-4);
      expect(reader.between(0, 5, 0)).toBe(4);
    });
  });

  it('one that is off, or of no strength, changes no bit', async () => {
    await withTeam(1, (team) => {
      const level = levelOf(new Pool(team), 2, ball(7));
      const before = level.values().slice();
      applyFilter(level, filter({ on: false }));
      applyFilter(level, filter({ strength: 0 }));
      expect(level.values()).toEqual(before);
    });
  });
});

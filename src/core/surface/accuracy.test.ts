import { describe, expect, it } from 'vitest';
import { mulberry32 } from '#core/math';
import { faultySides, latticeParticles, measureMesh, withTeam } from '#testing';
import { type DistanceOptions, NATURAL, Pool, cellSizeOf, distanceOf, keepVolume, polygonsOfLevel, sortIntoCells, surroundings } from '.';

const S = 0.01;
const options = (changes: Partial<DistanceOptions> = {}): DistanceOptions => ({
  method: 'averaged',
  voxelSize: 0.8 * S,
  spacing: S,
  radius: NATURAL * 3 * S,
  each: false,
  reach: 3 * S,
  joining: 2 * S,
  fewest: 10,
  ...changes,
});

describe('a ball of particles, 16 spacings across', () => {
  const chance = mulberry32(7);
  const R = 8 * S;
  const ball = latticeParticles(
    S,
    [0.1, 0.1, 0.1],
    (x, y, z) => Math.hypot(x, y, z) < R,
    () => 0.5 * (chance() - 0.5),
  );
  for (const method of ['averaged', 'kernels', 'balls'] as const)
    it(`${method}: volume, area, closed`, async () => {
      await withTeam(1, (team) => {
        const pool = new Pool(team);
        const o = options({ method, joining: method === 'averaged' ? 2 * S : null });
        const cells = sortIntoCells(pool, ball, {
          cellSize: cellSizeOf(o.reach),
          voxelSize: o.voxelSize,
          radius: o.radius,
          volume: S ** 3,
        });
        const around = method === 'kernels' ? surroundings(pool, cells, o) : null;
        const level = distanceOf(pool, cells, o, around);
        keepVolume(level, ball.count * (S / o.voxelSize) ** 3, 3);
        const mesh = polygonsOfLevel(level, o.voxelSize);
        const { volume, area } = measureMesh(mesh);
        const [V, A] = [(4 / 3) * Math.PI * R ** 3, 4 * Math.PI * R ** 2];
        expect(faultySides(mesh.triangles)).toBe(0);
        expect(Math.abs(volume / V - 1)).toBeLessThan(method === 'balls' ? 0.03 : 0.01);
        // Balls stay balls: their skin is as bumpy as they lie.
        if (method !== 'balls') expect(Math.abs(area / A - 1)).toBeLessThan(0.02);
      });
    });
});

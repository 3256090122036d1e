import { describe, expect, it } from 'vitest';
import type { TileGrid } from '#core/grid';
import { body, liquidOptions, withTeam } from '#testing';
import { type LiquidFrame, solveLiquid } from './solver';
import type { LiquidVolume } from './volumes';

/** A ball that is thrown: nothing changes its velocity but gravity. */
const options = liquidOptions({
  lastFrame: 4,
  bounds: { limit: { min: [-2, -2, -2], max: [2, 2, 2] } },
  sources: [body({ kind: 'ball', centre: [0, 0.5, 0], radius: 0.35 }, { velocity: [1.5, 0, -0.5] })],
});

async function last(volumes: readonly LiquidVolume[]): Promise<{ frame: LiquidFrame; grids: readonly TileGrid[]; places: Float32Array }> {
  return withTeam(1, (team) => {
    for (const frame of solveLiquid(options, { team, clock: () => 0, cancelled: () => false, volumes }))
      if (frame.report.frame === 4) return { frame, grids: frame.volumes(), places: frame.cloud().places };
    throw new Error('no frame');
  });
}

const G = 9.80665;

describe('volumes of a frame', () => {
  it('are where its particles are at the end of the frame: distance and velocity of a ball that was thrown', async () => {
    const { grids } = await last(['distance', 'vel']);
    const time = 3 / 24;
    const centre = [1.5 * time, 0.5 - 0.5 * G * time ** 2, -0.5 * time] as const;
    const velocity = [1.5, -G * time, -0.5] as const;
    const [distance, vel] = grids as [TileGrid, TileGrid];
    expect([distance.name, distance.components, vel.name, vel.components]).toEqual(['distance', 1, 'vel', 3]);
    expect(vel.masks).toEqual(distance.masks);
    let [cells, near, error, off] = [0, 0, 0, 0];
    for (let n = 0; n < distance.values.length; n++) {
      if (((distance.masks[n >> 3] ?? 0) & (1 << (n & 7))) === 0) continue;
      const t = n >> 9;
      const at = [(n >> 6) & 7, (n >> 3) & 7, n & 7].map((v, a) => ((distance.origins[3 * t + a] ?? 0) + v + 0.5) * 0.05);
      const true_ = Math.hypot(...at.map((v, a) => v - (centre[a] ?? 0))) - 0.35;
      const told = distance.values[n] ?? 0;
      if (Math.abs(true_) < 0.03) {
        error += Math.abs(told - true_);
        near++;
      } else expect(Math.sign(told)).toBe(Math.sign(true_));
      for (const a of [0, 1, 2]) off = Math.max(off, Math.abs((vel.values[3 * n + a] ?? 0) - (velocity[a] ?? 0)));
      cells++;
    }
    // As many as its volume and a voxel and a half around it have.
    expect(cells * 0.05 ** 3).toBeGreaterThan((4 / 3) * Math.PI * 0.38 ** 3);
    expect(cells * 0.05 ** 3).toBeLessThan((4 / 3) * Math.PI * 0.45 ** 3);
    expect(error / near).toBeLessThan(0.1 * 0.05);
    // Velocities of particles belong to the middle of the last substep.
    expect(off).toBeLessThan(0.5 * G * (1 / 24) + 0.02);
  });

  it('change nothing of the particles, and are none unless asked for', async () => {
    const [with_, without] = [await last(['distance']), await last([])];
    expect(without.grids).toEqual([]);
    expect(with_.grids.map((g) => g.name)).toEqual(['distance']);
    expect(with_.frame.report.particles).toBe(without.frame.report.particles);
    const sorted = (places: Float32Array): number[] => [...places].filter((_v, n) => n % 4 === 1).sort((a, b) => a - b);
    const [a, b] = [sorted(with_.places), sorted(without.places)];
    expect(Math.max(...a.map((v, n) => Math.abs(v - (b[n] ?? 0))))).toBeLessThan(1e-4);
  });
});

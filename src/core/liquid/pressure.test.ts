import { describe, expect, it } from 'vitest';
import { Motion } from '#core/flow';
import { type KernelTeam, indexOf } from '#core/grid';
import { body, boxOf, liquidOptions, withTeam } from '#testing';
import { LiquidGrid } from './grid';
import type { LiquidOptions } from './options';
import { Particles } from './particles';
import { STAGES, type Stage } from './report';
import { giveLiquid } from './seeds';
import { Sorter } from './sorter';
import { LiquidStep } from './step';

const DEPTH = 0.6;

/** Pressure in a tank after one substep from rest, pascals, at the middles of the cells of a column. */
function pressures(team: KernelTeam, options: LiquidOptions): { y: number; pascals: number }[] {
  const motion = new Motion(options, () => {
    throw new Error('no meshes');
  });
  const capacity = 200_000;
  const grid = new LiquidGrid(team, options, [], capacity);
  const particles = new Particles(team, true);
  const sorter = new Sorter(team);
  const step = new LiquidStep(
    team,
    options,
    grid,
    particles,
    sorter,
    motion,
    () => 0,
    () => false,
    capacity,
  );
  const open = (): number => 1e9;
  giveLiquid({ team, options, particles, motion, grid, sorter, open, travelled: 0, early: [0, 0, 0], pull: [0, 0, 0] }, 0, 0, 0, 1);
  const dt = 1 / 96;
  const seconds = Object.fromEntries(STAGES.map((s) => [s, 0])) as Record<Stage, number>;
  step.run(0, dt, dt, 1, particles.count / 8, { solids: [], stood: false, stand: true }, seconds, false, []);
  const { window: w } = grid;
  const h = options.voxelSize;
  const x = team.floats(grid.fields.x, grid.size);
  return Array.from({ length: Math.round(DEPTH / h) }, (_v, j) => ({
    y: (j + 0.5) * h,
    pascals: ((x[indexOf(w.nx, w.ny, 4 - w.ox, j - w.oy, 4 - w.oz)] ?? 0) * options.matter.density * h) / dt,
  }));
}

describe('the pressure in a tank', () => {
  it.each([
    [1000, 9.80665],
    [1600, 9.80665],
    [1000, 3.7],
  ])('is that of the liquid above: %i kg/m3 under %d m/s2', async (density, g) => {
    const options = liquidOptions({
      bounds: { limit: { min: [0, 0, 0], max: [0.6, 1, 0.6] } },
      sources: [body(boxOf([0, 0, 0], [0.6, DEPTH, 0.6]))],
      forces: { gravity: [0, -g, 0] },
      matter: { density },
      stepping: { tolerance: 1e-5 },
    });
    for (const { y, pascals } of await withTeam(1, (team) => pressures(team, options)))
      // The surface is where it is to 0.03 voxels.
      expect(Math.abs(pascals / (density * g) - (DEPTH - y)), `at ${String(y)}`).toBeLessThan(0.03 * 0.05 + 0.002 * DEPTH);
  });
});

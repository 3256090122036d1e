import type { LiquidReport } from '#core/liquid';
import { type Deep, merged } from './merge';

const base: LiquidReport = {
  frame: 1,
  time: 0,
  seconds: {
    sources: 0,
    sorting: 0.02,
    transfer: 0.02,
    surface: 0.01,
    forces: 0,
    viscosity: 0,
    pressure: 0.02,
    volume: 0.01,
    moving: 0.05,
    writing: 0,
  },
  totalSeconds: 0.13,
  particles: 80_000,
  liquidVoxels: 10_000,
  activeVoxels: 51_200,
  activeTiles: 100,
  window: [0, 0, 0, 64, 32, 32],
  matterBox: [0, 0, 0, 3, 1, 1],
  memoryBytes: 2e7,
  substepsWanted: 2,
  substepsUsed: 2,
  substepSpeed: 3,
  fastest: 3,
  cflReached: 1.2,
  iterations: 12,
  residual: 1e-5,
  divergence: 1e-4,
  converged: true,
  viscosityConverged: true,
  volume: { start: 1, filled: 0, emitted: 0, drained: 0, walls: 0, remainder: 0, end: 1 },
  surfaceVolume: 1,
  expectedVolume: 1,
  energy: { kinetic: 10, potential: 5000, correction: 1 },
  walls: { met: 100, inside: 0 },
  lie: { bulk: 8000, empty: 0, clumps: 0, inside: 0, gap: { mean: 0.16, largest: 0.3 } },
  calibrationSeconds: 0,
};

/** A frame of a liquid in which nothing is wrong. */
export const makeLiquidReport = (changes: Deep<LiquidReport> = {}): LiquidReport => merged(base, changes);

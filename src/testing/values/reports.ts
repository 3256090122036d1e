import type { FrameReport } from '#core/gas';
import { type Deep, merged } from './merge';

const base: FrameReport = {
  frame: 1,
  time: 0,
  seconds: { sources: 0.01, forces: 0.05, advection: 0.2, pressure: 0.1, bounds: 0.01, writing: 0.1 },
  totalSeconds: 0.47,
  activeVoxels: 100_000,
  activeTiles: 200,
  roughness: 0.3,
  matterTiles: 120,
  window: [0, 0, 0, 64, 64, 64],
  matterBox: [8, 8, 8, 56, 56, 56],
  memoryBytes: 20e6,
  substepsWanted: 2,
  substepsUsed: 2,
  substepSpeed: 3,
  fastest: 3,
  cflReached: 1.2,
  iterations: 8,
  residual: 5e-5,
  divergence: 1e-5,
  converged: true,
  trapped: 0,
  energy: { kinetic: 1, buoyancy: 1, forces: 0, confinement: 0, smoothing: 0, loss: 0 },
  mass: {
    start: 10,
    sources: 0.2,
    advection: 0.01,
    walls: { left: 0, right: 0, floor: 0, ceiling: 0, back: 0, front: 0 },
    crop: 0,
    asleep: 0,
    decay: 0,
    cutOff: 0,
    solids: 0,
    burning: 0,
    expansion: 0,
    remainder: 0,
    end: 10.2,
  },
  maxima: { density: 1, temperature: 400, speed: 3 },
  calibrationSeconds: 5e-4,
};

/** A frame's report in which nothing is wrong; `changes` overrides parts of it. */
export function makeReport(changes: Deep<FrameReport> = {}): FrameReport {
  return merged(base, changes);
}

/** Reports of frames 1 to `count`, each with the same changes. */
export const makeReports = (count: number, changes: Deep<FrameReport> = {}): FrameReport[] =>
  Array.from({ length: count }, (_v, n) => makeReport({ ...changes, frame: n + 1 }));

import type { PredictedFrame } from './extrapolate';

/** Stands for an amount that no machine has: what comes out as no number is that, and fits into no budget. */
const ABSURD = 1e30;

const amount = (v: number): number => (Number.isFinite(v) ? Math.min(ABSURD, Math.max(0, v)) : ABSURD);

/** Whether every quantity of some frames is a number, and none is negative. */
export const allFinite = (frames: readonly PredictedFrame[]): boolean =>
  frames.every((f) => [f.voxels, ...f.window, f.memoryBytes, f.substeps, f.iterations, f.bytes].every((v) => Number.isFinite(v) && v >= 0));

/** Frames in which every quantity is a number. */
export const madeFinite = (frames: readonly PredictedFrame[]): PredictedFrame[] =>
  frames.map((f) => ({
    ...f,
    voxels: amount(f.voxels),
    window: [amount(f.window[0]), amount(f.window[1]), amount(f.window[2])],
    memoryBytes: amount(f.memoryBytes),
    substeps: amount(f.substeps),
    iterations: amount(f.iterations),
    bytes: amount(f.bytes),
  }));

/** Seconds, or what stands for more than anybody has. */
export const finiteSeconds = amount;

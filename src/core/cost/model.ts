import { STAGES, type Stage } from '#core/gas';
import { type CostFrame, type CostRun, type Work, workOf } from './evidence';
import { median, robustFit } from './nnls';

/**
 * Time of a frame as a sum over stages, each a non-negative combination of what it works on. Fitted to reports of this machine, in calibrated seconds:
 * measured seconds x reference / calibration beside them, so that a busy hour does not spoil it.
 */
export interface CostModel {
  readonly coefficients: Readonly<Record<Stage, readonly number[]>>;
  /** Typical relative error of a frame's time. */
  readonly sigma: number;
  /** Frames it was fitted to. */
  readonly frames: number;
  /** Calibration time that a calibrated second stands for. */
  readonly reference: number;
}

/** What a frame's time depends on, known or predicted. */
export type FrameLoad = Pick<CostFrame, 'voxels' | 'window' | 'substeps' | 'iterations' | 'bytes'>;

/** Active voxels whose fields still fit into the caches, about; above, every doubling costs a little more a voxel. */
const CACHED = 40_000;
const spilled = (f: FrameLoad): number => f.voxels * Math.max(0, Math.log2(f.voxels / CACHED));

/** Columns of each stage's fit. */
const FEATURES: Readonly<Record<Stage, (f: FrameLoad, w: Work) => readonly number[]>> = {
  sources: (f, w) => [f.substeps, f.substeps * w.sourceVoxels],
  forces: (f, w) => [
    f.voxels * f.substeps,
    f.voxels * f.substeps * w.turbulence,
    f.voxels * f.substeps * w.confinement,
    f.voxels * f.substeps * w.regions,
    f.voxels * f.substeps * w.pulls,
    f.substeps * spilled(f),
  ],
  advection: (f, w) => [f.voxels * f.substeps * w.carried, f.substeps * w.carried * spilled(f), f.substeps],
  pressure: (f) => [f.voxels * f.iterations, f.iterations * spilled(f), f.voxels * f.substeps, f.iterations],
  bounds: (f, w) => {
    const window = f.window[0] * f.window[1] * f.window[2];
    const moving = w.movingVoxels > 0 ? f.substeps : 0;
    return [
      window,
      f.voxels * f.substeps,
      f.substeps * w.limitTiles,
      moving * w.movingVoxels,
      moving * window,
      moving * f.voxels,
      f.substeps * w.deformingSamples,
    ];
  },
  writing: (f, w) => [f.voxels * w.components, f.bytes, 1],
};

/** Seconds by stage of a frame. */
export function stageSeconds(model: CostModel, load: FrameLoad, work: Work): Record<Stage, number> {
  return Object.fromEntries(
    STAGES.map((stage) => [stage, FEATURES[stage](load, work).reduce((s, v, i) => s + v * (model.coefficients[stage][i] ?? 0), 0)]),
  ) as Record<Stage, number>;
}

export const frameSeconds = (model: CostModel, load: FrameLoad, work: Work): number =>
  Object.values(stageSeconds(model, load, work)).reduce((a, b) => a + b, 0);

/** Calibration of each frame: the median of its neighbours', for a single reading says more about its millisecond than about the frame. */
export function smoothCalibration(frames: readonly CostFrame[]): number[] {
  const REACH = 6;
  return frames.map((_f, n) => {
    const near = frames.slice(Math.max(0, n - REACH), n + REACH + 1).map((f) => f.calibration);
    return median(near.filter((v) => v > 0)) || 0;
  });
}

/** Seconds of a run's frames in calibrated units. */
export function calibratedSeconds(frames: readonly CostFrame[], reference: number): number[] {
  const calibration = smoothCalibration(frames);
  return frames.map((f, n) => {
    const total = Object.values(f.seconds).reduce((a, b) => a + b, 0);
    const c = calibration[n] ?? 0;
    return c > 0 && reference > 0 ? (total * reference) / c : total;
  });
}

/** Most frames of one run that the fit sees: evenly taken, so that one long run does not rule. */
const FRAMES_A_RUN = 60;

/** Fits the model to runs of this machine with as many threads; null while there is nothing to learn from. */
export function fitModel(runs: readonly CostRun[], threads: number): CostModel | null {
  const usable = runs.filter((r) => r.origin !== 'browser' && r.threads === threads && r.frames.length > 0);
  const reference = median(usable.flatMap((r) => r.frames.map((f) => f.calibration)).filter((v) => v > 0)) || 0;
  const rows: { load: FrameLoad; work: Work; seconds: Record<Stage, number> }[] = [];
  for (const run of usable) {
    const work = workOf(run.plan);
    const calibration = smoothCalibration(run.frames);
    const every = Math.max(1, Math.ceil(run.frames.length / FRAMES_A_RUN));
    run.frames.forEach((f, n) => {
      // The first frame sets memory up; what is fitted is the rest.
      if (n === 0 || n % every !== 0) return;
      const c = calibration[n] ?? 0;
      const factor = c > 0 && reference > 0 ? reference / c : 1;
      const seconds = Object.fromEntries(STAGES.map((s) => [s, f.seconds[s] * factor])) as Record<Stage, number>;
      rows.push({ load: f, work, seconds });
    });
  }
  if (rows.length < 4) return null;
  const coefficients = Object.fromEntries(
    STAGES.map((stage) => {
      const features = rows.map((r) => FEATURES[stage](r.load, r.work));
      return [
        stage,
        robustFit(
          features,
          rows.map((r) => r.seconds[stage]),
        ).x,
      ];
    }),
  ) as unknown as Record<Stage, number[]>;
  if (!Object.values(coefficients).flat().every(Number.isFinite)) return null;
  const model: CostModel = { coefficients, sigma: 0, frames: rows.length, reference };
  const errors = rows.map((r) => {
    const total = Object.values(r.seconds).reduce((a, b) => a + b, 0);
    return Math.abs(Math.log(Math.max(1e-9, frameSeconds(model, r.load, r.work)) / Math.max(1e-9, total)));
  });
  return { ...model, sigma: 1.4826 * (median(errors) || 0) };
}

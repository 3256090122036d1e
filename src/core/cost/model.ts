import { STAGES, type Stage } from '#core/gas';
import { type CostFrame, type CostRun, type Work, workOf } from './evidence';
import { median, robustFit } from './nnls';

/**
 * Time of a frame as a sum over stages, each a non-negative combination of what it works on. Fitted to reports of this machine, in calibrated seconds:
 * measured seconds x reference / calibration beside them, so that a busy hour does not spoil it.
 */
export interface CostModel {
  readonly coefficients: Readonly<Record<Stage, readonly number[]>>;
  /** Time of whole runs over the sum of their frames as fitted: frames that the machine was taken away from are held down in the fit, and are waited for. */
  readonly interrupted: number;
  /** Typical relative error of a frame's time. */
  readonly sigma: number;
  /** Frames it was fitted to. */
  readonly frames: number;
  /** Calibration time that a calibrated second stands for. */
  readonly reference: number;
}

/** What a frame's time depends on, known or predicted. */
export interface FrameLoad extends Pick<CostFrame, 'voxels' | 'window' | 'substeps' | 'iterations' | 'bytes'> {
  /** Voxels of the window if it was laid out anew, else 0. */
  readonly laidOut: number;
}

const volume = ([x, y, z]: CostFrame['window']): number => x * y * z;

/** Loads of frames that follow each other. */
export const loadsOf = <F extends Omit<FrameLoad, 'laidOut'>>(frames: readonly F[]): (F & FrameLoad)[] =>
  frames.map((f, n) => {
    const before = frames[n - 1]?.window;
    return { ...f, laidOut: before?.every((v, a) => v === f.window[a]) ? 0 : volume(f.window) };
  });

/** Most voxels a side of a preview, about: coarser by whole factors of 2. */
const PREVIEW = 96;
const previewVoxels = (window: CostFrame['window']): number => {
  let side = Math.max(...window);
  let voxels = volume(window);
  while (side > PREVIEW) {
    side /= 2;
    voxels /= 8;
  }
  return voxels;
};

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
    const window = volume(f.window);
    const moving = w.movingVoxels > 0 ? f.substeps : 0;
    return [
      window,
      f.laidOut,
      f.voxels * f.substeps,
      f.substeps * w.limitTiles,
      moving * w.movingVoxels,
      moving * window,
      moving * f.voxels,
      f.substeps * w.deformingSamples,
    ];
  },
  writing: (f, w) => [f.voxels * w.components, f.bytes, previewVoxels(f.window) * w.channels, 1],
};

/** Seconds by stage of a frame. */
export function stageSeconds(model: CostModel, load: FrameLoad, work: Work): Record<Stage, number> {
  return Object.fromEntries(
    STAGES.map((stage) => [stage, FEATURES[stage](load, work).reduce((s, v, i) => s + v * (model.coefficients[stage][i] ?? 0), 0)]),
  ) as Record<Stage, number>;
}

export const frameSeconds = (model: CostModel, load: FrameLoad, work: Work): number =>
  model.interrupted * Object.values(stageSeconds(model, load, work)).reduce((a, b) => a + b, 0);

/** Calibration of each frame: the median of its neighbours', for a single reading says more about its millisecond than about the frame. */
export function smoothCalibration(frames: readonly Pick<CostFrame, 'calibration'>[]): number[] {
  const REACH = 6;
  return frames.map((_f, n) => {
    const near = frames.slice(Math.max(0, n - REACH), n + REACH + 1).map((f) => f.calibration);
    return median(near.filter((v) => v > 0)) || 0;
  });
}

/**
 * What a frame's seconds are multiplied with for the machine's speed beside it. A short kernel feels a busy neighbour more than the work does: over twelve
 * shots on a shared machine, times spread by 0.18 as they were, by 0.13 with this power, by 0.17 with the whole ratio (natural logarithm).
 */
export const calibrated = (reference: number, calibration: number): number =>
  calibration > 0 && reference > 0 ? (reference / calibration) ** 0.7 : 1;

/** What of a frame says how long it took: of any kind of solve. */
interface Timed {
  readonly seconds: Readonly<Record<string, number>>;
  readonly calibration: number;
  /** Seconds in which other programs held the cores. */
  readonly waited?: number | undefined;
}

/** Calibrated seconds of a run's frames, without their waiting for cores. */
export function calibratedSeconds(frames: readonly Timed[], reference: number): number[] {
  const calibration = smoothCalibration(frames);
  return frames.map((f, n) => {
    const total = Object.values(f.seconds).reduce((a, b) => a + b, 0) - (f.waited ?? 0);
    const c = calibration[n] ?? 0;
    return Math.max(0, total) * calibrated(reference, c);
  });
}

/** Frames at the start of a run in which its code is still being compiled; of a short run the first half. */
const WARMING = 5;

/** Most frames of one run that the fit sees: evenly taken, so that one long run does not rule. */
const FRAMES_A_RUN = 60;

/** A frame that waited for cores longer than this part of its time tells of the neighbours, not of the work: it teaches nothing about times. */
const CROWDED = 0.25;

export const crowded = ({ seconds, waited = 0 }: Omit<Timed, 'calibration'>): boolean =>
  waited > CROWDED * Object.values(seconds).reduce((a, b) => a + b, 0);

/** Fits the model to runs of this machine with as many threads; null while there is nothing to learn from. */
export function fitModel(runs: readonly CostRun[], threads: number): CostModel | null {
  return fitRows(runs, threads, true) ?? fitRows(runs, threads, false);
}

/** `alone`: without frames that waited for cores. Where every hour is a busy one, times of busy hours are all that is known. */
function fitRows(runs: readonly CostRun[], threads: number, alone: boolean): CostModel | null {
  const usable = runs.filter((r) => r.origin !== 'browser' && r.threads === threads && r.frames.length > 0);
  const reference = median(usable.flatMap((r) => r.frames.map((f) => f.calibration)).filter((v) => v > 0)) || 0;
  const rows: { load: FrameLoad; work: Work; seconds: Record<Stage, number> }[] = [];
  for (const run of usable) {
    const work = workOf(run.plan);
    const calibration = smoothCalibration(run.frames);
    const every = Math.max(1, Math.ceil(run.frames.length / FRAMES_A_RUN));
    const warm = Math.min(WARMING, run.frames.length >> 1);
    loadsOf(run.frames).forEach((f, n) => {
      // Frames that laid the window out are few, and tell what that costs.
      const told = run.frames[n];
      if (n < warm || (n % every !== 0 && f.laidOut === 0) || (alone && told && crowded(told))) return;
      const c = calibration[n] ?? 0;
      const factor = calibrated(reference, c);
      const seconds = Object.fromEntries(STAGES.map((s) => [s, f.seconds[s] * factor])) as Record<Stage, number>;
      rows.push({ load: f, work, seconds });
    });
  }
  // A handful that found a free core by chance says less than all of them.
  if (rows.length < (alone ? 12 : 4)) return null;
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
  const model: CostModel = { coefficients, interrupted: 1, sigma: 0, frames: rows.length, reference };
  const both = rows.map((r) => ({
    run: r.work,
    said: Math.max(1e-9, frameSeconds(model, r.load, r.work)),
    took: Math.max(
      1e-9,
      Object.values(r.seconds).reduce((a, b) => a + b, 0),
    ),
  }));
  const sums = new Map<Work, { said: number; took: number }>();
  for (const { run, said, took } of both) {
    const sum = sums.get(run) ?? { said: 0, took: 0 };
    sums.set(run, { said: sum.said + said, took: sum.took + took });
  }
  const interrupted = median([...sums.values()].map(({ said, took }) => took / said)) || 1;
  return {
    ...model,
    interrupted: Math.min(MOST_INTERRUPTED, Math.max(1, interrupted)),
    sigma: 1.4826 * (median(both.map(({ said, took }) => Math.abs(Math.log(said / took)))) || 0),
  };
}

const MOST_INTERRUPTED = 1.5;

/** Until this machine is calibrated: one core of a machine of 2026, measured over the demo's shots. Another may be three times as fast or as slow. */
export const UNMEASURED: CostModel = {
  coefficients: {
    sources: [0, 5e-7],
    forces: [3e-7, 1e-7, 1e-7, 3e-7, 0, 6e-8],
    advection: [9.5e-8, 1.4e-8, 0],
    pressure: [5.8e-8, 1.1e-9, 0, 1e-3],
    bounds: [0, 2e-7, 1.2e-7, 0, 4e-6, 0, 0, 0],
    writing: [2.3e-8, 8.6e-8, 3.2e-9, 0],
  },
  interrupted: 1,
  sigma: 0.7,
  frames: 0,
  reference: 0,
};

import { type FlowOptions, limitWindow } from '#core/flow';
import { windowBytes } from '#core/gas';
import { windowOf } from '#core/grid';
import { replayWindows } from './replay';
import type { GasPlan } from '#core/shot';
import { type CostFrame, type CostRun, componentsOf } from './evidence';
import { type Lessons, activeVolume, bytesOfVoxel } from './lessons';
import type { FrameLoad } from './model';

/** A frame that has not been computed. */
export interface PredictedFrame extends Omit<FrameLoad, 'laidOut'> {
  readonly frame: number;
  readonly memoryBytes: number;
  /** Of a liquid. */
  readonly particles?: number;
}

/** Standard deviation of the logarithm of the fastest speed from frame to frame: a maximum flickers. */
const FLICKER = 0.18;
/** Voxels by which tiles and stencils widen the cube root of the active voxels; measured on plumes: 8 to 12. */
const WIDENING = 9.5;
/** The window keeps a tile to spare on each side, and rounds to tiles. */
const WINDOW_SPARE = 12;

/** Expected substeps of a frame: the ceiling, averaged over the speed's flicker, within the limits. */
export function expectedSubsteps(
  speed: number,
  { options }: { readonly options: Pick<FlowOptions, 'stepping' | 'framesPerSecond' | 'voxelSize'> },
): number {
  const { stepping, framesPerSecond, voxelSize } = options;
  const clamp = (n: number): number => Math.min(stepping.maximum, Math.max(stepping.minimum, n));
  const x = speed / (framesPerSecond * stepping.cfl * voxelSize);
  const PARTS = [-1.5, -0.9, -0.5, -0.16, 0.16, 0.5, 0.9, 1.5];
  return PARTS.reduce((sum, z) => sum + clamp(Math.max(1, Math.ceil(x * Math.exp(z * FLICKER)))), 0) / PARTS.length;
}

/** Metres that bounds keep ahead of matter on voxels of a size: never less than the stencils. */
const reachOf = ({ options: { bounds } }: GasPlan, h: number): number =>
  bounds.mode === 'adaptive' ? Math.max(bounds.reach, 3 * h) : 3 * h;

/** Frames of a plan from those of a run that was computed, frame by frame. */
export function extrapolate(run: CostRun, plan: GasPlan, lessons: Lessons): PredictedFrame[] {
  const from = run.plan.options;
  const to = plan.options;
  const [hFrom, hTo] = [from.voxelSize, to.voxelSize];
  const halvings = Math.log2(hFrom / hTo);
  const limit = limitWindow(to);
  const most = limit.nx * limit.ny * limit.nz;
  const dense = to.bounds.mode === 'dense';
  /** Of the settings: what the voxels change is reckoned with already. */
  const extraReach = 2 * (reachOf(plan, hTo) - reachOf(run.plan, hTo));
  const series = run.frames;
  const known = (n: number): CostFrame => series[Math.min(series.length - 1, Math.max(0, n))] as CostFrame;
  /** A quantity at a possibly fractional or later place in the run; beyond its end as it grew in the last quarter. */
  const at = (index: number, pick: (f: CostFrame) => number): number => {
    const last = series.length - 1;
    if (index <= last) {
      const low = Math.floor(Math.max(0, index));
      const part = Math.max(0, index) - low;
      return pick(known(low)) * (1 - part) + pick(known(low + 1)) * part;
    }
    const back = Math.max(1, Math.min(24, last >> 2));
    const slope = (pick(known(last)) - pick(known(last - back))) / back;
    return Math.max(0, pick(known(last)) + slope * (index - last));
  };
  /** Metres a side that a frame's matter would fill on the other voxels, as a cube. */
  const sideOf = (f: CostFrame): number => {
    const known = activeVolume(f, hFrom, hTo);
    if (known !== null) return Math.cbrt(known * lessons.smear ** halvings);
    // An older report: tiles widen what matter and reach fill by so many voxels; a run of few tiles must not come out with no matter at all.
    const side = Math.cbrt(f.voxels) * hFrom;
    return Math.max(0.25 * side, side - WIDENING * hFrom) + WIDENING * hTo;
  };
  const scale = componentsOf(plan) > 0 ? bytesOfVoxel(plan) / Math.max(1e-9, bytesOfVoxel(run.plan)) : 0;
  // Bytes a voxel; a frame without either has those of the first that has both.
  const stored = series.filter((f) => f.bytes > 0 && f.voxels > 0);
  const first = stored[0];
  const perVoxel = (f: CostFrame): number => {
    const known = f.bytes > 0 && f.voxels > 0 ? f : first;
    return known ? known.bytes / known.voxels : 0;
  };
  const begin = to.firstFrame - to.preRoll;
  const frames: PredictedFrame[] = [];
  const indexOf = (frame: number): number => ((frame - begin) / to.framesPerSecond) * from.framesPerSecond;
  const replayed = replayWindows(
    series.map((f) => f.matter),
    Array.from({ length: to.lastFrame - begin + 1 }, (_v, n) => indexOf(begin + n)),
    hFrom,
    to,
  );
  /** From the window's widths alone: for reports of older runs, which do not say where matter was. */
  const widthsOf = (index: number): [number, number, number] =>
    ([0, 1, 2] as const).map((a) => {
      const all = [limit.nx, limit.ny, limit.nz][a] ?? 8;
      if (to.bounds.mode !== 'adaptive') return all;
      const inner =
        Math.max(0.25, 1 - (WINDOW_SPARE * hFrom) / Math.max(hFrom, at(index, (f) => f.window[a]) * hFrom)) *
        at(index, (f) => f.window[a]) *
        hFrom;
      return Math.min(all, 8 * Math.ceil(((inner + extraReach) / hTo + WINDOW_SPARE) / 8 - 0.5));
    }) as [number, number, number];
  for (let frame = begin; frame <= to.lastFrame; frame++) {
    const index = indexOf(frame);
    const voxels = dense ? most : Math.min(most, (Math.max(0, at(index, sideOf) + extraReach) / hTo) ** 3);
    const window = replayed?.[frame - begin] ?? widthsOf(index);
    const unsolved = frame === begin && !to.firstFrameSolved;
    const speed = at(index, (f) => f.speed || 0) * lessons.speedGrowth ** halvings;
    const substeps = unsolved ? 0 : expectedSubsteps(speed, plan);
    const perSubstep = at(Math.max(1, index), (f) => f.iterations / Math.max(1, f.substeps));
    const tolerance = Math.log(to.stepping.tolerance) / Math.log(from.stepping.tolerance);
    const iterations = substeps * Math.min(to.stepping.iterations, perSubstep * lessons.iterationGrowth ** halvings * tolerance);
    const writes = frame >= to.firstFrame || plan.keep.preRoll;
    const bytesPerVoxel =
      stored.length > 0 ? at(index, perVoxel) * lessons.bytesGrowth ** halvings * scale : bytesOfVoxel(plan) * lessons.bytesFactor;
    frames.push({
      frame,
      voxels,
      window,
      memoryBytes: windowBytes(windowOf([0, 0, 0], window), to.matter),
      substeps,
      iterations,
      bytes: writes ? voxels * bytesPerVoxel : 0,
    });
  }
  return frames;
}

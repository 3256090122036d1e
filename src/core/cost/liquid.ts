import * as z from 'zod';
import { shapeBounds } from '#core/geometry';
import { type LiquidReport, STAGES, askedByFrame, bytesOfLiquid, coarseOf, outerWindow, streamOf, tensionStep } from '#core/liquid';
import { windowOf } from '#core/grid';
import { type LiquidPlan, canonicalJson, differences } from '#core/shot';
import type { CostRun } from './evidence';
import { type PredictedFrame, expectedSubsteps } from './extrapolate';
import { calibrated, crowded, smoothCalibration } from './model';
import { median, robustFit } from './nnls';
import { type Basis, type DetailedPrediction, rangeOf } from './prediction';
import { type RecordEntry, spreadOf } from './record';
import { replayWindows } from './replay';

const amount = z.number().min(0);

/** What the cost model reads of a liquid's frame. */
export const liquidCostFrameSchema = z.strictObject({
  frame: z.number().int(),
  particles: amount,
  /** Active voxels: those that hold liquid, and what is kept awake around them. */
  voxels: amount,
  /** Voxels of liquid. */
  liquid: amount,
  window: z.tuple([amount, amount, amount]),
  matter: z.array(z.number()).length(6).nullable(),
  memoryBytes: amount,
  substeps: amount,
  speed: amount,
  iterations: amount,
  bytes: amount,
  seconds: z.strictObject(Object.fromEntries(STAGES.map((s) => [s, amount])) as Record<(typeof STAGES)[number], typeof amount>),
  calibration: amount,
  /** Seconds in which other programs held the cores; not known of older runs and of browsers. */
  waited: amount.optional(),
});
export type LiquidCostFrame = z.output<typeof liquidCostFrameSchema>;

/** A liquid run as the cost model sees it. */
export interface LiquidCostRun extends Omit<CostRun, 'plan' | 'frames'> {
  readonly plan: LiquidPlan;
  readonly frames: readonly LiquidCostFrame[];
}
export type AnyCostRun = CostRun | LiquidCostRun;
export const isLiquidRun = (run: AnyCostRun): run is LiquidCostRun => run.plan.pass === 'liquid';

export const liquidCostFrame = (r: LiquidReport, bytes: number): LiquidCostFrame => ({
  frame: r.frame,
  particles: r.particles,
  voxels: r.activeVoxels,
  liquid: r.liquidVoxels,
  window: [r.window[3], r.window[4], r.window[5]],
  matter: r.matterBox === null ? null : [...r.matterBox],
  memoryBytes: r.memoryBytes,
  substeps: r.substepsUsed,
  speed: r.substepSpeed,
  iterations: r.iterations,
  bytes,
  seconds: { ...r.seconds },
  calibration: r.calibrationSeconds,
  ...(r.waitedSeconds === undefined ? {} : { waited: r.waitedSeconds }),
});

/** Time of a frame: substeps x (particles, voxels, one), what is thick for its voxels, what is written, and tension's curvatures. */
export interface LiquidModel {
  readonly coefficients: readonly number[];
  /** Calibration time that a calibrated second stands for. */
  readonly reference: number;
}

/** Before any liquid was computed here: of one core, measured with a million particles. */
const FIRST: LiquidModel = { coefficients: [5.5e-7, 5e-7, 4e-3, 4e-7, 3e-9, 2e-7], reference: 0 };
/** Frames at the start of a run in which its code is still being compiled. */
const WARMING = 3;
const FRAMES_A_RUN = 60;

interface Load {
  readonly particles: number;
  readonly voxels: number;
  readonly substeps: number;
  readonly bytes: number;
}

/** How many more iterations viscosity takes, about: as the root of how far it reaches in a substep, in voxels. */
const thickness = ({ options: { matter, voxelSize, framesPerSecond, sources } }: LiquidPlan, substeps: number): number => {
  const most = Math.max(matter.viscosity, ...sources.map((s) => s.viscosity ?? 0));
  return most === 0 ? 0 : Math.sqrt(1 + most / (framesPerSecond * Math.max(1, substeps) * voxelSize ** 2));
};

/** Substeps of a frame: as fast as matter moves, and as short as the waves of tension need. */
const substepsOf = (speed: number, plan: LiquidPlan): number => {
  const { stepping, framesPerSecond } = plan.options;
  return Math.max(expectedSubsteps(speed, plan), Math.min(stepping.maximum, Math.ceil(1 / (framesPerSecond * tensionStep(plan.options)))));
};

const features = (f: Load, plan: LiquidPlan): number[] => [
  f.substeps * f.particles,
  f.substeps * f.voxels,
  f.substeps,
  f.substeps * f.voxels * thickness(plan, f.substeps),
  f.bytes,
  plan.options.matter.tension > 0 ? f.substeps * f.voxels : 0,
];

const secondsOf = (model: LiquidModel, f: Load, plan: LiquidPlan): number =>
  features(f, plan).reduce((s, v, n) => s + v * (model.coefficients[n] ?? 0), 0);

/** Fits the model to runs of this machine with as many threads; null while there is nothing to learn from. */
export function fitLiquid(runs: readonly LiquidCostRun[], threads: number): LiquidModel | null {
  return fitRows(runs, threads, true) ?? fitRows(runs, threads, false);
}

/** `alone`: without frames that waited for cores. Where every hour is a busy one, times of busy hours are all that is known. */
function fitRows(runs: readonly LiquidCostRun[], threads: number, alone: boolean): LiquidModel | null {
  const usable = runs.filter((r) => r.origin === 'server' && r.threads === threads && r.frames.length > WARMING);
  const reference = median(usable.flatMap((r) => r.frames.map((f) => f.calibration)).filter((v) => v > 0)) || 0;
  const rows: number[][] = [];
  const times: number[] = [];
  for (const run of usable) {
    const calibration = smoothCalibration(run.frames);
    const every = Math.max(1, Math.ceil(run.frames.length / FRAMES_A_RUN));
    run.frames.forEach((f, n) => {
      if (n < WARMING || n % every !== 0 || f.substeps === 0 || (alone && crowded(f))) return;
      rows.push(features(f, run.plan));
      times.push(Object.values(f.seconds).reduce((a, b) => a + b, 0) * calibrated(reference, calibration[n] ?? 0));
    });
  }
  if (rows.length < (alone ? 16 : 8)) return null;
  const { x } = robustFit(rows, times);
  return x.every(Number.isFinite) && x.some((v) => v > 0) ? { coefficients: x, reference } : null;
}

/** Voxels that bounds are kept awake around particles, and what a window has to spare. */
const AROUND = 5;
/** Of a body that falls apart: its active voxels over those of a compact one. */
const APART = 1.6;
const PREVIEW_POINTS = 200_000;
/** Layers beyond the fine one in which particles are fine still: two at walls or the surface, and what is neither merged nor split. */
const FRINGE = 2;

/** Particles of so many voxels of liquid, so many of which lie near its surface. */
const particlesOf = ({ options: { particles } }: LiquidPlan, liquid: number, near: number): number =>
  coarseOf({ particles }) === null
    ? liquid * particles.along ** 3
    : near * particles.along ** 3 + Math.max(0, liquid - near) * particles.inside ** 3;

/** Of a compact body, the voxels within the fine layer. */
const nearSurface = ({ options: { particles } }: LiquidPlan, liquid: number): number => {
  const side = Math.cbrt(Math.max(1, liquid));
  return particles.band === null ? liquid : liquid * (1 - Math.max(0, 1 - (2 * (particles.band + FRINGE)) / side) ** 3);
};

/** Of a run's frame: how much of its liquid is near the surface at another voxel size. */
function nearOf(f: LiquidCostFrame, run: LiquidCostRun, plan: LiquidPlan, finer: number): number {
  const { along, inside, band } = run.plan.options.particles;
  const liquid = f.liquid * finer ** 3;
  if (coarseOf(run.plan.options) === null || band !== plan.options.particles.band) return nearSurface(plan, liquid);
  // What is fine goes with the surface: its depth is a number of voxels.
  const near = Math.max(0, (f.particles - inside ** 3 * f.liquid) / (along ** 3 - inside ** 3));
  return Math.min(liquid, near * finer ** 2);
}

/** Bytes of a particle in a file without attributes, and of each attribute; of a point that is looked at. */
const BYTES = { particle: 32, attribute: 4, point: 11 } as const;

/** Voxels that a volume holds for each of liquid, and what each takes when it is packed: of the velocity, and of the distance, which is one value deep inside. */
const VOLUME_VOXELS = 1.5;
const VOLUME_BYTES = { vel: 5, distance: 1.2 } as const;

const bytesOfFrame = (particles: number, { keep, options }: LiquidPlan): number =>
  particles * (BYTES.particle + BYTES.attribute * keep.attributes.length) +
  BYTES.point * Math.min(particles, PREVIEW_POINTS) +
  (particles / options.particles.along ** 3) * VOLUME_VOXELS * keep.volumes.reduce((n, v) => n + VOLUME_BYTES[v], 0);

/** What a frame took, over what the same frame would have been reckoned with: volumes pack as they are. */
const packing = (f: LiquidCostFrame, run: LiquidCostRun, plan: LiquidPlan): number =>
  f.bytes > 0 && plan.keep.volumes.length > 0 && canonicalJson(run.plan.keep) === canonicalJson(plan.keep)
    ? f.bytes / bytesOfFrame(f.particles, run.plan)
    : 1;

/** Cubic metres that a source's shape has in common with the limit box, about. */
function volumeOf(shape: LiquidPlan['options']['sources'][number]['shape'], limit: LiquidPlan['options']['bounds']['limit']): number {
  const { min, max } = shapeBounds(shape);
  const sides = ([0, 1, 2] as const).map((a) => Math.max(0, Math.min(max[a], limit.max[a]) - Math.max(min[a], limit.min[a])));
  const box = sides.reduce((v, s) => v * s, 1);
  return box * (shape.kind === 'ball' ? Math.PI / 6 : shape.kind === 'cylinder' ? Math.PI / 4 : 1);
}

/** Particles at each frame by the settings alone. */
function particlesBySettings(plan: LiquidPlan): (frame: number) => number {
  const { options } = plan;
  const cell = options.voxelSize ** 3;
  const { firstFrame, preRoll, framesPerSecond } = options;
  const begin = firstFrame - preRoll;
  // What each that emits gave up to a frame.
  const given = options.sources.map((s) => {
    let sum = 0;
    return s.act === 'emits' ? askedByFrame(s, options).map((v) => (sum += v)) : null;
  });
  return (frame) => {
    let volume = 0;
    for (const [n, s] of options.sources.entries()) {
      const from = s.from ?? begin;
      if (frame < from || s.act === 'drains') continue;
      if (s.act === 'fills') volume += volumeOf(s.shape, options.bounds.limit);
      else if (s.act === 'emits') volume += given[n]?.[frame - begin] ?? 0;
      else {
        const seconds = (Math.min(frame, s.to ?? Infinity) - from + 1) / framesPerSecond;
        const { min, max } = shapeBounds(s.shape);
        const speed = Math.hypot(...s.velocity);
        const along = Math.max(
          1e-9,
          ...([0, 1, 2] as const).map((a) => (speed > 0 ? Math.abs(s.velocity[a] / speed) * (max[a] - min[a]) : 0)),
        );
        const shape = volumeOf(s.shape, options.bounds.limit);
        volume += shape + (Math.max(0, seconds) * speed * shape) / along;
      }
    }
    const box = options.bounds.limit;
    const room = ([0, 1, 2] as const).reduce<number>((v, a) => v * (box.max[a] - box.min[a]), 1);
    const liquid = Math.min(volume, room) / cell;
    return particlesOf(plan, liquid, nearSurface(plan, liquid));
  };
}

/** Most particles that a plan is expected to have, from its settings alone. */
export function expectedParticles(plan: LiquidPlan): number {
  const at = particlesBySettings(plan);
  return Math.max(at(plan.options.firstFrame), at(plan.options.lastFrame));
}

function guessFrames(plan: LiquidPlan): PredictedFrame[] {
  const { options } = plan;
  const { limit } = options.bounds;
  const w = outerWindow(options);
  const whole = w.nx * w.ny * w.nz;
  const particles = particlesBySettings(plan);
  const highest = Math.max(limit.min[1], ...options.sources.map((s) => shapeBounds(s.shape).max[1]));
  const fall = Math.sqrt(2 * Math.hypot(...options.forces.gravity) * Math.max(0, Math.min(highest, limit.max[1]) - limit.min[1]));
  const speed = Math.max(fall, ...options.sources.map((s) => (s.act === 'emits' ? streamOf(s.shape, s).speed : Math.hypot(...s.velocity))));
  const usual = substepsOf(0.7 * speed, plan);
  const begin = options.firstFrame - options.preRoll;
  return Array.from({ length: options.lastFrame - begin + 1 }, (_v, n): PredictedFrame => {
    const frame = begin + n;
    const count = particles(frame);
    const side = Math.cbrt(count / options.particles.along ** 3);
    const voxels = options.bounds.mode === 'dense' ? whole : Math.min(whole, APART * (side + 2 * AROUND + 8) ** 3);
    const substeps = n === 0 && !options.firstFrameSolved ? 0 : usual;
    return {
      frame,
      voxels,
      window: [w.nx, w.ny, w.nz],
      memoryBytes: bytesOfLiquid(windowOf([0, 0, 0], [w.nx, w.ny, w.nz]), count, options.matter.transfer === 'apic', voxels / 512),
      substeps,
      iterations: substeps * 8,
      bytes: frame >= options.firstFrame || plan.keep.preRoll ? bytesOfFrame(count, plan) : 0,
      particles: count,
    };
  });
}

/** Voxels that are awake around liquid along an axis, both sides together: what is kept around particles, and tiles that are whole. */
const HALO = 2 * AROUND + 7;

/** How many times as many voxels are awake around the same liquid: its box grows with the resolution, what is kept around it does not. */
function awakeRatio(box: LiquidCostFrame['matter'], from: LiquidPlan['options'], to: LiquidPlan['options']): number {
  const awake = (options: LiquidPlan['options']): number => {
    const w = outerWindow(options);
    return ([0, 1, 2] as const).reduce<number>((v, a) => {
      const extent = box === null ? 0 : ((box[a + 3] ?? 0) - (box[a] ?? 0)) / options.voxelSize;
      return v * Math.min([w.nx, w.ny, w.nz][a] ?? 0, extent + HALO);
    }, 1);
  };
  return awake(to) / awake(from);
}

/** What a frame's arrays had room for beyond what was reckoned: a voxel around each body, which is the less the finer the voxels. */
const spareOf = (f: LiquidCostFrame, { matter }: LiquidPlan['options']): number =>
  f.particles === 0
    ? 0
    : Math.max(
        -0.2,
        Math.min(
          0.6,
          f.memoryBytes / bytesOfLiquid(windowOf([0, 0, 0], f.window), f.particles, matter.transfer === 'apic', f.voxels / 512) - 1,
        ),
      );

/** The limit box and a voxel all around, as the solver's window holds it. */
const withWalls = ({ bounds: { limit }, voxelSize: h }: LiquidPlan['options']): LiquidPlan['options']['bounds']['limit'] => ({
  min: [limit.min[0] - h, limit.min[1] - h, limit.min[2] - h],
  max: [limit.max[0] + h, limit.max[1] + h, limit.max[2] + h],
});

/** Frames of a plan from those of a run of the shot that differs little. */
function extrapolate(run: LiquidCostRun, plan: LiquidPlan): PredictedFrame[] {
  const [from, to] = [run.plan.options, plan.options];
  const finer = from.voxelSize / to.voxelSize;
  const perVoxel = [from.particles.along ** 3, to.particles.along ** 3] as const;
  const begin = to.firstFrame - to.preRoll;
  const last = run.frames.length - 1;
  const indices = Array.from({ length: to.lastFrame - begin + 1 }, (_v, n) => (n / to.framesPerSecond) * from.framesPerSecond);
  const windows = replayWindows(
    run.frames.map((f) => f.matter),
    indices,
    from.voxelSize,
    { voxelSize: to.voxelSize, bounds: { ...to.bounds, limit: withWalls(to), reach: AROUND * to.voxelSize } },
    0,
  );
  const limit = outerWindow(to);
  return indices.map((index, n): PredictedFrame => {
    const frame = begin + n;
    const f = run.frames[Math.min(last, Math.max(0, Math.round(index)))] as LiquidCostFrame;
    const plain = coarseOf(from) === null && coarseOf(to) === null;
    const count = plain
      ? (f.particles * finer ** 3 * perVoxel[1]) / perVoxel[0]
      : particlesOf(plan, f.liquid * finer ** 3, nearOf(f, run, plan, finer));
    const whole = limit.nx * limit.ny * limit.nz;
    const voxels = to.bounds.mode === 'dense' ? whole : Math.min(whole, f.voxels * awakeRatio(f.matter, from, to));
    const window = windows?.[n] ?? [limit.nx, limit.ny, limit.nz];
    const unsolved = n === 0 && !to.firstFrameSolved;
    const substeps = unsolved ? 0 : substepsOf(f.speed, plan);
    return {
      frame,
      voxels,
      window,
      memoryBytes:
        bytesOfLiquid(windowOf([0, 0, 0], [window[0], window[1], window[2]]), count, to.matter.transfer === 'apic', voxels / 512) *
        (1 + spareOf(f, from) / Math.max(1, finer)),
      substeps,
      iterations: f.substeps > 0 ? (f.iterations / f.substeps) * substeps : 0,
      bytes: frame >= to.firstFrame || plan.keep.preRoll ? bytesOfFrame(count, plan) * packing(f, run, plan) : 0,
      particles: count,
    };
  });
}

interface Relative {
  readonly run: LiquidCostRun;
  readonly far: number;
  readonly halvings: number;
}

function relativeOf(runs: readonly LiquidCostRun[], plan: LiquidPlan): Relative | null {
  const bare = (p: LiquidPlan): unknown => {
    const { voxelSize: _h, lastFrame: _l, particles: _p, stepping: _s, sources, ...rest } = p.options;
    return { ...rest, sources: sources.map(({ name: _n, ...s }) => s) };
  };
  const wanted = plan.options.lastFrame - plan.options.firstFrame + plan.options.preRoll + 1;
  const near = runs
    .filter((r) => r.frames.length >= Math.min(8, wanted) && r.frames.some((f) => f.particles > 0))
    .map((run): Relative => {
      const halvings = Math.log2(run.plan.options.voxelSize / plan.options.voxelSize);
      return { run, far: differences(bare(run.plan), bare(plan)).length + 0.5 * Math.max(0, 1 - run.frames.length / wanted), halvings };
    })
    .sort((a, b) => a.far + 0.12 * Math.abs(a.halvings) - (b.far + 0.12 * Math.abs(b.halvings)));
  const best = near[0];
  return best && best.far <= 4 ? best : null;
}

const same = (a: LiquidPlan, b: LiquidPlan): boolean => {
  const key = ({ options: { lastFrame: _l, ...options }, ...rest }: LiquidPlan): string => canonicalJson({ ...rest, rung: null, options });
  return key(a) === key(b);
};

/** What a liquid will cost: particles and active voxels over the frames, and this machine's time for them. */
export function predictLiquid(
  plan: LiquidPlan,
  runs: readonly LiquidCostRun[],
  learnt: LiquidModel | null,
  record: readonly RecordEntry[],
): DetailedPrediction {
  const found = relativeOf(runs, plan);
  const frames = found ? extrapolate(found.run, plan) : guessFrames(plan);
  const basis: Basis = !found ? 'settings' : same(found.run.plan, plan) ? 'repeat' : found.far < 0.6 ? 'same' : 'relative';
  const model = learnt ?? FIRST;
  const timed = frames.map((f) => ({ ...f, seconds: secondsOf(model, { ...f, particles: f.particles ?? 0 }, plan) }));
  // A first guess at the time is of another machine.
  const unsure = learnt ? 0 : 0.35;
  const sigma = (q: 'time' | 'memory' | 'disk' | 'voxels'): number =>
    Math.hypot(
      spreadOf(record, basis, q) * (basis === 'same' ? Math.sqrt(Math.max(1, Math.abs(found?.halvings ?? 1))) : 1),
      q === 'time' ? unsure : 0,
    );
  const most = (pick: (f: PredictedFrame) => number): number => Math.max(0, ...frames.map(pick));
  return {
    voxels: rangeOf(
      most((f) => f.voxels),
      sigma('voxels'),
    ),
    memory: rangeOf(
      most((f) => f.memoryBytes),
      sigma('memory'),
    ),
    disk: rangeOf(
      frames.reduce((n, f) => n + f.bytes, 0),
      sigma('disk'),
    ),
    time: rangeOf(
      timed.reduce((n, f) => n + f.seconds, 0),
      sigma('time'),
    ),
    particles: rangeOf(
      most((f) => f.particles ?? 0),
      sigma('voxels'),
    ),
    basis,
    from: found ? found.run.title : 'the settings',
    frames: timed,
  };
}

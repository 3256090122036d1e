import * as z from 'zod';
import { limitWindow } from '#core/flow';
import { type FrameReport, STAGES, type Stage } from '#core/gas';
import { type Shape, isAnimated, shapeBounds } from '#core/geometry';
import { type GasPlan, optionsOf, planOfBounds } from '#core/shot';

const amount = z.number().min(0);
const seconds = z.strictObject(Object.fromEntries(STAGES.map((s) => [s, amount])) as Record<Stage, typeof amount>);

/** What the cost model reads of a frame: a report without what it does not need. */
export const costFrameSchema = z.strictObject({
  frame: z.number().int(),
  /** Active voxels. */
  voxels: amount,
  /** Active voxels that half the voxel size would have for the same matter; null: a report of an older run. */
  finer: amount.nullable().default(null),
  /** Voxels of the window, by axis. */
  window: z.tuple([amount, amount, amount]),
  /** Metres around matter and emitting sources, [min, max]; null: none, or a report of an older run. */
  matter: z.array(z.number()).length(6).nullable().default(null),
  memoryBytes: amount,
  substeps: amount,
  /** Speed that decided about the substeps, m/s. */
  speed: amount,
  iterations: amount,
  /** On disk; 0 for a frame that was not stored. */
  bytes: amount,
  /** By stage. */
  seconds,
  /** How long the calibration kernel took, seconds. */
  calibration: amount,
  /** Seconds in which other programs held the cores; not known of older runs and of browsers. */
  waited: amount.optional(),
});
export type CostFrame = z.output<typeof costFrameSchema>;

/** A run as the cost model sees it. */
export interface CostRun {
  readonly id: string;
  /** How a person knows it: `run 7`, `Sketch`. */
  readonly title: string;
  /** Times of a browser never train the server's model; its voxels and substeps do. `calibration`: the machine's own set-up at first start. */
  readonly origin: 'server' | 'browser' | 'calibration';
  readonly threads: number;
  readonly plan: GasPlan;
  readonly frames: readonly CostFrame[];
}

export const costFrame = (report: FrameReport, bytes: number): CostFrame => ({
  frame: report.frame,
  voxels: report.activeVoxels,
  finer: report.finerVoxels ?? null,
  window: [report.window[3], report.window[4], report.window[5]],
  // Reports of older runs do not have it.
  matter: (report.matterBox as FrameReport['matterBox'] | undefined)?.slice() ?? null,
  memoryBytes: report.memoryBytes,
  substeps: report.substepsUsed,
  // Reports of older runs do not have it.
  speed: report.substepSpeed ?? report.fastest,
  iterations: report.iterations,
  bytes,
  seconds: report.seconds,
  calibration: report.calibrationSeconds,
  ...(report.waitedSeconds === undefined ? {} : { waited: report.waitedSeconds }),
});

/** A run's frames as they are kept. */
interface KeptFrame {
  readonly report: FrameReport;
  readonly bytes: number;
}

/**
 * A run as the model sees it: one of several bounds is as many runs, each on its share of the threads. What its files take is told apart by the voxels.
 */
export function costRunsOf(run: Omit<CostRun, 'frames'>, frames: readonly KeptFrame[]): CostRun[] {
  const count = optionsOf(run.plan).length;
  if (count === 1) return [{ ...run, frames: frames.map((f) => costFrame(f.report, f.bytes)) }];
  return Array.from({ length: count }, (_v, n): CostRun => ({
    ...run,
    id: `${run.id}/${String(n + 1)}`,
    plan: planOfBounds(run.plan, n),
    threads: Math.max(1, Math.floor(run.threads / count)),
    frames: frames.flatMap(({ report, bytes }) => {
      const part = report.parts?.[n];
      return part ? [costFrame(part, bytes * (part.activeVoxels / Math.max(1, report.activeVoxels)))] : [];
    }),
  }));
}

/** What of a plan decides about the work of a voxel. */
export interface Work {
  /** Floats that a substep carries by a back-trace: MacCormack traces twice. */
  readonly carried: number;
  readonly turbulence: number;
  readonly confinement: number;
  /** Voxels that sources cover, weighted with the octaves of their noise. */
  readonly sourceVoxels: number;
  /** Floats a voxel that are written, in so many channels. */
  readonly components: number;
  readonly channels: number;
  readonly limitTiles: number;
  /** Voxels near solids that move: their tiles are made anew in every substep. */
  readonly movingVoxels: number;
  /** Samples of meshes that change their form: voxelised in every substep. */
  readonly deformingSamples: number;
  /** Forces that act in a region, and those that are neither turbulence nor confinement. */
  readonly regions: number;
  readonly pulls: number;
}

/** Time of a component against one of the linearly advected velocity, in whole runs on two threads. */
const VELOCITY_TRACES = { linear: 1, maccormack: 1.8, bfecc: 2.8, cubic: 2.4, reflection: 4 } as const;
const SCALAR_TRACES = { linear: 0.75, maccormack: 1.4, bfecc: 2.2, cubic: 1.8, ppm: 0.5 } as const;
const COMPONENTS = { density: 1, temperature: 1, vel: 3, fuel: 1, flame: 1, colour: 3, uvw: 3 } as const;

export const componentsOf = (plan: GasPlan): number => plan.keep.channels.reduce((n, c) => n + COMPONENTS[c], 0);

/** Scalars that are carried: density and heat, fuel, three of each vector. */
const scalarsOf = ({ fire, colour, coordinates }: GasPlan['options']['matter']): number =>
  2 + (fire ? 1 : 0) + (colour ? 3 : 0) + (coordinates ? 3 : 0);

/** Voxels around a moving solid's box whose tiles are made anew. */
const NEAR_MOVING = 12;

/** Voxels of a shape's box and some more on each axis. */
function voxelsIn(shape: Shape, h: number, more: number): number {
  const { min, max } = shapeBounds(shape);
  return ([0, 1, 2] as const).map((a) => (max[a] - min[a]) / h + more).reduce((v, n) => v * n, 1);
}

export function workOf(plan: GasPlan): Work {
  const { options } = plan;
  const h = options.voxelSize;
  const w = limitWindow(options);
  const moving = options.solids.filter((s) => isAnimated(s.shape) || Object.keys(s.moves).some((path) => path.startsWith('shape.')));
  return {
    carried:
      3 * VELOCITY_TRACES[options.matter.velocityAdvection] + scalarsOf(options.matter) * SCALAR_TRACES[options.matter.scalarAdvection],
    turbulence: (options.forces.turbulence ? 1 : 0) + options.forces.fields.filter((f) => f.kind === 'turbulence').length,
    confinement: (options.forces.confinement > 0 ? 1 : 0) + options.forces.fields.filter((f) => f.kind === 'curls').length,
    sourceVoxels: options.sources.reduce((n, s) => n + voxelsIn(s.shape, h, 2) * (1 + (s.noise ? s.noise.octaves : 0)), 0),
    components: componentsOf(plan),
    channels: plan.keep.channels.length,
    movingVoxels: moving.reduce((n, s) => n + voxelsIn(s.shape, h, NEAR_MOVING), 0),
    deformingSamples: moving.reduce((n, s) => n + (isAnimated(s.shape) ? voxelsIn(s.shape, s.voxelSize ?? h, 2) : 0), 0),
    regions: options.forces.fields.filter((f) => f.shape !== null).length,
    pulls: options.forces.fields.filter((f) => f.kind !== 'turbulence' && f.kind !== 'curls').length,
    limitTiles: (w.nx * w.ny * w.nz) / 512,
  };
}

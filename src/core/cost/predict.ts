import { type GasPlan, type Plan, canonicalJson, differences, isLiquidPlan, optionsOf, planOfBounds } from '#core/shot';
import { type CostRun, workOf } from './evidence';
import { type AnyCostRun, type LiquidModel, fitLiquid, isLiquidRun, predictLiquid } from './liquid';
import { type PredictedFrame, extrapolate } from './extrapolate';
import { allFinite, finiteSeconds, madeFinite } from './finite';
import { guessFrames } from './guess';
import { type Lessons, learn } from './lessons';
import { type CostModel, UNMEASURED, fitModel, frameSeconds, loadsOf } from './model';
import { BASES, type Basis, type DetailedPrediction, type Prediction, type Range, rangeOf } from './prediction';
import { type RecordEntry, spreadOf } from './record';

/** All that is known: fitted once, asked often. */
export interface Knowledge {
  readonly model: CostModel | null;
  readonly lessons: Lessons;
  readonly record: readonly RecordEntry[];
  /** Of liquids; null: no liquid was ever computed here. */
  readonly liquid: LiquidModel | null;
}

export function knowledgeOf(all: readonly AnyCostRun[], threads: number, record: readonly RecordEntry[] = []): Knowledge {
  const runs = all.filter((r): r is CostRun => !isLiquidRun(r));
  return { model: fitModel(runs, threads), lessons: learn(runs), record, liquid: fitLiquid(all.filter(isLiquidRun), threads) };
}

/** Two plans' distance: how much less is known from one about the other. */
function distance(from: GasPlan, to: GasPlan): number {
  const bare = (p: GasPlan): unknown => {
    const { voxelSize: _h, lastFrame: _l, preRoll: _p, sources, ...rest } = p.options;
    return { ...rest, sources: sources.map(({ name: _n, ...s }) => s) };
  };
  let far = 0;
  for (const d of differences(bare(from), bare(to))) {
    const group = d.path.split(/[.[]/)[0] ?? '';
    // What the extrapolation reckons with itself weighs little.
    if (group === 'stepping') far += 0.15;
    else if (d.path.startsWith('bounds.reach') || d.path.startsWith('bounds.limit')) far += 0.3;
    else if (d.path.startsWith('bounds.mode')) far += 4;
    else if (typeof d.from === 'number' && typeof d.to === 'number' && d.from !== 0) {
      far += Math.min(2, Math.abs(d.to - d.from) / Math.max(Math.abs(d.from), Math.abs(d.to)));
    } else far += 1;
  }
  const halvings = Math.log2(from.options.voxelSize / to.options.voxelSize);
  // Finer runs tell more, and those of another size less.
  return far + 0.12 * Math.abs(halvings) + (halvings < -0.3 ? 0.1 : 0);
}

/** Beyond this a relative tells no more than the settings do. */
const TOO_FAR = 6;
const MIN_FRAMES = 8;

interface Relative {
  readonly run: CostRun;
  readonly far: number;
}

/** Relatives that are hardly further than the nearest count too: a second opinion halves the noise of one. */
const AS_NEAR = 0.15;
const MOST_RELATIVES = 3;

/** The nearest runs, nearest first; none when all are too far. */
function relativesOf(runs: readonly CostRun[], plan: GasPlan): Relative[] {
  const wanted = plan.options.lastFrame - plan.options.firstFrame + plan.options.preRoll + 1;
  const near = runs
    // A run in which nothing ever was tells nothing of one in which something is.
    .filter(
      (run) => run.origin !== 'calibration' && run.frames.length >= Math.min(MIN_FRAMES, wanted) && run.frames.some((f) => f.voxels > 0),
    )
    .map((run): Relative => ({ run, far: distance(run.plan, plan) + 0.5 * Math.max(0, 1 - run.frames.length / wanted) }))
    .sort((a, b) => a.far - b.far);
  const best = near[0];
  if (!best || best.far > TOO_FAR) return [];
  return near.filter((r) => r.far <= best.far + AS_NEAR).slice(0, MOST_RELATIVES);
}

/** Geometric mean of several extrapolations, frame by frame, the nearer ones counting more. */
function together(series: readonly { readonly frames: readonly PredictedFrame[]; readonly weight: number }[]): PredictedFrame[] {
  const total = series.reduce((n, s) => n + s.weight, 0);
  const first = series[0]?.frames ?? [];
  return first.map((f, n) => {
    const mean = (pick: (p: PredictedFrame) => number): number =>
      Math.exp(series.reduce((sum, s) => sum + s.weight * Math.log(Math.max(1e-9, pick(s.frames[n] ?? f))), 0) / total);
    const zero = (pick: (p: PredictedFrame) => number): number => (pick(f) === 0 ? 0 : mean(pick));
    return {
      frame: f.frame,
      voxels: mean((p) => p.voxels),
      window: [mean((p) => p.window[0]), mean((p) => p.window[1]), mean((p) => p.window[2])],
      memoryBytes: mean((p) => p.memoryBytes),
      substeps: zero((p) => p.substeps),
      iterations: zero((p) => p.iterations),
      bytes: zero((p) => p.bytes),
    };
  });
}

const sameRun = (a: GasPlan, b: GasPlan): boolean => {
  const key = ({ options: { lastFrame: _l, ...options }, ...rest }: GasPlan): string => canonicalJson({ ...rest, rung: null, options });
  return key(a) === key(b);
};

/**
 * What a plan will cost. `runs`: those of its shot, Sketches of the browser among them; the nearest one is extrapolated frame by frame, and the
 * model of this machine turns the load into time.
 */
export function predict(plan: Plan, all: readonly AnyCostRun[], knowledge: Knowledge): DetailedPrediction {
  if (isLiquidPlan(plan)) return predictLiquid(plan, all.filter(isLiquidRun), knowledge.liquid, knowledge.record);
  const runs = all.filter((r): r is CostRun => !isLiquidRun(r));
  const each = optionsOf(plan).map((_o, n) => predictBounds(planOfBounds(plan, n), runs, knowledge));
  return each.length === 1 ? (each[0] as DetailedPrediction) : sumOf(each);
}

/** Several bounds together: amounts are added, times too (side by side each has its share of the threads). What is known least about decides how sure it is. */
function sumOf(each: readonly DetailedPrediction[]): DetailedPrediction {
  const [first] = each as [DetailedPrediction];
  const range = (pick: (p: DetailedPrediction) => Range): Range => ({
    low: each.reduce((n, p) => n + pick(p).low, 0),
    likely: each.reduce((n, p) => n + pick(p).likely, 0),
    high: each.reduce((n, p) => n + pick(p).high, 0),
  });
  const least = each.reduce((a, b) => (BASES.indexOf(b.basis) > BASES.indexOf(a.basis) ? b : a));
  return {
    voxels: range((p) => p.voxels),
    memory: range((p) => p.memory),
    disk: range((p) => p.disk),
    time: each.every((p) => p.time !== null) ? range((p) => p.time ?? { low: 0, likely: 0, high: 0 }) : null,
    basis: least.basis,
    from: [...new Set(each.map((p) => p.from))].join(', '),
    ...(each.some((p) => p.unmeasured) ? { unmeasured: true as const } : {}),
    frames: first.frames.map((f, n) => {
      const all = each.flatMap((p) => p.frames[n] ?? []);
      const sum = (pick: (g: PredictedFrame) => number): number => all.reduce((m, g) => m + pick(g), 0);
      const most = (pick: (g: PredictedFrame) => number): number => Math.max(...all.map(pick));
      return {
        ...f,
        voxels: sum((g) => g.voxels),
        memoryBytes: sum((g) => g.memoryBytes),
        bytes: sum((g) => g.bytes),
        substeps: most((g) => g.substeps),
        iterations: most((g) => g.iterations),
        seconds: all.every((g) => g.seconds !== null) ? all.reduce((m, g) => m + (g.seconds ?? 0), 0) : null,
      };
    }),
  };
}

function predictBounds(plan: GasPlan, runs: readonly CostRun[], knowledge: Knowledge): DetailedPrediction {
  const { model, lessons, record } = knowledge;
  const relatives = relativesOf(runs, plan);
  // The very same run needs no second opinion.
  const repeats = relatives.filter((r) => r.run.origin === 'server' && sameRun(r.run.plan, plan)).slice(0, 1);
  const chosen = repeats.length > 0 ? repeats : relatives;
  const found = chosen[0];
  const told = found
    ? together(chosen.map(({ run, far }) => ({ frames: extrapolate(run, plan, lessons), weight: 1 / (0.1 + far) })))
    : null;
  // What a run tells may be of no use (nothing was in it); the settings always say something.
  const usable = told !== null && allFinite(told);
  const frames: PredictedFrame[] = usable ? told : madeFinite(guessFrames(plan, lessons));
  const halvings = found ? Math.abs(Math.log2(found.run.plan.options.voxelSize / plan.options.voxelSize)) : 0;
  // Distance that is not resolution: other settings.
  const other = found ? Math.max(0, found.far - 0.12 * halvings) : 0;
  const basis: Basis = !found || !usable ? 'settings' : repeats.length > 0 ? 'repeat' : other < 0.2 ? 'same' : 'relative';
  const work = workOf(plan);
  const withSeconds = loadsOf(frames).map((f) => ({ ...f, seconds: finiteSeconds(frameSeconds(model ?? UNMEASURED, f, work)) }));
  // The spread is that of one halving; further is less certain.
  const widen =
    basis === 'same' ? Math.sqrt(Math.max(1, halvings)) : basis === 'relative' ? Math.sqrt(1 + other / 2 + halvings / 4) * 0.8 : 1;
  const sigma = (q: 'time' | 'memory' | 'disk' | 'voxels'): number => spreadOf(record, basis, q) * widen;
  const total = withSeconds.reduce((n, f) => n + (f.seconds ?? 0), 0);
  return {
    voxels: rangeOf(Math.max(0, ...frames.map((f) => f.voxels)), sigma('voxels')),
    memory: rangeOf(Math.max(0, ...frames.map((f) => f.memoryBytes)), sigma('memory')),
    disk: rangeOf(
      frames.reduce((n, f) => n + f.bytes, 0),
      sigma('disk'),
    ),
    time: rangeOf(total, model ? sigma('time') : Math.max(UNMEASURED.sigma, sigma('time'))),
    basis,
    from: usable ? chosen.map((r) => r.run.title).join(', ') : 'the settings',
    ...(model ? {} : { unmeasured: true as const }),
    frames: withSeconds,
  };
}

/** Without its frames: what is stored with a run. */
export const summaryOf = ({ frames: _frames, ...prediction }: DetailedPrediction): Prediction => prediction;

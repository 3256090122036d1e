import type { Range } from '#core/cost';
import type { FollowerKind } from '#core/shot';
import type { FollowerPlan } from './follower';
import { definitionOf } from './registry';

/** What a run of a pass took, of what its kind's cost model says of the same frames. */
export interface PassMeasure {
  readonly kind: FollowerKind;
  /** Which pass of the shot that is asked for; null: it is of another shot. */
  readonly pass: string | null;
  /** Of one core, by what the work is counted in. */
  readonly secondsPerElement: number;
  readonly bytesPerKept: number;
  /** Of what the model says that its frames hold, and of the most memory that it says. */
  readonly keptOfModel: number;
  readonly memoryOfModel: number;
}

/** A frame of a run that is done. */
export interface MeasuredFrame {
  readonly frame: number;
  readonly seconds: number;
  readonly bytes: number;
  readonly kept: number;
  readonly memoryBytes: number;
}

type Elements = (frame: number) => number;

/** What the model says of some frames of a plan, from what each frame of its inputs has. */
export function modelOf(
  plan: FollowerPlan,
  frames: readonly number[],
  input: Elements,
  beside: Elements,
): { readonly elements: number; readonly kept: ReadonlyMap<number, number>; readonly memoryBytes: number } {
  const { cost, source } = definitionOf(plan.pass);
  const kept = new Map<number, number>();
  let [elements, memoryBytes] = [0, 0];
  for (const frame of frames) {
    const age = (frame - plan.frames.first) / plan.frames.every;
    const [read, other] = [input(source ? source(plan.body, frame) : frame), beside(frame)];
    elements += cost.elements(plan.body, read, age, other);
    kept.set(frame, cost.kept(plan.body, read, age));
    memoryBytes = Math.max(memoryBytes, cost.memoryBytes(plan.body, read, other));
  }
  return { elements, kept, memoryBytes };
}

/** Of a channel of a frame's .vdb, however little is in it: the nodes above its tiles. */
const VDB_CHANNEL = 10_000;

/** Bytes that a frame's files have before anything is in them. */
export const emptyBytes = ({ gives }: FollowerPlan): number => (gives.output === 'vdb' ? VDB_CHANNEL * gives.channels.length : 0);

const sum = (values: Iterable<number>): number => {
  let total = 0;
  for (const v of values) total += v;
  return total;
};

/** A run against the model; null: it says nothing (no frames, or nothing was in them). */
export function measureOf(
  plan: FollowerPlan,
  pass: string | null,
  frames: readonly MeasuredFrame[],
  input: Elements,
  beside: Elements,
): PassMeasure | null {
  const model = modelOf(
    plan,
    frames.map((f) => f.frame),
    input,
    beside,
  );
  const [expected, kept] = [sum(model.kept.values()), sum(frames.map((f) => f.kept))];
  if (!(model.elements > 0 && expected > 0 && kept > 0 && model.memoryBytes > 0)) return null;
  return {
    kind: plan.pass,
    pass,
    secondsPerElement: sum(frames.map((f) => f.seconds)) / model.elements,
    // A frame that is next to empty must not make the rate negative.
    bytesPerKept: Math.max(0.01, sum(frames.map((f) => f.bytes - emptyBytes(plan))) / kept),
    keptOfModel: kept / expected,
    memoryOfModel: Math.max(...frames.map((f) => f.memoryBytes)) / model.memoryBytes,
  };
}

type Factor = Exclude<keyof PassMeasure, 'kind' | 'pass'>;
/** Factors of a kind's model, each with the range that nine of ten lie in. */
export interface PassFactors {
  readonly factors: Readonly<Record<Factor, Range>>;
  readonly from: 'this pass' | 'its kind' | 'nothing';
}

const NAMES: readonly Factor[] = ['secondsPerElement', 'bytesPerKept', 'keptOfModel', 'memoryOfModel'];
/** Standard deviations of the logarithm that a factor has at least: of another run of the same pass, and of one of another shot (docs/methods/passes.md). */
const FLOORS: Readonly<Record<Factor, { readonly own: number; readonly other: number }>> = {
  secondsPerElement: { own: 0.22, other: 0.3 },
  bytesPerKept: { own: 0.07, other: 0.2 },
  keptOfModel: { own: 0.07, other: 0.25 },
  memoryOfModel: { own: 0.2, other: 0.3 },
};
/** Nine of ten of a normal distribution lie within so many standard deviations. */
const NINE_OF_TEN = 1.645;
/** Of what was measured on one other machine only; what particles take on disk is known by their number. */
const UNMEASURED: Readonly<Record<Factor, { readonly points: number; readonly other: number }>> = {
  secondsPerElement: { points: 3, other: 3 },
  bytesPerKept: { points: 1.25, other: 2.5 },
  keptOfModel: { points: 1.5, other: 2 },
  memoryOfModel: { points: 3, other: 3 },
};

const around = (likely: number, factor: number): Range => ({ low: likely / factor, likely, high: likely * factor });

/** From the runs that are done, the newest last: those of this very pass say most; else all of its kind, whose middle is taken. */
export function factorsOf(kind: FollowerKind, pass: string, measures: readonly PassMeasure[]): PassFactors {
  const ofKind = measures.filter((m) => m.kind === kind);
  const own = ofKind.filter((m) => m.pass === pass);
  if (ofKind.length === 0) {
    const { cost, output } = definitionOf(kind);
    const { rates } = cost;
    const known = { ...rates, keptOfModel: 1, memoryOfModel: 1 };
    return { factors: mapped((name) => around(known[name], UNMEASURED[name][output === 'ply' ? 'points' : 'other'])), from: 'nothing' };
  }
  const from = own.length > 0 ? own : ofKind;
  const factors = mapped((name) => {
    const logs = from.map((m) => Math.log(m[name])).sort((a, b) => a - b);
    const likely =
      own.length > 0
        ? Math.log((own[own.length - 1] as PassMeasure)[name])
        : ((logs[(logs.length - 1) >> 1] ?? 0) + (logs[logs.length >> 1] ?? 0)) / 2;
    const floor = FLOORS[name][own.length > 0 ? 'own' : 'other'];
    const spread = Math.sqrt(sum(logs.map((v) => (v - likely) ** 2)) / logs.length);
    return around(Math.exp(likely), Math.exp(NINE_OF_TEN * Math.hypot(floor, spread)));
  });
  return { factors, from: own.length > 0 ? 'this pass' : 'its kind' };
}

const mapped = (of: (name: Factor) => Range): PassFactors['factors'] =>
  Object.fromEntries(NAMES.map((name) => [name, of(name)])) as Record<Factor, Range>;

import type { Range } from '#core/cost';
import { listFrames } from '#core/pass';
import type { FollowerPlan } from './follower';
import { type PassFactors, emptyBytes, modelOf } from './measure';
import { definitionOf } from './registry';

/** What a pass will cost, and for each frame what the next pass will find in it. */
export interface PassPrediction {
  readonly seconds: number;
  readonly bytes: number;
  readonly memoryBytes: number;
  /** What nine of ten lie in. */
  readonly ranges: { readonly time: Range; readonly disk: Range; readonly memory: Range };
  /** By frame. */
  readonly gives: ReadonlyMap<number, number>;
  readonly from: PassFactors['from'];
}

const times = (range: Range, by: number): Range => ({ low: range.low * by, likely: range.likely * by, high: range.high * by });
/** Of two factors that err by themselves: their logarithms' deviations add up as squares. */
function product(a: Range, b: Range): Range {
  const likely = a.likely * b.likely;
  const factor = Math.exp(Math.hypot(Math.log(a.high / a.likely), Math.log(b.high / b.likely)));
  return { low: likely / factor, likely, high: likely * factor };
}

/**
 * From the elements of each frame of what it reads, and of all that it reads beside: the work of a kind is proportional to what it is counted in, and what
 * its frames hold to what its model says. The factors are those of this machine's runs that are done; before there is one, those of the kind's definition.
 */
export function predictPass(
  plan: FollowerPlan,
  input: (frame: number) => number,
  { factors, from }: PassFactors,
  threads: number,
  beside: (frame: number) => number = () => 0,
): PassPrediction {
  const { order } = definitionOf(plan.pass);
  const model = modelOf(plan, listFrames(plan.frames), input, beside);
  let kept = 0;
  const gives = new Map<number, number>();
  for (const [frame, n] of model.kept) {
    kept += n;
    gives.set(frame, n * factors.keptOfModel.likely);
  }
  // Factors are of one core; frames that need no others are computed on all of them.
  const cores = order === 'any' ? threads : 1;
  const time = times(factors.secondsPerElement, model.elements / cores);
  const empty = emptyBytes(plan) * model.kept.size;
  const full = times(product(factors.bytesPerKept, factors.keptOfModel), kept);
  const disk = { low: empty + full.low, likely: empty + full.likely, high: empty + full.high };
  const memory = times(factors.memoryOfModel, model.memoryBytes * cores);
  return { seconds: time.likely, bytes: disk.likely, memoryBytes: memory.likely, ranges: { time, disk, memory }, gives, from };
}

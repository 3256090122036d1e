import type { Rates } from '#core/pass';
import { listFrames } from '#core/pass';
import type { FollowerPlan } from './follower';
import { definitionOf } from './registry';

/** What a pass will cost, and for each frame what the next pass will find in it. */
export interface PassPrediction {
  readonly seconds: number;
  readonly bytes: number;
  readonly memoryBytes: number;
  /** By frame. */
  readonly gives: ReadonlyMap<number, number>;
  /** Whether its rates were measured on this machine. */
  readonly measured: boolean;
}

/**
 * From the elements of each frame of what it reads, and of all that it reads beside: the work of a kind is proportional to what it is counted in, so that one rate for time and one for disk
 * say it. Measured rates are those of this machine's runs that are done; before there is one, those of the kind's definition.
 */
export function predictPass(
  plan: FollowerPlan,
  input: (frame: number) => number,
  measured: Rates | null,
  threads: number,
  beside: (frame: number) => number = () => 0,
): PassPrediction {
  const { cost, order, source } = definitionOf(plan.pass);
  const rates = measured ?? cost.rates;
  const gives = new Map<number, number>();
  let elements = 0;
  let kept = 0;
  let memoryBytes = 0;
  listFrames(plan.frames).forEach((frame, age) => {
    const read = input(source ? source(plan.body, frame) : frame);
    const other = beside(frame);
    elements += cost.elements(plan.body, read, age, other);
    const held = cost.kept(plan.body, read, age);
    gives.set(frame, held);
    kept += held;
    memoryBytes = Math.max(memoryBytes, cost.memoryBytes(plan.body, read, other));
  });
  // Rates are of one core; frames that need no others are computed on all of them.
  const cores = order === 'any' ? threads : 1;
  return {
    seconds: (elements * rates.secondsPerElement) / cores,
    bytes: kept * rates.bytesPerKept,
    memoryBytes: memoryBytes * cores,
    gives,
    measured: measured !== null,
  };
}

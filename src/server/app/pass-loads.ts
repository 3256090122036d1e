import type { Prediction } from '#core/cost';
import { listFrames } from '#core/pass';
import { type FollowerPlan, isSolvePlan } from '#core/passes';
import type { Database } from '#server/db';
import type { Costs } from './costs';
import { passMeasures, passPrediction } from './pass-costs';
import { elementsOf, inputRunsOf } from './pass-inputs';
import { type RunRow, rangeOf } from './run-dtos';

/** Elements of each frame of a cache, for a pass that reads it. */
export interface Load {
  readonly of: ReadonlyMap<number, number>;
  /** Whether all frames are there and were counted; else some, or all, are predicted. */
  readonly counted: boolean;
  /** Basis of the predicted ones. */
  readonly basis: Prediction['basis'];
}

/** A pass reads it, as what. */
export interface ReadLoad {
  readonly role: string;
  readonly load: Load;
}

/** Elements of passes' inputs: counted in existing frames, predicted in frames to come. */
export class PassLoads {
  constructor(
    private readonly db: Database,
    private readonly config: { readonly threads: number },
    private readonly costs: Costs,
  ) {}

  /** A run, with the frames that it will have when it is over. */
  async ofRun(row: RunRow): Promise<Load> {
    const there = await elementsOf(this.db, row);
    const missing = row.state === 'done' ? [] : listFrames(rangeOf(row)).filter((f) => !there.has(f));
    if (missing.length === 0) return { of: there, counted: true, basis: 'repeat' };
    const plan = row.plan.value;
    const { of, basis } = isSolvePlan(plan) ? await this.#ofSolve(row.shotId, plan) : await this.#ofPass(row, plan);
    return { of: new Map([...of, ...there]), counted: false, basis };
  }

  async #ofSolve(shotId: string, plan: Parameters<Costs['predict']>[1]): Promise<Pick<Load, 'of' | 'basis'>> {
    const { frames, prediction } = await this.costs.predict(shotId, plan);
    return { of: new Map(frames.map((f) => [f.frame, f.elements])), basis: prediction.basis };
  }

  async #ofPass(row: RunRow, plan: FollowerPlan): Promise<Pick<Load, 'of' | 'basis'>> {
    const found = await this.predict(row.shotId, row.passId, plan, await this.ofInputs(row.id));
    return found ? { of: found.gives, basis: found.prediction.basis } : { of: new Map(), basis: 'settings' };
  }

  /** Of the runs that a run reads. */
  async ofInputs(runId: string): Promise<ReadLoad[]> {
    const read: ReadLoad[] = [];
    for (const { role, row } of await inputRunsOf(this.db, runId)) read.push({ role, load: await this.ofRun(row) });
    return read;
  }

  /** Predicted cost of a pass; null: its input is not known (files of a folder). */
  async predict(
    shotId: string,
    pass: string,
    plan: FollowerPlan,
    read: readonly ReadLoad[],
  ): Promise<ReturnType<typeof passPrediction> | null> {
    const { input, beside } = togetherOf(read);
    if (input.size === 0) return null;
    const found = passPrediction(plan, pass, input, beside, await passMeasures(this.db, shotId), this.config.threads);
    // It is known no better than its inputs.
    const guessed = read.some(({ load }) => !load.counted && load.basis === 'settings');
    return guessed ? { ...found, prediction: { ...found.prediction, basis: 'settings' } } : found;
  }
}

/** Elements of a pass's main input, and of all other inputs. */
export function togetherOf(read: readonly ReadLoad[]): {
  readonly input: ReadonlyMap<number, number>;
  readonly beside: ReadonlyMap<number, number>;
} {
  const [input, beside] = [new Map<number, number>(), new Map<number, number>()];
  for (const { role, load } of read) {
    const into = role === 'cache' ? input : beside;
    for (const [frame, n] of load.of) into.set(frame, (into.get(frame) ?? 0) + n);
  }
  return { input, beside };
}

import { and, desc, eq, inArray, isNull } from 'drizzle-orm';
import type { BatchItem } from 'drizzle-orm/batch';
import type { Prediction } from '#core/cost';
import { RuddleError } from '#core/errors';
import { type CachedRung, Chain, type FollowerPlan, type ResolvedEntry, opsOf } from '#core/passes';
import { type InputRole, SOLVE, type Settings, type ShotFields } from '#core/shot';
import type { AnyRunDto } from '#protocol';
import { type Database, tables } from '#server/db';
import type { Costs } from './costs';
import { passPrediction, passMeasures } from './pass-costs';
import { elementsOf, outsideOf } from './pass-inputs';
import type { RunRow } from './run-dtos';
import type { RunStore } from './runs';

/** What is to be started. */
export interface PassToStart {
  readonly shot: { readonly id: string; readonly slug: string; readonly fields: ShotFields };
  readonly settings: Settings;
  readonly variantId: string;
  readonly rung: CachedRung;
  readonly pass: string;
  /** Also when what it would compute is there already, or on its way. */
  readonly anew: boolean;
  /** Changes that belong to the first run that is made. */
  readonly before: readonly BatchItem<'sqlite'>[];
  /** Throws when what is predicted would break a budget. */
  readonly mayCost: (prediction: Prediction) => Promise<void>;
  /** Throws when a pass can never fit into memory, from what each frame of its input has. */
  readonly mayHold: (plan: FollowerPlan, input: ReadonlyMap<number, number>, beside: ReadonlyMap<number, number>) => void;
  /** Throws when a solve would break a budget, or cannot be. */
  readonly mayStart: (run: Awaited<ReturnType<Costs['plan']>>) => Promise<void>;
}

/** Starts the solve, or a pass with what it reads first. */
export class PassStarter {
  constructor(
    private readonly db: Database,
    private readonly config: { readonly threads: number },
    private readonly runs: RunStore,
    private readonly costs: Costs,
  ) {}

  /** Queues a run of a pass, after runs of whatever it reads that is not there. Throws `refused` when it cannot be planned, with the reason. */
  async start(start: PassToStart): Promise<AnyRunDto> {
    const { shot, settings, rung, pass } = start;
    let { before } = start;
    const take = (): readonly BatchItem<'sqlite'>[] => {
      const own = before;
      before = [];
      return own;
    };
    if (pass === SOLVE) return await this.#solve(start, rung, take, start.anew);
    const chain = new Chain(shot.fields, settings, await outsideOf(this.db, shot.id, [settings], shot.fields));
    // Nothing is queued when something further up cannot be.
    planned(chain.entry(pass, rung));
    return await this.#ensure(start, chain, pass, rung, take, start.anew);
  }

  /** A run of a pass with the key that the sheet gives now: one that is there or on its way, else a new one. */
  async #ensure(
    start: PassToStart,
    chain: Chain,
    id: string,
    rung: CachedRung,
    before: () => readonly BatchItem<'sqlite'>[],
    anew: boolean,
  ): Promise<AnyRunDto> {
    if (id === SOLVE) return await this.#solve(start, rung, before, anew);
    const { plan, key, inputs } = planned(chain.entry(id, rung));
    const known = anew ? null : await this.#usable(start.shot.id, key);
    if (known) return await this.runs.get(known.id);
    const read: Partial<Record<InputRole, string>> = {};
    const [elements, beside] = [new Map<number, number>(), new Map<number, number>()];
    for (const input of inputs) {
      // Files of a folder are there; how many voxels they hold is not known.
      if (input.folder !== null) continue;
      const above = input.run ?? (await this.#ensure(start, chain, input.pass, input.rung, before, false)).id;
      read[input.role] = above;
      const into = input.role === 'cache' ? elements : beside;
      for (const [frame, n] of await elementsOf(this.db, await this.runs.row(above))) into.set(frame, (into.get(frame) ?? 0) + n);
    }
    const prediction =
      elements.size > 0
        ? passPrediction(plan, id, elements, beside, await passMeasures(this.db, start.shot.id), this.config.threads)
        : null;
    const { shot, variantId } = start;
    start.mayHold(plan, elements, beside);
    if (prediction) await start.mayCost(prediction);
    return await this.runs.create({
      shot,
      variantId,
      rung,
      pass: { id, plan },
      key,
      inputs: read,
      prediction,
      before: before(),
    });
  }

  async #solve(start: PassToStart, rung: CachedRung, before: () => readonly BatchItem<'sqlite'>[], anew: boolean): Promise<AnyRunDto> {
    const { shot, settings, variantId, mayStart } = start;
    const planned = await this.costs.plan(shot.id, shot.fields, settings, rung);
    const key = opsOf(planned.plan).key(planned.plan);
    const known = anew ? null : await this.#usable(shot.id, key);
    if (known) return await this.runs.get(known.id);
    await mayStart(planned);
    const { plan, prediction } = planned;
    return await this.runs.create({ shot, variantId, rung, pass: { id: SOLVE, plan }, key, inputs: {}, prediction, before: before() });
  }

  /** The newest run of a key that is whole, or will be without anybody's doing. */
  async #usable(shotId: string, key: string): Promise<RunRow | null> {
    const { runs, frames } = tables;
    const rows = await this.db
      .select()
      .from(runs)
      .where(
        and(eq(runs.shotId, shotId), eq(runs.key, key), isNull(runs.freedAt), inArray(runs.state, ['queued', 'running', 'paused', 'done'])),
      )
      .orderBy(desc(runs.number));
    for (const row of rows) {
      if (row.state !== 'done') return row;
      const damaged = await this.db
        .select({ frame: frames.frame })
        .from(frames)
        .where(and(eq(frames.runId, row.id), inArray(frames.damage, ['damaged', 'missing'])))
        .limit(1);
      const { frameCount, framesDone } = await this.runs.get(row.id);
      if (damaged.length === 0 && framesDone >= frameCount) return row;
    }
    return null;
  }
}

function planned(entry: ResolvedEntry): Extract<ResolvedEntry, { problem: null }> {
  if (entry.problem === null) return entry;
  throw new RuddleError('settings-invalid', entry.problem, { issues: [{ path: 'passes', message: entry.problem }] });
}

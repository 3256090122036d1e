import { and, desc, eq, inArray, isNull } from 'drizzle-orm';
import type { BatchItem } from 'drizzle-orm/batch';
import type { Prediction } from '#core/cost';
import { RuddleError } from '#core/errors';
import { type AnyPlan, type CachedRung, Chain, type FollowerPlan, type ResolvedEntry, opsOf } from '#core/passes';
import { SOLVE, type Settings, type ShotFields } from '#core/shot';
import type { AnyRunDto } from '#protocol';
import { type Database, tables } from '#server/db';
import { mayCost } from './budget';
import type { Costs } from './costs';
import { outsideOf } from './pass-inputs';
import { type Load, PassLoads, type ReadLoad, togetherOf } from './pass-loads';
import type { RunRow } from './run-dtos';
import type { Runner } from './runner';
import type { RunStore } from './runs';

/** A start that a user asks for. */
export interface PassToStart {
  readonly shot: { readonly id: string; readonly slug: string; readonly fields: ShotFields };
  readonly settings: Settings;
  readonly variantId: string;
  readonly rung: CachedRung;
  readonly pass: string;
  /** Also when what it would compute is there already, or on its way. */
  readonly anew: boolean;
  /** Also when a budget of the shot would be broken. */
  readonly overBudget: boolean;
  /** Changes that belong to the first run that is made. */
  readonly before: readonly BatchItem<'sqlite'>[];
  readonly runner: Runner;
}

/** A run that is to be made. */
interface NewRun {
  readonly pass: { readonly id: string; readonly plan: AnyPlan };
  readonly rung: CachedRung;
  readonly key: string;
  readonly reads: readonly { readonly role: string; readonly from: RunRow | NewRun }[];
  readonly prediction: Prediction | null;
  /** Once it is made. */
  id: string | null;
}

/** A run that exists or is to be made, and the elements of its frames. */
interface Found {
  readonly from: RunRow | NewRun;
  readonly load: Load;
}

/** What one start needs: everything is planned and held against the budgets before the first run of it is made. */
interface Reckoning {
  readonly start: PassToStart;
  readonly chain: Chain;
  /** By pass and rung: two that read the same read one. */
  readonly found: Map<string, Found>;
  /** In the order in which they are computed. */
  readonly runs: NewRun[];
}

const isNew = (from: RunRow | NewRun): from is NewRun => 'reads' in from;

/** Starts the solve, or a pass after its missing inputs. */
export class PassStarter {
  readonly #loads: PassLoads;

  constructor(
    private readonly db: Database,
    config: { readonly threads: number },
    private readonly runs: RunStore,
    private readonly costs: Costs,
  ) {
    this.#loads = new PassLoads(db, config, costs);
  }

  /**
   * Queues a run of a pass, after runs of its missing inputs. Throws `refused` when it cannot be planned, `over-budget` when all of it together would
   * break a budget: nothing is queued then.
   */
  async start(start: PassToStart): Promise<AnyRunDto> {
    const { shot, settings, rung, pass, overBudget } = start;
    const chain = new Chain(shot.fields, settings, await outsideOf(this.db, shot.id, [settings], shot.fields));
    if (pass !== SOLVE) planned(chain.entry(pass, rung));
    const reckoning: Reckoning = { start, chain, found: new Map(), runs: [] };
    const { from } = await this.#find(reckoning, pass, rung, start.anew);
    if (!isNew(from)) return await this.runs.get(from.id);
    const wanted = reckoning.runs.flatMap((r) => r.prediction ?? []);
    // What cannot be comes before what may not be.
    for (const prediction of wanted) start.runner.mayFit(prediction);
    if (!overBudget) await mayCost(this.db, this.runs, shot, wanted);
    return await this.#make(reckoning);
  }

  /** A run of a pass with the key that the sheet gives now: one that is there or on its way, else a new one. */
  async #find(reckoning: Reckoning, id: string, rung: CachedRung, anew: boolean): Promise<Found> {
    const place = `${id}/${rung}`;
    const known = reckoning.found.get(place);
    if (known) return known;
    const found = id === SOLVE ? await this.#solve(reckoning, rung, anew) : await this.#follower(reckoning, id, rung, anew);
    reckoning.found.set(place, found);
    if (isNew(found.from)) reckoning.runs.push(found.from);
    return found;
  }

  async #follower(reckoning: Reckoning, id: string, rung: CachedRung, anew: boolean): Promise<Found> {
    const { start, chain } = reckoning;
    const { plan, key, inputs } = planned(chain.entry(id, rung));
    const usable = anew ? null : await this.#usable(start.shot.id, key);
    if (usable) return { from: usable, load: await this.#loads.ofRun(usable) };
    const reads: { role: string; from: RunRow | NewRun }[] = [];
    const loads: ReadLoad[] = [];
    for (const input of inputs) {
      // Files of a folder are there; how many voxels they hold is not known.
      if (input.folder !== null) continue;
      const above =
        input.run === null
          ? await this.#find(reckoning, input.pass, input.rung, false)
          : await this.#pinned(await this.runs.row(input.run));
      reads.push({ role: input.role, from: above.from });
      loads.push({ role: input.role, load: above.load });
    }
    this.#mayHold(start, plan, loads);
    const predicted = await this.#loads.predict(start.shot.id, id, plan, loads);
    const from: NewRun = { pass: { id, plan }, rung, key, reads, prediction: predicted?.prediction ?? null, id: null };
    return { from, load: { of: predicted?.gives ?? new Map(), counted: false, basis: predicted?.prediction.basis ?? 'settings' } };
  }

  async #pinned(from: RunRow): Promise<Found> {
    return { from, load: await this.#loads.ofRun(from) };
  }

  /** By counted elements: a prediction is too coarse to say that something can never be. */
  #mayHold({ runner }: PassToStart, plan: FollowerPlan, loads: readonly ReadLoad[]): void {
    const { input, beside } = togetherOf(loads.filter(({ load }) => load.counted));
    runner.mayHold(plan, Math.max(0, ...input.values()), Math.max(0, ...beside.values()));
  }

  async #solve({ start }: Reckoning, rung: CachedRung, anew: boolean): Promise<Found> {
    const { shot, settings, runner } = start;
    const { plan, prediction, frames } = await this.costs.plan(shot.id, shot.fields, settings, rung);
    const key = opsOf(plan).key(plan);
    const load: Load = { of: new Map(frames.map((f) => [f.frame, f.elements])), counted: false, basis: prediction.basis };
    const usable = anew ? null : await this.#usable(shot.id, key);
    if (usable) return { from: usable, load: await this.#loads.ofRun(usable) };
    // A guess from the settings alone is too coarse to refuse a run for; the disk is watched frame by frame in any case.
    await runner.mayStart(plan, prediction.basis === 'settings' ? 0 : prediction.disk.low);
    return { from: { pass: { id: SOLVE, plan }, rung, key, reads: [], prediction, id: null }, load };
  }

  /** Makes the runs in their order; the last is the one that was asked for. */
  async #make({ start, runs }: Reckoning): Promise<AnyRunDto> {
    let { before } = start;
    let made: AnyRunDto | null = null;
    for (const run of runs) {
      const inputs = Object.fromEntries(run.reads.map(({ role, from }) => [role, idOf(from)]));
      const { pass, rung, key, prediction } = run;
      made = await this.runs.create({ shot: start.shot, variantId: start.variantId, rung, pass, key, inputs, prediction, before });
      before = [];
      run.id = made.id;
    }
    if (!made) throw new RuddleError('internal', 'There was nothing to start.', { where: 'start' });
    return made;
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

function idOf(from: RunRow | NewRun): string {
  if (from.id === null) throw new RuddleError('internal', 'A run was to be made before the one that it reads.', { where: 'start' });
  return from.id;
}

function planned(entry: ResolvedEntry): Extract<ResolvedEntry, { problem: null }> {
  if (entry.problem === null) return entry;
  throw new RuddleError('settings-invalid', entry.problem, { issues: [{ path: 'passes', message: entry.problem }] });
}

import { eq } from 'drizzle-orm';
import type { Prediction } from '#core/cost';
import { RuddleError, type ErrorData, toErrorData } from '#core/errors';
import { type FollowerPlan, isSolvePlan, neverFits, opsOf, tooLarge } from '#core/passes';
import type { InputRole, Plan, Settings, ShotFields } from '#core/shot';
import type { LongerDto, PassInputFiles, PassInputs } from '#protocol';
import { DiskGuard, filesOfFolder, geometryFolder, isDiskFull } from '#server/cache';
import type { Config } from '#server/config';
import { type Database, patiently, tables } from '#server/db';
import { type RunningRun, startPassRun, startRun } from '#server/engine';
import { type Ending, cancelWaiting, claim, finish, goOn, putBack, sayWhy, waitsForMemory } from '#server/queue';
import { formatBytes } from '#core/units';
import { mayCost } from './budget';
import type { Costs } from './costs';
import type { EventHub } from './events';
import type { FreedCaches } from './freed';
import { type Extension, extensionOf } from './longer';
import { PausedRuns } from './paused-runs';
import { inputFilesOf, inputRunsOf } from './pass-inputs';
import { PassLoads } from './pass-loads';
import { leftOf, leftOfPass } from './resume';
import type { RunRow } from './run-dtos';
import type { RunStore } from './runs';
import { takeOver } from './take-over';

const RUNGS = ['test', 'final'] as const;
type Rung = (typeof RUNGS)[number];
const ARENA_BYTES = 4 * 1024 ** 3;
/** Between two tries to store how a run ended, milliseconds. */
const TRY_AGAIN = 2000;
/** How long one word of a sketching page holds, milliseconds. */
const SKETCH_LEASE = 8000;

/** A run that has been claimed: cancelling it is heard from the first moment, also before it computes. */
interface Slot {
  readonly id: string;
  number: number;
  /** What it may take by its prediction, bytes. */
  memory: number;
  run: RunningRun | null;
  cancelled: boolean;
  /** Settles when the run is over and that is stored; never rejects. */
  over: Promise<void>;
}

/**
 * Takes jobs from the queue: one Test and one Final at a time. While a Test runs or a page sketches, the Final steps down to one thread, so that
 * the short work is quick and the page too.
 */
export class Runner {
  readonly #slots = new Map<Rung, Slot>();
  readonly #disk: DiskGuard;
  readonly #paused: PausedRuns;
  #pumping = Promise.resolve();
  #stopped = false;
  #sketchUntil = 0;
  /** Frames that are wanted before the rest, of runs that have not begun. */
  readonly #wanted = new Map<string, number>();

  constructor(
    private readonly db: Database,
    private readonly config: Config,
    private readonly runs: RunStore,
    freed: FreedCaches,
    private readonly events: EventHub,
    private readonly costs: Costs,
  ) {
    this.#disk = new DiskGuard(config.data, config.keepBytes, freed);
    this.#paused = new PausedRuns(db, config, runs, this.#disk, () => {
      this.pump();
    });
  }

  /** Throws when a run can never fit into what runs may take of the memory. A guess from the settings alone is too coarse to refuse a run for. */
  mayFit({ basis, memory: { low } }: Prediction): void {
    const { memoryBytes } = this.config;
    if (basis === 'settings' || low <= memoryBytes) return;
    const text = `It needs at least ${formatBytes(low)} of memory, and runs may take ${formatBytes(memoryBytes)} on this machine. Make the voxels larger, the limit box or the sources smaller, or the bounds adaptive.`;
    throw new RuddleError('arena-too-small', text, { neededBytes: low, availableBytes: memoryBytes, frame: null });
  }

  /** Throws when a solve of the plan cannot start: bounds that cannot fit into memory, or no room on the disk for the least `bytes` that it will write. */
  async mayStart(plan: Plan, bytes: number): Promise<void> {
    const never = neverFits(plan, ARENA_BYTES);
    if (never) {
      const { message, neededBytes } = never;
      throw new RuddleError('arena-too-small', message, { neededBytes, availableBytes: ARENA_BYTES, frame: null });
    }
    await this.#disk.mayHold(bytes);
  }

  /** Throws when a pass can never fit into memory, with the factor that would, where it has one. */
  mayHold(plan: FollowerPlan, most: number, beside: number): void {
    const availableBytes = Math.min(ARENA_BYTES, this.config.memoryBytes);
    const refusal = tooLarge(plan, most, availableBytes, beside);
    if (refusal)
      throw new RuddleError('arena-too-small', refusal.message, { neededBytes: refusal.neededBytes, availableBytes, frame: null });
  }

  /** Nothing starts before this is over. */
  waitFor(what: Promise<void>): void {
    this.#pumping = this.#pumping.then(() => what);
  }

  /** A page computes a Sketch: said every few seconds while it does. */
  sketching(on: boolean): void {
    this.#sketchUntil = on ? Date.now() + SKETCH_LEASE : 0;
    this.#share();
    if (on)
      setTimeout(() => {
        this.#share();
      }, SKETCH_LEASE + 100).unref();
  }

  /** Starts what can start, and goes on looking for room for what is paused. Safe to call at any time. */
  pump(): void {
    this.#paused.look();
    this.#pumping = this.#pumping
      .then(async () => {
        for (const rung of RUNGS) {
          if (this.#stopped || this.#slots.has(rung)) continue;
          const free = this.#freeMemory();
          const id = await claim(this.db, rung, Date.now(), free);
          if (id !== null) await this.#take(rung, id);
          else await this.#holdBack(rung, free);
        }
        this.#share();
      })
      .catch((error: unknown) => {
        console.error('queue:', error);
      });
  }

  /** Memory that what computes now leaves, by the predictions; all of it where nothing computes: what could never fit was refused when it was started. */
  #freeMemory(): number {
    const held = [...this.#slots.values()].reduce((n, s) => n + s.memory, 0);
    return this.#slots.size === 0 ? Infinity : this.config.memoryBytes - held;
  }

  /** Says of a run that waits for memory that it does. */
  async #holdBack(rung: Rung, free: number): Promise<void> {
    const waits = free === Infinity ? null : await waitsForMemory(this.db, rung, free);
    if (!waits) return;
    const others = [...this.#slots.values()].map((s) => `run ${String(s.number)}`).join(' and ');
    const left = formatBytes(Math.max(0, free));
    const message = `Waits for memory: it may take ${formatBytes(waits.neededBytes)}, and ${left} of the ${formatBytes(this.config.memoryBytes)} for runs are left beside ${others}. It begins when that is over.`;
    const error = new RuddleError('waits-for-memory', message, { neededBytes: waits.neededBytes, freeBytes: free });
    if (await sayWhy(this.db, waits.id, toErrorData(error))) await this.runs.announce(waits.id);
  }

  /** From here on the slot is given back however the run goes: whatever is thrown on the way is the run's own failure. */
  async #take(rung: Rung, id: string): Promise<void> {
    const slot: Slot = { id, number: 0, memory: 0, run: null, cancelled: false, over: Promise.resolve() };
    this.#slots.set(rung, slot);
    const row = await this.runs.row(id).catch(() => null);
    slot.number = row?.number ?? 0;
    slot.memory = row?.prediction?.memory.high ?? (row ? (await this.runs.get(id).catch(() => null))?.memoryBytes : 0) ?? 0;
    slot.over = this.#compute(slot)
      .catch((error: unknown): Ending => ({ state: 'failed', error: toErrorData(error) }))
      .then(async (ending) => {
        // The server ends, not the run: it goes on with the next start.
        if (this.#stopped && ending.state === 'cancelled' && !slot.cancelled) await putBack(this.db, id);
        else await this.#settle(id, ending);
        await this.runs.announce(id);
      })
      .catch((error: unknown) => {
        console.error(`run ${id}:`, error);
      })
      .finally(() => {
        this.#slots.delete(rung);
        this.pump();
      });
  }

  /** Stores how a run ended. Where even that has no room on the disk, it is tried until it has: else the run would be shown as computing for ever. */
  async #settle(id: string, ending: Ending): Promise<void> {
    for (;;) {
      try {
        if (ending.error?.tag === 'disk-full') await this.#paused.pause(id);
        else await patiently(() => finish(this.db, id, ending, Date.now()));
        return;
      } catch (error) {
        if (!isDiskFull(error) || this.#stopped) throw error;
        await new Promise((resolve) => setTimeout(resolve, TRY_AGAIN).unref());
      }
    }
  }

  async #compute(slot: Slot): Promise<Ending> {
    const { id } = slot;
    const cancelled: Ending = { state: 'cancelled', error: null };
    const row = await this.runs.row(id);
    const [shot] = await this.db.select().from(tables.shots).where(eq(tables.shots.id, row.shotId));
    const [variant] = await this.db.select().from(tables.variants).where(eq(tables.variants.id, row.variantId));
    if (!shot || !variant) return { state: 'failed', error: gone(row.shotId) };
    const names = { shot: shot.fields.value.name, variant: variant.name, settings: variant.settings.value };
    await this.runs.announce(id);
    const plan = row.plan.value;
    if (isSolvePlan(plan)) await this.#predictNow(row, plan);
    // Not looked at in between: from the start on the run hears a cancel itself.
    if (slot.cancelled || this.#stopped) return cancelled;
    await this.runs.glance(id);
    const key = keyNow(row);
    const run = isSolvePlan(plan) ? await this.#solve(row, plan, key, names) : await this.#pass(row, plan, key, names);
    if (run === null) return { state: 'interrupted', error: toErrorData(otherSolver()) };
    slot.run = run;
    const wanted = this.#wanted.get(id);
    this.#wanted.delete(id);
    if (wanted !== undefined) run.first(wanted);
    this.#share();
    // Cancelled while its files were looked at.
    if (slot.cancelled || this.#stopped) slot.run.cancel();
    const outcome = await slot.run.outcome;
    if (outcome.state === 'done') await this.runs.keepStates(id, outcome.states);
    return outcome;
  }

  /** Queued before the first calibration was done: then its time was that of another machine; now it is this one's. */
  async #predictNow(row: RunRow, plan: Plan): Promise<void> {
    if (!row.prediction || (row.prediction.time !== null && !row.prediction.unmeasured)) return;
    const foreseen = await this.costs.predict(row.shotId, plan).catch((error: unknown) => {
      console.error(`run ${row.id}: its cost cannot be predicted:`, error);
      return null;
    });
    if (foreseen) await this.runs.setPrediction(row.id, foreseen.prediction);
  }

  /** null: its first frames are of another solver. */
  async #solve(row: RunRow, plan: Plan, key: string, names: Names): Promise<RunningRun | null> {
    let left = await leftOf(this.db, row, plan);
    if (left.frames.length === 0) row = await this.runs.ownFolder(row);
    if (!(await this.#mayBegin(row, key, left.frames.length > 0))) return null;
    if (left.frames.length === 0 && (await this.#takeOver(row, plan))) left = await leftOf(this.db, row, plan);
    return startRun({
      ...names,
      ...this.#where(row),
      plan,
      states: true,
      ...(left.frames.length > 0 ? { resume: left } : {}),
      onFrame: (frame) => this.runs.addFrame(row, frame),
      onProgress: (frame, part) => {
        this.events.emit({ kind: 'progress', runId: row.id, frame, part });
      },
    });
  }

  /** Begins with frames of another run that would come out the same; whether there are some. What goes wrong costs time only: then it begins at its start. */
  async #takeOver(row: RunRow, plan: Plan): Promise<boolean> {
    try {
      const taken = await takeOver(this.db, row, plan);
      if (taken) await this.runs.announceFrames(row, taken);
      return taken !== null;
    } catch (error) {
      console.error(`run ${row.id}: what another run computed cannot be taken over:`, error);
      return false;
    }
  }

  /** The same of another pass. Throws `refused` when what it reads is not there. */
  async #pass(row: RunRow, plan: FollowerPlan, key: string, names: Names): Promise<RunningRun | null> {
    const left = await leftOfPass(this.db, row, plan);
    const begun = left.frames.length > 0 || left.from !== null;
    if (!begun) row = await this.runs.ownFolder(row);
    if (!(await this.#mayBegin(row, key, begun))) return null;
    const inputs = await this.#inputs(row.id, plan);
    return startPassRun({
      ...names,
      ...this.#where(row),
      plan,
      key,
      inputs,
      ...(begun ? { resume: left } : {}),
      onFrame: (frame) => this.runs.addFrame(row, frame),
      onState: (state) => this.runs.addState(row, state),
    });
  }

  /** The files that a pass reads. Throws `refused` when they are not there. */
  async #inputs(id: string, plan: FollowerPlan): Promise<PassInputs> {
    const runs = await inputRunsOf(this.db, id);
    const gone = (): never => {
      throw new RuddleError('refused', 'What this pass reads was deleted. Start it anew.', { reason: 'input' });
    };
    const found: Partial<Record<InputRole, PassInputFiles>> = {};
    for (const { role, key, folder } of plan.inputs) {
      if (folder !== undefined) {
        found[role] = await filesOfFolder(folder, key, plan.gives.file);
        continue;
      }
      const above = runs.find((r) => r.role === role)?.row ?? gone();
      await this.runs.glance(above.id);
      found[role] = await inputFilesOf(this.db, plan, role, above);
    }
    return { ...found, cache: found.cache ?? gone() };
  }

  /** Whether frames that come now fit to those that are there. What was queued before this version of the code is of this one. */
  async #mayBegin(row: RunRow, key: string, begun: boolean): Promise<boolean> {
    if (row.key === key) return true;
    if (begun) return false;
    await this.runs.setKey(row.id, key);
    return true;
  }

  #where({ folder }: RunRow): {
    readonly folder: string;
    readonly geometryFolder: string;
    readonly threads: number;
    readonly disk: DiskGuard;
  } {
    return { folder, geometryFolder: geometryFolder(this.config.data), threads: this.config.threads, disk: this.#disk };
  }

  /**
   * Takes up a run that is over: missing and damaged frames are computed. `longer`: also frames that its shot's range, or its inputs, have beyond its end; their cost is held
   * against the budgets. A refusal changes nothing.
   */
  async goOn(
    id: string,
    { longer = false, overBudget = false }: { readonly longer?: boolean; readonly overBudget?: boolean } = {},
  ): Promise<void> {
    const row = await this.runs.row(id);
    if (row.key !== keyNow(row)) throw otherSolver();
    if (!longer && (await this.#paused.goOn(id))) return;
    mustBeOver(row);
    const more = longer ? await this.#mayExtend(row, overBudget) : null;
    const plan = more?.plan ?? row.plan.value;
    if (isSolvePlan(plan)) await this.mayStart(plan, more?.wanted?.disk.low ?? 0);
    if (!(await goOn(this.db, id, Date.now(), more))) {
      mustBeOver(await this.runs.row(id));
      throw new RuddleError('refused', 'This run was changed meanwhile.', { reason: 'changed' });
    }
    await this.runs.announce(id);
    this.pump();
  }

  async #mayExtend(row: RunRow, overBudget: boolean): Promise<Extension> {
    const more = await this.#extension(row);
    if (!more) throw new RuddleError('refused', 'This run already ends with its shot and its inputs.', { reason: 'nothing longer' });
    if (more.wanted && !overBudget) await mayCost(this.db, this.runs, await this.#shot(row), [more.wanted]);
    return more;
  }

  #extension(row: RunRow): Promise<Extension | null> {
    return extensionOf(this.db, this.costs, new PassLoads(this.db, this.config, this.costs), row);
  }

  async #shot({ shotId }: RunRow): Promise<{ readonly id: string; readonly fields: ShotFields }> {
    const [shot] = await this.db.select().from(tables.shots).where(eq(tables.shots.id, shotId));
    if (!shot) throw new RuddleError('not-found', 'There is no such shot.', { what: `shot ${shotId}` });
    return { id: shot.id, fields: shot.fields.value };
  }

  /** How far a run can be extended, the predicted cost, and the budgets that it would break; null: no further. */
  async longer(id: string): Promise<LongerDto | null> {
    const row = await this.runs.row(id);
    const more = await this.#extension(row);
    if (!more) return null;
    const { lastFrame, frames, wanted } = more;
    const breaks = await mayCost(this.db, this.runs, await this.#shot(row), wanted ? [wanted] : []).then(
      () => null,
      (error: unknown) => {
        if (error instanceof RuddleError && error.tag === 'over-budget') return error.message;
        throw error;
      },
    );
    return { lastFrame, frames, time: wanted?.time ?? null, disk: wanted?.disk ?? null, memory: wanted?.memory ?? null, breaks };
  }

  #share(): void {
    const yields = this.#slots.has('test') || Date.now() < this.#sketchUntil;
    this.#slots.get('final')?.run?.allow(yields ? 1 : this.config.threads);
  }

  /** A frame of a run that waits or computes comes before the rest. Throws `refused` where each frame needs the one before, or the run is over. */
  async first(id: string, frame: number): Promise<void> {
    const row = await this.runs.row(id);
    if (opsOf(row.plan.value).order === 'sequential')
      throw new RuddleError('refused', 'Each frame of this run needs the one before it. A Test gets there sooner.', {
        reason: 'sequential',
      });
    if (row.state !== 'queued' && row.state !== 'running')
      throw new RuddleError('refused', 'This run is over. Continue it first.', { reason: 'over' });
    const run = [...this.#slots.values()].find((s) => s.id === id)?.run;
    if (run) run.first(frame);
    else this.#wanted.set(id, frame);
  }

  /** Ends a run within a second, whether it waits, begins or computes; whole frames are kept. */
  async cancel(id: string): Promise<void> {
    this.#wanted.delete(id);
    if (await cancelWaiting(this.db, id, Date.now())) {
      await this.runs.announce(id);
      return;
    }
    const slot = [...this.#slots.values()].find((s) => s.id === id);
    if (!slot) return;
    slot.cancelled = true;
    slot.run?.cancel();
  }

  async stop(): Promise<void> {
    this.#stopped = true;
    this.#paused.stop();
    await this.#pumping;
    const slots = [...this.#slots.values()];
    for (const slot of slots) slot.run?.cancel();
    await Promise.all(slots.map((slot) => slot.over));
    await this.#pumping;
  }
}

/** Names that stand in run.json. */
interface Names {
  readonly shot: string;
  readonly variant: string;
  readonly settings: Settings;
}

/** The run key that its plan has with this version of the code. */
const keyNow = ({ plan: { value } }: RunRow): string => opsOf(value).key(value);

/** Throws `refused` while a run is not over, and where its frames are not there. */
function mustBeOver({ state, freedAt }: RunRow): void {
  if (state === 'queued' || state === 'running' || state === 'paused')
    throw new RuddleError('refused', 'This run is not over.', { reason: 'not over' });
  if (freedAt !== null) throw new RuddleError('refused', 'This cache is freed: bring it back first.', { reason: 'freed' });
}

const otherSolver = (): RuddleError<'refused'> =>
  new RuddleError('refused', 'The solver has changed since its first frames: what came now would not fit to them. Start it anew.', {
    reason: 'solver changed',
  });

const gone = (what: string): ErrorData => toErrorData(new RuddleError('not-found', 'Its shot or variant was deleted meanwhile.', { what }));

import { eq } from 'drizzle-orm';
import { RuddleError, type ErrorData, toErrorData } from '#core/errors';
import { doNotFit, leastBytes } from '#core/gas';
import { type Plan, optionsOf, runKey } from '#core/shot';
import { kernelsVersion } from '#kernels';
import { DiskGuard, geometryFolder, isDiskFull } from '#server/cache';
import type { Config } from '#server/config';
import { type Database, tables } from '#server/db';
import { type RunningRun, startRun } from '#server/engine';
import { type Ending, cancelWaiting, claim, finish, goOn, putBack } from '#server/queue';
import type { Costs } from './costs';
import type { EventHub } from './events';
import type { FreedCaches } from './freed';
import { PausedRuns } from './paused-runs';
import { leftOf } from './resume';
import type { RunStore } from './runs';

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

  constructor(
    private readonly db: Database,
    private readonly config: Config,
    private readonly runs: RunStore,
    freed: FreedCaches,
    private readonly events: EventHub,
    private readonly costs: Costs,
  ) {
    this.#disk = new DiskGuard(config.data, config.keepBytes, () => freed.purge());
    this.#paused = new PausedRuns(db, config, runs, this.#disk, () => {
      this.pump();
    });
  }

  /** Throws when a run of the plan cannot start: bounds that cannot fit into memory, or no room on the disk for the least `bytes` that it will write. */
  async mayStart(plan: Plan, bytes: number): Promise<void> {
    for (const options of optionsOf(plan)) {
      const needed = leastBytes(options);
      if (needed <= ARENA_BYTES) continue;
      throw new RuddleError('arena-too-small', doNotFit(needed, ARENA_BYTES), {
        neededBytes: needed,
        availableBytes: ARENA_BYTES,
        frame: null,
      });
    }
    await this.#disk.check(bytes);
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
          const id = await claim(this.db, rung, Date.now());
          if (id !== null) this.#take(rung, id);
        }
        this.#share();
      })
      .catch((error: unknown) => {
        console.error('queue:', error);
      });
  }

  /** From here on the slot is given back however the run goes: whatever is thrown on the way is the run's own failure. */
  #take(rung: Rung, id: string): void {
    const slot: Slot = { id, run: null, cancelled: false, over: Promise.resolve() };
    this.#slots.set(rung, slot);
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
        else await finish(this.db, id, ending, Date.now());
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
    const plan = row.plan.value;
    const [shot] = await this.db.select().from(tables.shots).where(eq(tables.shots.id, row.shotId));
    const [variant] = await this.db.select().from(tables.variants).where(eq(tables.variants.id, row.variantId));
    if (!shot || !variant) return { state: 'failed', error: gone(row.shotId) };
    const { name } = shot.fields.value;
    const settings = variant.settings.value;
    await this.runs.announce(id);
    // Queued before the first calibration was done: then nothing could be said about its time; now it can.
    if (row.prediction?.time === null) {
      const prediction = await this.costs.predict(row.shotId, plan).catch(() => null);
      if (prediction) await this.runs.setPrediction(id, prediction);
    }
    // Not looked at in between: from the start on the run hears a cancel itself.
    if (slot.cancelled || this.#stopped) return cancelled;
    await this.runs.glance(id);
    const left = await leftOf(this.db, row);
    const begun = left.frames.length > 0;
    const key = runKey(plan, kernelsVersion);
    if (begun && row.key !== key) return { state: 'interrupted', error: toErrorData(otherSolver()) };
    // Queued before this version of the solver: what it computes is of this one.
    if (row.key !== key) await this.runs.setKey(id, key);
    slot.run = startRun({
      shot: name,
      variant: variant.name,
      settings,
      plan,
      folder: row.folder,
      geometryFolder: geometryFolder(this.config.data),
      threads: this.config.threads,
      disk: this.#disk,
      states: true,
      ...(begun ? { resume: left } : {}),
      onFrame: (frame) => this.runs.addFrame(row, frame),
      onProgress: (frame, part) => {
        this.events.emit({ kind: 'progress', runId: id, frame, part });
      },
    });
    this.#share();
    // Cancelled while its files were looked at.
    if (slot.cancelled || this.#stopped) slot.run.cancel();
    const outcome = await slot.run.outcome;
    if (outcome.state === 'done') await this.runs.keepStates(id, outcome.states);
    return outcome;
  }

  /** Takes a run that is over up again: what is missing or damaged of its frames is computed, and what the shot's range has more at its end. */
  async goOn(id: string): Promise<void> {
    const row = await this.runs.row(id);
    const plan = row.plan.value;
    if (row.key !== runKey(plan, kernelsVersion)) throw otherSolver();
    if (await this.#paused.goOn(id)) return;
    if (row.state === 'queued' || row.state === 'running')
      throw new RuddleError('refused', 'This run is not over.', { reason: 'not over' });
    const [shot] = await this.db.select().from(tables.shots).where(eq(tables.shots.id, row.shotId));
    const last = shot?.fields.value.lastFrame ?? 0;
    await this.mayStart(plan, 0);
    if (last > plan.options.lastFrame) await this.runs.extend(id, last);
    if (!(await goOn(this.db, id, Date.now()))) {
      throw new RuddleError('refused', 'This cache is freed: bring it back first.', { reason: 'freed' });
    }
    await this.runs.announce(id);
    this.pump();
  }

  #share(): void {
    const yields = this.#slots.has('test') || Date.now() < this.#sketchUntil;
    this.#slots.get('final')?.run?.allow(yields ? 1 : this.config.threads);
  }

  /** Ends a run within a second, whether it waits, begins or computes; whole frames are kept. */
  async cancel(id: string): Promise<void> {
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

const otherSolver = (): RuddleError<'refused'> =>
  new RuddleError('refused', 'The solver has changed since its first frames: what came now would not fit to them. Start it anew.', {
    reason: 'solver changed',
  });

const gone = (what: string): ErrorData => toErrorData(new RuddleError('not-found', 'Its shot or variant was deleted meanwhile.', { what }));

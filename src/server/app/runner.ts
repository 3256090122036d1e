import { eq } from 'drizzle-orm';
import { summaryOf } from '#core/cost';
import { RuddleError, toErrorData } from '#core/errors';
import { doNotFit, limitWindow, windowBytes } from '#core/gas';
import { type Plan, optionsOf } from '#core/shot';
import { DiskGuard, geometryFolder } from '#server/cache';
import type { Config } from '#server/config';
import { type Database, tables } from '#server/db';
import { type RunningRun, startRun } from '#server/engine';
import { claim, finish } from '#server/queue';
import type { Costs } from './costs';
import type { EventHub } from './events';
import type { FreedCaches } from './freed';
import type { RunStore } from './runs';

const RUNGS = ['test', 'final'] as const;
const ARENA_BYTES = 4 * 1024 ** 3;
/** How long one word of a sketching page holds, milliseconds. */
const SKETCH_LEASE = 8000;

/**
 * Takes jobs from the queue: one Test and one Final at a time. While a Test runs or a page sketches, the Final steps down to one thread, so that
 * the short work is quick and the page too.
 */
export class Runner {
  readonly #active = new Map<'test' | 'final', { id: string; run: RunningRun | null }>();
  readonly #disk: DiskGuard;
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
  }

  /** Throws when a run of the plan cannot start: no room on the disk, or fixed bounds that cannot fit into memory. */
  async mayStart(plan: Plan, bytes: number): Promise<void> {
    await this.#disk.check(bytes);
    for (const options of optionsOf(plan)) {
      if (options.bounds.mode === 'adaptive') continue;
      const needed = windowBytes(limitWindow(options), options.matter);
      if (needed <= ARENA_BYTES) continue;
      throw new RuddleError('arena-too-small', doNotFit(needed, ARENA_BYTES), {
        neededBytes: needed,
        availableBytes: ARENA_BYTES,
        frame: null,
      });
    }
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

  /** Starts what can start. Safe to call at any time. */
  pump(): void {
    this.#pumping = this.#pumping
      .then(async () => {
        for (const rung of RUNGS) {
          if (this.#stopped || this.#active.has(rung)) continue;
          const id = await claim(this.db, rung, Date.now());
          if (id !== null) await this.#start(rung, id);
        }
        this.#share();
      })
      .catch((error: unknown) => {
        console.error('queue:', error);
      });
  }

  async #start(rung: 'test' | 'final', id: string): Promise<void> {
    const slot: { id: string; run: RunningRun | null } = { id, run: null };
    this.#active.set(rung, slot);
    const row = await this.runs.row(id);
    const [shot] = await this.db.select().from(tables.shots).where(eq(tables.shots.id, row.shotId));
    const [variant] = await this.db.select().from(tables.variants).where(eq(tables.variants.id, row.variantId));
    if (!shot || !variant) {
      this.#active.delete(rung);
      await finish(this.db, id);
      return;
    }
    // Queued before the first calibration was done: then nothing could be said about its time; now it can.
    if (row.prediction?.time === null) await this.runs.setPrediction(id, summaryOf(await this.costs.predict(row.shotId, row.plan)));
    await this.runs.setState(id, 'running');
    const run = startRun({
      shot: shot.fields.name,
      variant: variant.name,
      settings: variant.settings,
      plan: row.plan,
      folder: row.folder,
      geometryFolder: geometryFolder(this.config.data),
      threads: this.config.threads,
      disk: this.#disk,
      onFrame: (frame) => this.runs.addFrame(row, frame),
      onProgress: (frame, part) => {
        this.events.emit({ kind: 'progress', runId: id, frame, part });
      },
    });
    slot.run = run;
    void run.outcome
      .then(async (outcome) => {
        await this.runs.setState(id, outcome.state, outcome.error);
      })
      .catch(async (error: unknown) => {
        await this.runs.setState(id, 'failed', toErrorData(error)).catch(() => undefined);
      })
      .finally(async () => {
        this.#active.delete(rung);
        await finish(this.db, id).catch(() => undefined);
        this.pump();
      });
  }

  #share(): void {
    const yields = this.#active.has('test') || Date.now() < this.#sketchUntil;
    this.#active.get('final')?.run?.allow(yields ? 1 : this.config.threads);
  }

  /** Ends a run within a second; whole frames are kept. */
  async cancel(id: string): Promise<void> {
    const active = [...this.#active.values()].find((a) => a.id === id);
    if (active) {
      active.run?.cancel();
      return;
    }
    const row = await this.runs.row(id);
    if (row.state !== 'queued') return;
    await finish(this.db, id);
    await this.runs.setState(id, 'cancelled');
  }

  async stop(): Promise<void> {
    this.#stopped = true;
    await this.#pumping;
    const running = [...this.#active.values()].flatMap((a) => (a.run ? [a.run] : []));
    for (const run of running) run.cancel();
    await Promise.all(running.map((run) => run.outcome));
    await this.#pumping;
  }
}

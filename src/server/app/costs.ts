import { mkdir, rm } from 'node:fs/promises';
import { join } from 'node:path';
import { and, desc, eq, inArray } from 'drizzle-orm';
import { type CostFrame, type LiquidCostFrame, calibrationPlans, costFrame } from '#core/cost';
import { type Plan, type Rung, type Settings, type ShotFields, type SolveSettings, resolvePlan, settingsSchema } from '#core/shot';
import { isLiquidReport, opsOf } from '#core/passes';
import type { ServerEvent } from '#protocol';
import { DiskGuard } from '#server/cache';
import type { Config } from '#server/config';
import { type Database, keptPlan, tables } from '#server/db';
import { type RunningRun, codeVersion, startRun } from '#server/engine';
import { type Foreseen, Thinking } from '#server/thinking';
import type { EventHub } from './events';

/** Sketches of a shot that are kept. */
const SKETCHES = 6;
/** Within the data folder, which one server has: in the machine's folder for temporary files, the next server to start would sweep it away. */
export const calibrationFolder = (data: string): string => join(data, 'calibration');

/** What this machine has learnt about costs: asked of the thinking thread, fed by runs, Sketches and the first calibration. */
export class Costs {
  readonly #thinking: Thinking;
  #calibrating: RunningRun | null = null;
  #stopped = false;

  constructor(
    private readonly db: Database,
    private readonly config: Config,
    events: EventHub,
  ) {
    this.#thinking = new Thinking({ database: join(config.data, 'ruddle.db'), threads: config.threads });
    events.subscribe((event: ServerEvent) => {
      // A run that ended is something to learn from.
      if (event.kind === 'run' && event.run.state !== 'running' && event.run.state !== 'queued') this.#thinking.forget();
    });
  }

  /** Times a few small boxes once for each version of the code and number of threads. Nothing of it is kept but the figures. */
  async calibrate(): Promise<void> {
    if (!this.config.calibrate) return;
    const known = await this.db
      .select({ id: tables.calibrations.id })
      .from(tables.calibrations)
      .where(and(eq(tables.calibrations.codeVersion, codeVersion), eq(tables.calibrations.threads, this.config.threads)));
    if (known.length > 0) return;
    const folder = calibrationFolder(this.config.data);
    await mkdir(folder, { recursive: true });
    try {
      for (const [n, plan] of calibrationPlans().entries()) {
        if (this.#stopped) return;
        const frames: CostFrame[] = [];
        this.#calibrating = startRun({
          shot: 'Calibration',
          variant: 'Calibration',
          settings: settingsSchema.parse({}),
          plan,
          folder: join(folder, String(n)),
          geometryFolder: folder,
          threads: this.config.threads,
          disk: new DiskGuard(folder, 0),
          onFrame: (f) => {
            if (!isLiquidReport(f.report)) frames.push(costFrame(f.report, f.bytes));
          },
        });
        const outcome = await this.#calibrating.outcome;
        if (outcome.state !== 'done') {
          if (outcome.error) console.error(`calibration: ${outcome.error.message}`);
          return;
        }
        await this.db
          .insert(tables.calibrations)
          .values({ codeVersion, threads: this.config.threads, plan: keptPlan(plan), frames, createdAt: Date.now() });
      }
    } finally {
      this.#calibrating = null;
      this.#thinking.forget();
      await rm(folder, { recursive: true, force: true });
    }
  }

  /** Ends a calibration that goes on; the next start begins it anew. */
  async stop(): Promise<void> {
    this.#stopped = true;
    this.#calibrating?.cancel();
    await this.#calibrating?.outcome;
    await this.#thinking.close();
  }

  /** What predictions of a shot are made from, as JSON: it may be megabytes, and this thread only passes it on. */
  async evidence(shotId: string): Promise<string> {
    return await this.#thinking.ask({ kind: 'evidence', shotId });
  }

  /** A plan that is about to be computed, and what it will cost. Throws `settings-invalid` when a moving number has no value somewhere in the shot. */
  async plan(shotId: string, fields: ShotFields, settings: Settings, rung: Rung): Promise<Foreseen & { readonly plan: Plan }> {
    return await this.#thinking.ask({ kind: 'plan', shotId, fields, settings, rung });
  }

  async predict(shotId: string, plan: Plan): Promise<Foreseen> {
    return await this.#thinking.ask({ kind: 'predict', shotId, plan });
  }

  /** Keeps the loads of a Sketch; a few of the newest of each shot. */
  async keepSketch(
    shot: { readonly id: string; readonly fields: ShotFields },
    settings: SolveSettings,
    factor: number,
    frames: readonly CostFrame[] | readonly LiquidCostFrame[],
  ): Promise<void> {
    const plan = resolvePlan(shot.fields, settings, 'sketch', factor);
    // Loads of several bounds together tell nothing of one.
    if (plan.beside.length > 0) return;
    const key = opsOf(plan).key(plan);
    const values = { key, shotId: shot.id, plan: keptPlan(plan), frames: [...frames], createdAt: Date.now() };
    await this.db.insert(tables.sketches).values(values).onConflictDoUpdate({ target: tables.sketches.key, set: values });
    const all = await this.db
      .select({ key: tables.sketches.key })
      .from(tables.sketches)
      .where(eq(tables.sketches.shotId, shot.id))
      .orderBy(desc(tables.sketches.createdAt));
    const old = all.slice(SKETCHES).map((s) => s.key);
    if (old.length > 0) await this.db.delete(tables.sketches).where(inArray(tables.sketches.key, old));
  }
}

import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { and, asc, desc, eq, inArray, isNotNull } from 'drizzle-orm';
import {
  type CostFrame,
  type CostRun,
  type DetailedPrediction,
  type Knowledge,
  type RecordEntry,
  calibrationPlans,
  costFrame,
  costRunsOf,
  knowledgeOf,
  measuredOf,
  predict,
} from '#core/cost';
import type { FrameReport } from '#core/gas';
import { type Plan, type Settings, resolvePlan, runKey, settingsSchema } from '#core/shot';
import { kernelsVersion } from '#kernels';
import type { EvidenceDto, ServerEvent } from '#protocol';
import { DiskGuard } from '#server/cache';
import type { Config } from '#server/config';
import { type Database, tables } from '#server/db';
import { type RunningRun, codeVersion, startRun } from '#server/engine';
import type { EventHub } from './events';

type RunRow = typeof tables.runs.$inferSelect;
type ShotRow = typeof tables.shots.$inferSelect;

/** Runs that the model is fitted to, and runs of a shot that predictions start from: the newest. */
const LEARN_FROM = 16;
const OF_SHOT = 10;
const SKETCHES = 6;

/** What this machine has learnt about costs; everything predicted comes from here. */
export class Costs {
  #knowledge: Promise<Knowledge> | null = null;
  #calibrating: RunningRun | null = null;
  #stopped = false;

  constructor(
    private readonly db: Database,
    private readonly config: Config,
    events: EventHub,
  ) {
    events.subscribe((event: ServerEvent) => {
      // A run that ended is something to learn from.
      if (event.kind === 'run' && event.run.state !== 'running' && event.run.state !== 'queued') this.#knowledge = null;
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
    const folder = await mkdtemp(join(tmpdir(), 'ruddle-calibration-'));
    try {
      for (const plan of calibrationPlans()) {
        if (this.#stopped) return;
        const frames: CostFrame[] = [];
        this.#calibrating = startRun({
          shot: 'Calibration',
          variant: 'Calibration',
          settings: settingsSchema.parse({}),
          plan,
          folder,
          geometryFolder: folder,
          threads: this.config.threads,
          disk: new DiskGuard(folder, 0),
          onFrame: (f) => {
            frames.push(costFrame(f.report, f.bytes));
          },
        });
        const outcome = await this.#calibrating.outcome;
        if (outcome.state !== 'done') return;
        await this.db
          .insert(tables.calibrations)
          .values({ codeVersion, threads: this.config.threads, plan, frames, createdAt: Date.now() });
      }
    } finally {
      this.#calibrating = null;
      this.#knowledge = null;
      await rm(folder, { recursive: true, force: true });
    }
  }

  /** Ends a calibration that goes on; the next start begins it anew. */
  stop(): void {
    this.#stopped = true;
    this.#calibrating?.cancel();
  }

  /** Fitted anew after each run. */
  knowledge(): Promise<Knowledge> {
    return (this.#knowledge ??= this.#learn());
  }

  async #learn(): Promise<Knowledge> {
    const rows = await this.db
      .select()
      .from(tables.runs)
      .where(and(inArray(tables.runs.state, ['done', 'cancelled', 'interrupted']), eq(tables.runs.codeVersion, codeVersion)))
      .orderBy(desc(tables.runs.endedAt))
      .limit(LEARN_FROM);
    const runs = await this.#costRuns(rows);
    const calibrations = await this.db
      .select()
      .from(tables.calibrations)
      .where(and(eq(tables.calibrations.codeVersion, codeVersion), eq(tables.calibrations.threads, this.config.threads)));
    const machine = calibrations.map((c): CostRun => ({
      id: `calibration-${String(c.id)}`,
      title: 'calibration',
      origin: 'calibration',
      threads: c.threads,
      plan: c.plan,
      frames: c.frames,
    }));
    const all = [...machine, ...runs];
    const bare = knowledgeOf(all, this.config.threads);
    return { ...bare, record: await this.#record(bare.model?.reference ?? 0) };
  }

  /** What was predicted beside what came, of every run that ended by itself. */
  async #record(reference: number): Promise<RecordEntry[]> {
    const rows = await this.db
      .select({ run: tables.runs, shot: tables.shots.fields })
      .from(tables.runs)
      .innerJoin(tables.shots, eq(tables.shots.id, tables.runs.shotId))
      .where(and(eq(tables.runs.state, 'done'), isNotNull(tables.runs.prediction)))
      .orderBy(desc(tables.runs.endedAt))
      .limit(100);
    const frames = await this.#frames(rows.map((r) => r.run.id));
    return rows.flatMap(({ run, shot }): RecordEntry[] => {
      const own = (frames.get(run.id) ?? []).map((f) => costFrame(f.report, f.bytes));
      if (!run.prediction || own.length === 0) return [];
      const title = `${shot.name}, ${run.rung === 'test' ? 'Test' : 'Final'} ${String(run.number)}`;
      return [{ run: run.id, title, prediction: run.prediction, measured: measuredOf(own, reference) }];
    });
  }

  async #frames(ids: readonly string[]): Promise<Map<string, { report: FrameReport; bytes: number }[]>> {
    const found = new Map<string, { report: FrameReport; bytes: number }[]>();
    if (ids.length === 0) return found;
    const rows = await this.db
      .select({ runId: tables.frames.runId, report: tables.frames.report, bytes: tables.frames.bytes })
      .from(tables.frames)
      .where(inArray(tables.frames.runId, [...ids]))
      .orderBy(asc(tables.frames.frame));
    for (const row of rows) {
      const list = found.get(row.runId) ?? [];
      list.push({ report: row.report, bytes: row.bytes });
      found.set(row.runId, list);
    }
    return found;
  }

  async #costRuns(rows: readonly RunRow[]): Promise<CostRun[]> {
    const frames = await this.#frames(rows.map((r) => r.id));
    return rows.flatMap((row) => {
      const run = {
        id: row.id,
        title: `run ${String(row.number)}`,
        origin: 'server',
        threads: row.threads ?? this.config.threads,
        plan: row.plan,
      } as const;
      return costRunsOf(run, frames.get(row.id) ?? []);
    });
  }

  async evidence(shotId: string): Promise<EvidenceDto> {
    const rows = await this.db
      .select()
      .from(tables.runs)
      .where(and(eq(tables.runs.shotId, shotId), inArray(tables.runs.state, ['done', 'cancelled', 'interrupted', 'failed'])))
      .orderBy(desc(tables.runs.number))
      .limit(OF_SHOT);
    const sketches = await this.db
      .select()
      .from(tables.sketches)
      .where(eq(tables.sketches.shotId, shotId))
      .orderBy(desc(tables.sketches.createdAt))
      .limit(SKETCHES);
    const runs = await this.#costRuns(rows);
    return {
      knowledge: await this.knowledge(),
      runs: [
        ...runs.filter((r) => r.frames.length > 0),
        ...sketches.map((s): CostRun => ({ id: s.key, title: 'a Sketch', origin: 'browser', threads: 1, plan: s.plan, frames: s.frames })),
      ],
    };
  }

  async predict(shotId: string, plan: Plan): Promise<DetailedPrediction> {
    const { knowledge, runs } = await this.evidence(shotId);
    return predict(plan, runs, knowledge);
  }

  /** Keeps the loads of a Sketch; a few of the newest of each shot. */
  async keepSketch(shot: ShotRow, settings: Settings, factor: number, frames: readonly CostFrame[]): Promise<void> {
    const plan = resolvePlan(shot.fields, settings, 'sketch', factor);
    // Loads of several bounds together tell nothing of one.
    if (plan.beside.length > 0) return;
    const key = runKey(plan, kernelsVersion);
    const values = { key, shotId: shot.id, plan, frames: [...frames], createdAt: Date.now() };
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

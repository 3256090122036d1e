import { join } from 'node:path';
import { and, asc, count, eq, inArray, max, sum } from 'drizzle-orm';
import type { Prediction } from '#core/cost';
import { type ErrorData, RuddleError } from '#core/errors';
import { type Plan, passOf, runKey } from '#core/shot';
import { kernelsVersion } from '#kernels';
import type { FrameDto, RunDetailDto, RunDto, RunState } from '#protocol';
import type { Config } from '#server/config';
import { type Database, tables } from '#server/db';
import { codeVersion, type StoredFrame } from '#server/engine';
import { enqueue } from '#server/queue';
import type { EventHub } from './events';
import { newId } from './ids';

type RunRow = typeof tables.runs.$inferSelect;

/** Runs and their frames in the database. */
export class RunStore {
  constructor(
    private readonly db: Database,
    private readonly config: Config,
    private readonly events: EventHub,
  ) {}

  async create(
    shot: { id: string; slug: string },
    variantId: string,
    rung: 'test' | 'final',
    plan: Plan,
    prediction: Prediction,
  ): Promise<RunDto> {
    const id = newId();
    const [last] = await this.db
      .select({ n: max(tables.runs.number) })
      .from(tables.runs)
      .where(eq(tables.runs.shotId, shot.id));
    const number = (last?.n ?? 0) + 1;
    const now = Date.now();
    await this.db.insert(tables.runs).values({
      id,
      number,
      shotId: shot.id,
      variantId,
      rung,
      key: runKey(plan, kernelsVersion),
      plan,
      codeVersion,
      threads: this.config.threads,
      prediction,
      state: 'queued',
      folder: join(this.config.data, 'caches', shot.slug, `run-${String(number).padStart(4, '0')}-${rung}`),
      createdAt: now,
    });
    await enqueue(this.db, id, rung, now);
    await this.db.update(tables.shots).set({ updatedAt: now }).where(eq(tables.shots.id, shot.id));
    return await this.announce(id);
  }

  async row(id: string): Promise<RunRow> {
    const [row] = await this.db.select().from(tables.runs).where(eq(tables.runs.id, id));
    if (!row) throw new RuddleError('not-found', 'There is no such run.', { what: `run ${id}` });
    return row;
  }

  async get(id: string): Promise<RunDto> {
    const row = await this.row(id);
    return (await this.#withTotals([row]))[0] as RunDto;
  }

  async ofShot(shotId: string): Promise<RunDto[]> {
    const rows = await this.db.select().from(tables.runs).where(eq(tables.runs.shotId, shotId)).orderBy(asc(tables.runs.number));
    return await this.#withTotals(rows);
  }

  async #withTotals(rows: readonly RunRow[]): Promise<RunDto[]> {
    if (rows.length === 0) return [];
    const f = tables.frames;
    // One query for all of them: a shot may have hundreds.
    const sums = await this.db
      .select({
        runId: f.runId,
        done: count(),
        bytes: sum(f.bytes).mapWith(Number),
        seconds: sum(f.seconds).mapWith(Number),
        memory: max(f.memoryBytes),
      })
      .from(f)
      .where(
        inArray(
          f.runId,
          rows.map((r) => r.id),
        ),
      )
      .groupBy(f.runId);
    const byRun = new Map(sums.map((s) => [s.runId, s]));
    return rows.map((row): RunDto => {
      const totals = byRun.get(row.id);
      const { firstFrame, lastFrame, preRoll } = row.plan.options;
      return {
        id: row.id,
        number: row.number,
        shotId: row.shotId,
        variantId: row.variantId,
        rung: row.rung,
        key: row.key,
        state: row.state,
        error: row.error,
        createdAt: row.createdAt,
        startedAt: row.startedAt,
        endedAt: row.endedAt,
        frameCount: lastFrame - firstFrame + preRoll + 1,
        framesDone: totals?.done ?? 0,
        seconds: totals?.seconds ?? 0,
        bytes: row.freedAt === null ? (totals?.bytes ?? 0) : 0,
        memoryBytes: totals?.memory ?? 0,
        freed: row.freedAt !== null,
        restorable: row.freedAt !== null && row.purgedAt === null,
        folder: row.folder,
        plan: row.plan,
        codeVersion: row.codeVersion,
        prediction: row.prediction,
        notes: row.notes,
      };
    });
  }

  async detail(id: string): Promise<RunDetailDto> {
    const run = await this.get(id);
    const rows = await this.db.select().from(tables.frames).where(eq(tables.frames.runId, id)).orderBy(asc(tables.frames.frame));
    return {
      run,
      frames: rows.map((r): FrameDto => ({
        frame: r.frame,
        inRange: r.inRange,
        stored: r.stored && !run.freed,
        bytes: r.bytes,
        report: r.report,
      })),
    };
  }

  /** `bounds`: which of the run's. */
  async frame(id: string, frame: number, bounds: number): Promise<{ folder: string; pass: string; checksum: string | null }> {
    const row = await this.row(id);
    const [found] = await this.db
      .select()
      .from(tables.frames)
      .where(and(eq(tables.frames.runId, id), eq(tables.frames.frame, frame)));
    if (!found?.stored || row.freedAt !== null) {
      throw new RuddleError('not-found', `Run ${String(row.number)} has no frame ${String(frame)} on disk.`, {
        what: `frame ${String(frame)}`,
      });
    }
    return { folder: row.folder, pass: passOf(row.plan, bounds), checksum: found.checksum };
  }

  async addFrame(run: RunRow, stored: StoredFrame): Promise<void> {
    await this.db.insert(tables.frames).values({
      runId: run.id,
      frame: stored.frame,
      inRange: stored.inRange,
      stored: stored.stored,
      bytes: stored.bytes,
      checksum: stored.checksum,
      seconds: stored.report.totalSeconds,
      memoryBytes: stored.report.memoryBytes,
      report: stored.report,
    });
    const { frame, inRange, stored: kept, bytes, report } = stored;
    this.events.emit({ kind: 'frame', runId: run.id, shotId: run.shotId, frame: { frame, inRange, stored: kept, bytes, report } });
  }

  async setState(id: string, state: RunState, error: ErrorData | null = null): Promise<RunDto> {
    const now = Date.now();
    await this.db
      .update(tables.runs)
      .set({
        state,
        error,
        ...(state === 'running' ? { startedAt: now } : { endedAt: now }),
      })
      .where(eq(tables.runs.id, id));
    return await this.announce(id);
  }

  async setPrediction(id: string, prediction: Prediction): Promise<void> {
    await this.db.update(tables.runs).set({ prediction }).where(eq(tables.runs.id, id));
  }

  async setNotes(id: string, notes: string): Promise<RunDto> {
    await this.row(id);
    await this.db.update(tables.runs).set({ notes }).where(eq(tables.runs.id, id));
    return await this.announce(id);
  }

  async announce(id: string): Promise<RunDto> {
    const run = await this.get(id);
    this.events.emit({ kind: 'run', run });
    return run;
  }
}

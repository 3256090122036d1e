import { join } from 'node:path';
import { and, asc, count, eq, inArray, max, notInArray, sql, sum } from 'drizzle-orm';
import type { BatchItem } from 'drizzle-orm/batch';
import type { Prediction } from '#core/cost';
import { RuddleError } from '#core/errors';
import { type Plan, passOf, runKey } from '#core/shot';
import { kernelsVersion } from '#kernels';
import type { BrokenRowDto, FrameDto, RunDetailDto, RunDto, RunSummaryDto } from '#protocol';
import type { WrittenFile } from '#server/cache';
import type { Config } from '#server/config';
import { type Database, keptPlan, tables } from '#server/db';
import { codeVersion, type StoredFrame, type StoredState } from '#server/engine';
import { enqueue } from '#server/queue';
import type { EventHub } from './events';
import { CacheHealth, type Examined } from './health';
import { newId } from './ids';

type RunRow = typeof tables.runs.$inferSelect;

/** What a new run is of. */
export interface NewRun {
  readonly shot: { readonly id: string; readonly slug: string };
  readonly variantId: string;
  readonly rung: 'test' | 'final';
  readonly plan: Plan;
  readonly prediction: Prediction;
  /** Changes that belong to its start: they are made in the same transaction. */
  readonly before: readonly BatchItem<'sqlite'>[];
}

/** What frames add up to. */
interface Totals {
  readonly done: number;
  readonly bytes: number;
  readonly seconds: number;
  readonly memory: number;
  readonly damaged: number;
  readonly missing: number;
}
const NOTHING: Totals = { done: 0, bytes: 0, seconds: 0, memory: 0, damaged: 0, missing: 0 };

/** Runs and their frames in the database. */
export class RunStore {
  readonly #health: CacheHealth;

  constructor(
    private readonly db: Database,
    private readonly config: Config,
    private readonly events: EventHub,
  ) {
    this.#health = new CacheHealth(db, async (id) => {
      await this.announce(id);
    });
  }

  /** A run and its place in the queue, in one transaction: its number is the next of its shot, whoever else starts one at this moment. */
  async create({ shot, variantId, rung, plan, prediction, before }: NewRun): Promise<RunDto> {
    const id = newId();
    const now = Date.now();
    const number = sql<number>`(select coalesce(max(number), 0) + 1 from runs where shotId = ${shot.id})`;
    const folder = join(this.config.data, 'caches', shot.slug, 'run-');
    const [first, ...rest] = [
      ...before,
      this.db.insert(tables.runs).values({
        id,
        number,
        shotId: shot.id,
        variantId,
        rung,
        key: runKey(plan, kernelsVersion),
        plan: keptPlan(plan),
        codeVersion,
        threads: this.config.threads,
        prediction,
        state: 'queued',
        folder: sql`${folder} || printf('%04d', ${number}) || ${`-${rung}`}`,
        createdAt: now,
      }),
      enqueue(this.db, id, rung, now),
      this.db.update(tables.shots).set({ updatedAt: now }).where(eq(tables.shots.id, shot.id)),
    ];
    if (first) await this.db.batch([first, ...rest]);
    return await this.announce(id);
  }

  async row(id: string): Promise<RunRow> {
    const [row] = await this.db.select().from(tables.runs).where(eq(tables.runs.id, id));
    if (!row) throw new RuddleError('not-found', 'There is no such run.', { what: `run ${id}` });
    return row;
  }

  /** Throws `unreadable` when its plan cannot be read. */
  async get(id: string): Promise<RunDto> {
    const row = await this.row(id);
    return this.#dto(row, (await this.#totals([id])).get(id) ?? NOTHING);
  }

  /** The runs of a shot in order, and those whose plans cannot be read. */
  async ofShot(shotId: string): Promise<{ readonly runs: RunDto[]; readonly broken: BrokenRowDto[] }> {
    const rows = await this.db.select().from(tables.runs).where(eq(tables.runs.shotId, shotId)).orderBy(asc(tables.runs.number));
    let totals = await this.#totals(rows.map((r) => r.id));
    for (const row of rows) {
      const t = totals.get(row.id) ?? NOTHING;
      await this.#health.folderOf(row, t.done, t.missing);
    }
    totals = await this.#totals(rows.map((r) => r.id));
    const broken = rows.flatMap((row): BrokenRowDto[] => {
      const reason = row.plan.problem;
      return reason === null ? [] : [{ what: 'run', id: row.id, name: `run ${String(row.number)}`, reason }];
    });
    return { runs: rows.filter((r) => r.plan.problem === null).map((row) => this.#dto(row, totals.get(row.id) ?? NOTHING)), broken };
  }

  /** What lists show of the runs of all shots, by shot: no plan is read for it. */
  async summaries(): Promise<Map<string, RunSummaryDto[]>> {
    const { runs } = tables;
    const of = (path: string) => sql<number | null>`case when json_valid(${runs.plan}) then json_extract(${runs.plan}, ${path}) end`;
    const rows = await this.db
      .select({
        id: runs.id,
        number: runs.number,
        shotId: runs.shotId,
        rung: runs.rung,
        state: runs.state,
        freedAt: runs.freedAt,
        approvedAt: runs.approvedAt,
        first: of('$.options.firstFrame'),
        last: of('$.options.lastFrame'),
        preRoll: of('$.options.preRoll'),
        voxelSize: of('$.options.voxelSize'),
      })
      .from(runs)
      .orderBy(asc(runs.number));
    const totals = await this.#totals(null);
    const byShot = new Map<string, RunSummaryDto[]>();
    for (const row of rows) {
      const [first, last, preRoll] = [row.first ?? 1, row.last ?? 1, row.preRoll ?? 0];
      const list = byShot.get(row.shotId) ?? [];
      byShot.set(row.shotId, list);
      list.push(summaryOf(row, totals.get(row.id) ?? NOTHING, { first, last, preRoll, voxelSize: row.voxelSize ?? 1 }));
    }
    return byShot;
  }

  /** Sums over the frames of some runs, or of all; of the disk also what their states take. */
  async #totals(ids: readonly string[] | null): Promise<Map<string, Totals>> {
    if (ids?.length === 0) return new Map();
    const f = tables.frames;
    const having = (damage: string) => sql<number>`coalesce(sum(${f.damage} = ${damage}), 0)`.mapWith(Number);
    // One query for all of them: a shot may have hundreds.
    const sums = await this.db
      .select({
        runId: f.runId,
        done: count(),
        bytes: sum(f.bytes).mapWith(Number),
        seconds: sum(f.seconds).mapWith(Number),
        memory: max(f.memoryBytes),
        damaged: having('damaged'),
        missing: having('missing'),
      })
      .from(f)
      .where(ids === null ? undefined : inArray(f.runId, [...ids]))
      .groupBy(f.runId);
    const { states } = tables;
    const ofStates = await this.db
      .select({ runId: states.runId, bytes: sum(states.bytes).mapWith(Number) })
      .from(states)
      .where(ids === null ? undefined : inArray(states.runId, [...ids]))
      .groupBy(states.runId);
    const stateBytes = new Map(ofStates.map((s) => [s.runId, s.bytes]));
    return new Map(
      sums.map(({ runId, memory, ...s }) => [runId, { ...s, bytes: s.bytes + (stateBytes.get(runId) ?? 0), memory: memory ?? 0 }]),
    );
  }

  #dto(row: RunRow, totals: Totals): RunDto {
    const plan = row.plan.value;
    const { firstFrame: first, lastFrame: last, preRoll, voxelSize } = plan.options;
    return {
      ...summaryOf(row, totals, { first, last, preRoll, voxelSize }),
      variantId: row.variantId,
      key: row.key,
      error: row.error,
      createdAt: row.createdAt,
      startedAt: row.startedAt,
      endedAt: row.endedAt,
      memoryBytes: totals.memory,
      restorable: row.freedAt !== null && row.purgedAt === null,
      folder: row.folder,
      plan,
      codeVersion: row.codeVersion,
      prediction: row.prediction,
      notes: row.notes,
    };
  }

  async detail(id: string): Promise<RunDetailDto> {
    await this.#health.glance(await this.row(id));
    const run = await this.get(id);
    const rows = await this.db.select().from(tables.frames).where(eq(tables.frames.runId, id)).orderBy(asc(tables.frames.frame));
    return {
      run,
      frames: rows.flatMap(({ report, ...r }): FrameDto[] =>
        report === null
          ? []
          : [
              {
                frame: r.frame,
                inRange: r.inRange,
                stored: r.stored && !run.freed && r.damage === null,
                damage: run.freed ? null : r.damage,
                bytes: r.bytes,
                report,
              },
            ],
      ),
    };
  }

  /** Reads every file of a run and holds it against its checksum. */
  async verify(id: string): Promise<Examined> {
    const row = await this.row(id);
    if (row.freedAt !== null) throw new RuddleError('refused', 'This cache is freed: bring it back first.', { reason: 'freed' });
    return await this.#health.verify(row);
  }

  /** Looks at the sizes of a run's files now. */
  async glance(id: string): Promise<void> {
    await this.#health.glance(await this.row(id));
  }

  /** A frame's file was read and is not what was written. */
  async foundDamage(id: string, frame: number, damage: 'damaged' | 'missing'): Promise<void> {
    await this.#health.found(id, frame, damage);
  }

  /** Where a frame of one of a run's bounds lies, and what its files must be; `file` finds one of them. */
  async frame(
    id: string,
    frame: number,
    bounds: number,
  ): Promise<{ readonly folder: string; readonly pass: string; readonly file: (name: string) => WrittenFile | null }> {
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
    const of = await this.db
      .select()
      .from(tables.files)
      .where(and(eq(tables.files.runId, id), eq(tables.files.frame, frame)));
    return {
      folder: row.folder,
      pass: passOf(row.plan.value, bounds),
      file: (name) => {
        const f = of.find((x) => x.path === name);
        return f ? { file: f.path, bytes: f.bytes, checksum: f.checksum } : null;
      },
    };
  }

  async addFrame(run: Pick<RunRow, 'id' | 'shotId'>, frame: StoredFrame): Promise<void> {
    const { frame: number, inRange, stored, bytes, files, states, report } = frame;
    const row = {
      inRange,
      stored,
      bytes,
      checksum: files[0]?.checksum ?? null,
      seconds: report.totalSeconds,
      memoryBytes: report.memoryBytes,
      report,
      damage: null,
    };
    const { frames: f, files: written } = tables;
    // One that was damaged is computed once more.
    const before = await this.db
      .select({ frame: f.frame })
      .from(f)
      .where(and(eq(f.runId, run.id), eq(f.frame, number)));
    await this.db.batch([
      this.db
        .insert(f)
        .values({ runId: run.id, frame: number, ...row })
        .onConflictDoUpdate({ target: [f.runId, f.frame], set: row }),
      ...files.map((w) =>
        this.db
          .insert(written)
          .values({ runId: run.id, frame: number, path: w.file, bytes: w.bytes, checksum: w.checksum })
          .onConflictDoUpdate({ target: [written.runId, written.path], set: { bytes: w.bytes, checksum: w.checksum } }),
      ),
      ...states.flatMap((s) => this.#replaceStates(run.id, s)),
    ]);
    await this.db.present();
    this.events.emit({
      kind: 'frame',
      runId: run.id,
      shotId: run.shotId,
      again: before.length > 0,
      frame: { frame: number, inRange, stored, damage: null, bytes, report },
    });
  }

  /** A new state; of those of its bounds the newest two stay. */
  #replaceStates(runId: string, { bounds, frame, file, bytes, checksum }: StoredState): BatchItem<'sqlite'>[] {
    const { states } = tables;
    const own = sql`${states.runId} = ${runId} and ${states.bounds} = ${bounds}`;
    return [
      this.db
        .insert(states)
        .values({ runId, bounds, frame, path: file, bytes, checksum })
        .onConflictDoUpdate({ target: [states.runId, states.bounds, states.frame], set: { bytes, checksum } }),
      this.db
        .delete(states)
        .where(
          sql`${own} and ${states.frame} not in (select ${states.frame} from ${states} where ${own} order by ${states.frame} desc limit 2)`,
        ),
    ];
  }

  /** Of a run that is done only these states are left. */
  async keepStates(id: string, kept: readonly StoredState[]): Promise<void> {
    const { states } = tables;
    const frames = kept.map((s) => s.frame);
    await this.db.delete(states).where(and(eq(states.runId, id), frames.length > 0 ? notInArray(states.frame, frames) : undefined));
  }

  /** Gives a run another last frame: its frames stay what they are, and what was predicted of it was of another range. */
  async extend(id: string, lastFrame: number): Promise<void> {
    const plan = (await this.row(id)).plan.value;
    const further = { ...plan, options: { ...plan.options, lastFrame } };
    await this.db
      .update(tables.runs)
      .set({ plan: keptPlan(further), prediction: null })
      .where(eq(tables.runs.id, id));
  }

  async setPrediction(id: string, prediction: Prediction): Promise<void> {
    await this.db.update(tables.runs).set({ prediction }).where(eq(tables.runs.id, id));
  }

  async setKey(id: string, key: string): Promise<void> {
    await this.db.update(tables.runs).set({ key, codeVersion }).where(eq(tables.runs.id, id));
  }

  async setApproved(id: string, approved: boolean): Promise<RunDto> {
    await this.row(id);
    await this.db
      .update(tables.runs)
      .set({ approvedAt: approved ? Date.now() : null })
      .where(eq(tables.runs.id, id));
    return await this.announce(id);
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

function summaryOf(
  row: Pick<RunRow, 'id' | 'number' | 'shotId' | 'rung' | 'state' | 'freedAt' | 'approvedAt'>,
  totals: Totals,
  {
    first,
    last,
    preRoll,
    voxelSize,
  }: { readonly first: number; readonly last: number; readonly preRoll: number; readonly voxelSize: number },
): RunSummaryDto {
  const freed = row.freedAt !== null;
  return {
    id: row.id,
    number: row.number,
    shotId: row.shotId,
    rung: row.rung,
    state: row.state,
    frameCount: last - first + preRoll + 1,
    framesDone: totals.done,
    damagedFrames: freed ? 0 : totals.damaged,
    missingFrames: freed ? 0 : totals.missing,
    seconds: totals.seconds,
    bytes: freed ? 0 : totals.bytes,
    freed,
    approved: row.approvedAt !== null,
    firstFrame: first,
    preRoll,
    voxelSize,
  };
}

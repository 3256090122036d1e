import { join } from 'node:path';
import { and, asc, count, eq, inArray, max, notInArray, sql, sum } from 'drizzle-orm';
import type { BatchItem } from 'drizzle-orm/batch';
import type { Prediction } from '#core/cost';
import { RuddleError } from '#core/errors';
import type { CacheFacts } from '#core/pass';
import { type AnyPlan, isSolvePlan, kindOf, opsOf } from '#core/passes';
import type { AnyRunDto, BrokenRowDto, FrameDto, PassDetailDto, PassRunDto, RunDetailDto, RunDto, RunSummaryDto } from '#protocol';
import { type RunFrameRecord, type WrittenFile, exists, isEmptyRun, readRunRecord } from '#server/cache';
import type { Config } from '#server/config';
import { type Database, keptPlan, patiently, tables } from '#server/db';
import { codeVersion, type StoredFrame, type StoredState } from '#server/engine';
import { enqueue } from '#server/queue';
import type { EventHub } from './events';
import { CacheHealth, type Examined } from './health';
import { newId } from './ids';
import { NOTHING, type Totals, dtoOf, rangeOf, summaryOf } from './run-dtos';

type RunRow = typeof tables.runs.$inferSelect;

/** What a new run is of. */
export interface NewRun {
  readonly shot: { readonly id: string; readonly slug: string };
  readonly variantId: string;
  readonly rung: 'test' | 'final';
  /** Its pass in the shot's list, and what it is to do. */
  readonly pass: { readonly id: string; readonly plan: AnyPlan };
  readonly key: string;
  /** Runs that it reads, by role. */
  readonly inputs: Readonly<Record<string, string>>;
  readonly prediction: Prediction | null;
  /** Changes that belong to its start: they are made in the same transaction. */
  readonly before: readonly BatchItem<'sqlite'>[];
}

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
  async create({ shot, variantId, rung, pass, key, inputs, prediction, before }: NewRun): Promise<AnyRunDto> {
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
        passId: pass.id,
        kind: kindOf(pass.plan),
        rung,
        key,
        plan: keptPlan(pass.plan),
        codeVersion,
        threads: this.config.threads,
        prediction,
        state: 'queued',
        folder: sql`${folder} || printf('%04d', ${number}) || ${isSolvePlan(pass.plan) ? `-${rung}` : `-${pass.id}-${rung}`}`,
        createdAt: now,
      }),
      ...Object.entries(inputs).map(([role, inputRunId]) => this.db.insert(tables.runInputs).values({ runId: id, role, inputRunId })),
      enqueue(this.db, id, rung, now),
      this.db.update(tables.shots).set({ updatedAt: now }).where(eq(tables.shots.id, shot.id)),
    ];
    if (first) await this.db.batch([first, ...rest]);
    return await this.announce(id);
  }

  /**
   * A run that begins at its start makes its folder. Where one of that name is there already (a database that was lost or restored counts from the same number again),
   * it takes another name: frames of another run are never swept.
   */
  async ownFolder(run: RunRow): Promise<RunRow> {
    if (!(await exists(run.folder)) || (await isEmptyRun(run.folder))) return run;
    const record = await readRunRecord(run.folder);
    // Left by an earlier attempt of this very run.
    if (record && record.key === run.key && Date.parse(record.startedAt) >= run.createdAt) return run;
    let folder = run.folder;
    for (let n = 2; await exists(folder); n++) folder = `${run.folder}-${String(n)}`;
    await this.db.update(tables.runs).set({ folder }).where(eq(tables.runs.id, run.id));
    return { ...run, folder };
  }

  async row(id: string): Promise<RunRow> {
    const [row] = await this.db.select().from(tables.runs).where(eq(tables.runs.id, id));
    if (!row) throw new RuddleError('not-found', 'There is no such run.', { what: `run ${id}` });
    return row;
  }

  /** Throws `unreadable` when its plan cannot be read. */
  async get(id: string): Promise<RunDto | PassRunDto> {
    const row = await this.row(id);
    const inputs = (await this.#inputs([id])).get(id) ?? [];
    return dtoOf(row, (await this.#totals([id])).get(id) ?? NOTHING, inputs);
  }

  /** The runs of a shot in order, and those whose plans cannot be read. */
  async ofShot(shotId: string): Promise<{ readonly runs: RunDto[]; readonly passRuns: PassRunDto[]; readonly broken: BrokenRowDto[] }> {
    const rows = await this.db.select().from(tables.runs).where(eq(tables.runs.shotId, shotId)).orderBy(asc(tables.runs.number));
    const ids = rows.map((r) => r.id);
    let totals = await this.#totals(ids);
    for (const row of rows) {
      const t = totals.get(row.id) ?? NOTHING;
      await this.#health.folderOf(row, t.done, t.missing);
    }
    totals = await this.#totals(ids);
    const inputs = await this.#inputs(ids);
    const broken: BrokenRowDto[] = [];
    const runs: RunDto[] = [];
    const passRuns: PassRunDto[] = [];
    for (const row of rows) {
      const reason = row.plan.problem;
      if (reason !== null) {
        broken.push({ what: 'run', id: row.id, name: `run ${String(row.number)}`, reason });
        continue;
      }
      const dto = dtoOf(row, totals.get(row.id) ?? NOTHING, inputs.get(row.id) ?? []);
      if ('inputs' in dto) passRuns.push(dto);
      else runs.push(dto);
    }
    return { runs, passRuns, broken };
  }

  /** Runs that some runs read. */
  async #inputs(ids: readonly string[]): Promise<Map<string, string[]>> {
    const { runInputs } = tables;
    const found = new Map<string, string[]>();
    if (ids.length === 0) return found;
    for (const { runId, inputRunId } of await this.db
      .select()
      .from(runInputs)
      .where(inArray(runInputs.runId, [...ids]))
      .orderBy(asc(runInputs.role)))
      found.set(runId, [...(found.get(runId) ?? []), inputRunId]);
    return found;
  }

  /** What lists show of the runs of all shots, by shot: no plan is read for it. */
  async summaries(): Promise<Map<string, RunSummaryDto[]>> {
    const { runs } = tables;
    const of = (path: string) => sql<number | null>`case when json_valid(${runs.plan}) then json_extract(${runs.plan}, ${path}) end`;
    const either = (solve: string, pass: string) => sql<number | null>`coalesce(${of(solve)}, ${of(pass)})`;
    const rows = await this.db
      .select({
        id: runs.id,
        number: runs.number,
        shotId: runs.shotId,
        passId: runs.passId,
        kind: runs.kind,
        rung: runs.rung,
        state: runs.state,
        freedAt: runs.freedAt,
        approvedAt: runs.approvedAt,
        first: either('$.options.firstFrame', '$.frames.first'),
        last: either('$.options.lastFrame', '$.frames.last'),
        every: of('$.frames.every'),
        preRoll: of('$.options.preRoll'),
        voxelSize: either('$.options.voxelSize', '$.gives.voxelSizes[0]'),
      })
      .from(runs)
      .orderBy(asc(runs.number));
    const totals = await this.#totals(null);
    const byShot = new Map<string, RunSummaryDto[]>();
    for (const row of rows) {
      const [first, last, preRoll, every] = [row.first ?? 1, row.last ?? 1, row.preRoll ?? 0, row.every ?? 1];
      const list = byShot.get(row.shotId) ?? [];
      byShot.set(row.shotId, list);
      list.push(summaryOf(row, totals.get(row.id) ?? NOTHING, { first, last, every, preRoll, voxelSize: row.voxelSize ?? 1 }));
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

  async detail(id: string): Promise<RunDetailDto | PassDetailDto> {
    await this.#health.glance(await this.row(id));
    const run = await this.get(id);
    const rows = await this.db.select().from(tables.frames).where(eq(tables.frames.runId, id)).orderBy(asc(tables.frames.frame));
    const frames = rows.flatMap(({ report, ...r }) =>
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
    );
    return { run, frames } as RunDetailDto | PassDetailDto;
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
  ): Promise<{
    readonly folder: string;
    readonly pass: string;
    readonly extension: 'vdb' | 'ply' | 'png' | 'obj' | 'glb';
    readonly file: (name: string) => WrittenFile | null;
  }> {
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
      pass: opsOf(row.plan.value).partName(row.plan.value, bounds),
      extension: extensionOf(opsOf(row.plan.value).gives(row.plan.value)),
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
    const changes = [
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
    ] as const;
    // The files are there: their rows are worth waiting for.
    await patiently(() => this.db.batch(changes));
    await this.db.present();
    this.events.emit({
      kind: 'frame',
      runId: run.id,
      shotId: run.shotId,
      again: before.length > 0,
      frame: { frame: number, inRange, stored, damage: null, bytes, report } as FrameDto,
    });
  }

  /** A state of a frame that is none of the range: of the pre-roll within a pass's first frame. */
  async addState(run: Pick<RunRow, 'id'>, state: StoredState): Promise<void> {
    await patiently(() => this.db.batch(this.#replaceStates(run.id, state) as [BatchItem<'sqlite'>]));
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

  async setPrediction(id: string, prediction: Prediction): Promise<void> {
    await this.db.update(tables.runs).set({ prediction }).where(eq(tables.runs.id, id));
  }

  async setKey(id: string, key: string): Promise<void> {
    await this.db.update(tables.runs).set({ key, codeVersion }).where(eq(tables.runs.id, id));
  }

  async setApproved(id: string, approved: boolean): Promise<AnyRunDto> {
    await this.row(id);
    await this.db
      .update(tables.runs)
      .set({ approvedAt: approved ? Date.now() : null })
      .where(eq(tables.runs.id, id));
    return await this.announce(id);
  }

  async setNotes(id: string, notes: string): Promise<AnyRunDto> {
    await this.row(id);
    await this.db.update(tables.runs).set({ notes }).where(eq(tables.runs.id, id));
    return await this.announce(id);
  }

  /** Tells of frames that a run has without computing them. */
  async announceFrames(run: Pick<RunRow, 'id' | 'shotId'>, taken: readonly RunFrameRecord[]): Promise<void> {
    const { first } = rangeOf(await this.row(run.id));
    for (const { frame, bytes, files, report } of taken) {
      const told = { frame, inRange: frame >= first, stored: files.length > 0, damage: null, bytes, report } as FrameDto;
      this.events.emit({ kind: 'frame', runId: run.id, shotId: run.shotId, again: false, frame: told });
    }
    await this.announce(run.id);
  }

  async announce(id: string): Promise<RunDto | PassRunDto> {
    const run = await this.get(id);
    this.events.emit('inputs' in run ? { kind: 'pass', run } : { kind: 'run', run });
    return run;
  }
}

/** What files of a cache are called at the end. */
const extensionOf = ({ output, extension }: CacheFacts): 'vdb' | 'ply' | 'png' | 'obj' | 'glb' =>
  output === 'mesh' ? (extension ?? 'ply') : ({ vdb: 'vdb', ply: 'ply', picture: 'png' } as const)[output];

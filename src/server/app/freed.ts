import { join } from 'node:path';
import { and, asc, eq, isNotNull, isNull, sum } from 'drizzle-orm';
import { RuddleError } from '#core/errors';
import { type Reclaimable, exists, moveFolder, removeFolder } from '#server/cache';
import type { Config } from '#server/config';
import { type Database, tables } from '#server/db';
import type { EventHub } from './events';

const UNFINISHED: ReadonlySet<string> = new Set(['queued', 'running', 'paused']);

/** Freed caches: moved aside, so that freeing can be undone until their space is needed. */
export class FreedCaches implements Reclaimable {
  constructor(
    private readonly db: Database,
    private readonly config: Config,
    private readonly events: EventHub,
  ) {}

  #aside(runId: string): string {
    return join(this.config.data, 'freed', runId);
  }

  /** `sure`: an approved one too, and one that finished runs were made from. One that a run still reads is never freed. */
  async free(runId: string, sure = false): Promise<void> {
    const row = await this.#row(runId);
    if (UNFINISHED.has(row.state)) {
      throw new RuddleError('refused', 'A run that is not finished cannot be freed. Cancel it first.', { reason: 'running' });
    }
    if (row.freedAt !== null) return;
    if (row.approvedAt !== null && !sure) {
      throw new RuddleError('refused', `Run ${String(row.number)} is approved: its cache is kept.`, { reason: 'approved' });
    }
    const readers = await this.#readers(runId);
    const reader = readers.find((r) => UNFINISHED.has(r.state)) ?? readers[0] ?? null;
    if (reader !== null && UNFINISHED.has(reader.state)) {
      const text = `Run ${String(reader.number)} (${reader.passId}) is not finished and reads it. Cancel that run first, or wait for it.`;
      throw new RuddleError('refused', text, { reason: 'running' });
    }
    if (reader !== null && !sure) {
      const text = `Run ${String(reader.number)} (${reader.passId}) reads it and is kept: it could not be continued or repaired without it.`;
      throw new RuddleError('refused', text, { reason: 'read' });
    }
    if (await exists(row.folder)) await moveFolder(row.folder, this.#aside(runId));
    await this.db.update(tables.runs).set({ freedAt: Date.now() }).where(eq(tables.runs.id, runId));
    this.events.emit({ kind: 'shot', shotId: row.shotId });
  }

  /** Runs that read it and whose own caches are kept. */
  async #readers(runId: string): Promise<Pick<typeof tables.runs.$inferSelect, 'number' | 'passId' | 'state' | 'variantId'>[]> {
    const { runs, runInputs } = tables;
    return await this.db
      .select({ number: runs.number, passId: runs.passId, state: runs.state, variantId: runs.variantId })
      .from(runInputs)
      .innerJoin(runs, eq(runs.id, runInputs.runId))
      .where(and(eq(runInputs.inputRunId, runId), isNull(runs.freedAt)))
      .orderBy(asc(runs.number));
  }

  /** Whether a run of another variant reads it, and is kept. */
  async readByOthers(runId: string, variantId: string): Promise<boolean> {
    return (await this.#readers(runId)).some((r) => r.variantId !== variantId);
  }

  async restore(runId: string): Promise<void> {
    const row = await this.#row(runId);
    if (row.freedAt === null) return;
    if (row.purgedAt !== null) {
      throw new RuddleError('refused', 'The space of this cache was needed; it is gone. Run it again.', { reason: 'purged' });
    }
    // Taken back first: room that is made meanwhile finds nothing freed any more.
    const taken = await this.db
      .update(tables.runs)
      .set({ freedAt: null })
      .where(and(eq(tables.runs.id, runId), isNotNull(tables.runs.freedAt), isNull(tables.runs.purgedAt)))
      .returning({ id: tables.runs.id });
    if (taken.length === 0)
      throw new RuddleError('refused', 'The space of this cache was needed; it is gone. Run it again.', { reason: 'purged' });
    try {
      if (await exists(this.#aside(runId))) await moveFolder(this.#aside(runId), row.folder);
    } catch (error) {
      await this.db.update(tables.runs).set({ freedAt: row.freedAt }).where(eq(tables.runs.id, runId));
      throw error;
    }
    this.events.emit({ kind: 'shot', shotId: row.shotId });
  }

  /** Bytes that giving up all freed caches would bring. */
  async bytes(): Promise<number> {
    const { frames, runs } = tables;
    const [row] = await this.db
      .select({ bytes: sum(frames.bytes).mapWith(Number) })
      .from(frames)
      .innerJoin(runs, eq(runs.id, frames.runId))
      .where(and(isNotNull(runs.freedAt), isNull(runs.purgedAt)));
    return row?.bytes ?? 0;
  }

  /** Deletes freed caches, oldest first, until there is enough room. */
  async giveBack(enough: () => Promise<boolean>): Promise<void> {
    const { runs } = tables;
    const rows = await this.db
      .select()
      .from(runs)
      .where(and(isNotNull(runs.freedAt), isNull(runs.purgedAt)))
      .orderBy(asc(runs.freedAt));
    for (const row of rows) {
      if (await enough()) return;
      // Given up first: one that is brought back at this moment stays.
      const given = await this.db
        .update(runs)
        .set({ purgedAt: Date.now() })
        .where(and(eq(runs.id, row.id), isNotNull(runs.freedAt), isNull(runs.purgedAt)))
        .returning({ id: runs.id });
      if (given.length === 0) continue;
      await removeFolder(this.#aside(row.id));
      this.events.emit({ kind: 'shot', shotId: row.shotId });
    }
  }

  async #row(runId: string): Promise<typeof tables.runs.$inferSelect> {
    const [row] = await this.db.select().from(tables.runs).where(eq(tables.runs.id, runId));
    if (!row) throw new RuddleError('not-found', 'There is no such run.', { what: `run ${runId}` });
    return row;
  }
}

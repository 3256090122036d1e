import { and, eq, gte, isNotNull, isNull } from 'drizzle-orm';
import { RuddleError, isRuddleError } from '#core/errors';
import { type Database, tables } from '#server/db';
import type { EventHub } from './events';
import type { FreedCaches } from './freed';
import { shotRow } from './shot-row';

/** Deleting shots and bringing them back. */
export class DeletedShots {
  constructor(
    private readonly db: Database,
    private readonly freed: FreedCaches,
    private readonly events: EventHub,
  ) {}

  /**
   * Takes a shot off the list, also one that cannot be read, and frees the caches of its runs; both can be undone. `refused` while a run of it is not over, and where
   * caches are approved, unless that is wanted for sure.
   */
  async remove(idOrSlug: string, sure: boolean): Promise<void> {
    const shot = await shotRow(this.db, idOrSlug);
    const runs = await this.db.select().from(tables.runs).where(eq(tables.runs.shotId, shot.id));
    const active = runs.find((r) => r.state === 'running' || r.state === 'queued' || r.state === 'paused');
    if (active) {
      throw new RuddleError('refused', `Run ${String(active.number)} of this shot is not over. Cancel it first.`, { reason: 'running' });
    }
    const kept = runs.filter((r) => r.freedAt === null);
    const approved = kept.filter((r) => r.approvedAt !== null);
    if (approved.length > 0 && !sure) {
      const numbers = approved.map((r) => String(r.number)).join(', ');
      const text = `${approved.length === 1 ? `Run ${numbers} of this shot is` : `Runs ${numbers} of this shot are`} approved: somebody wanted to keep ${approved.length === 1 ? 'its cache' : 'their caches'}.`;
      throw new RuddleError('refused', text, { reason: 'approved' });
    }
    // Off the list first: from here on nobody starts a run of it. Caches that are freed from this moment on come back with it.
    const now = Date.now();
    await this.db.update(tables.shots).set({ deletedAt: now }).where(eq(tables.shots.id, shot.id));
    try {
      for (const run of kept) await this.freed.free(run.id, true);
    } catch (error) {
      await this.restore(shot.id);
      throw error;
    }
    this.events.emit({ kind: 'shot', shotId: shot.id });
  }

  /** Undoes it: caches that were freed by it come back, those whose space was needed meanwhile stay gone. */
  async restore(idOrSlug: string): Promise<void> {
    const { id, deletedAt } = await shotRow(this.db, idOrSlug, true);
    if (deletedAt === null) return;
    const { runs } = tables;
    const freed = await this.db
      .select({ id: runs.id })
      .from(runs)
      .where(and(eq(runs.shotId, id), isNotNull(runs.freedAt), gte(runs.freedAt, deletedAt), isNull(runs.purgedAt)));
    await this.db.update(tables.shots).set({ deletedAt: null }).where(eq(tables.shots.id, id));
    for (const run of freed)
      await this.freed.restore(run.id).catch((error: unknown) => {
        if (!(isRuddleError(error, 'refused') && error.fields.reason === 'purged')) throw error;
      });
    this.events.emit({ kind: 'shot', shotId: id });
  }
}

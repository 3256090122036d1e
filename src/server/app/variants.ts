import { and, eq, isNull } from 'drizzle-orm';
import { RuddleError } from '#core/errors';
import { type Database, tables } from '#server/db';
import type { EventHub } from './events';
import type { FreedCaches } from './freed';
import { newId } from './ids';

type VariantRow = typeof tables.variants.$inferSelect;

/** Between a deleted variant's name and its id: no name that a person types has it. */
const MARK = '\u2402';

/** Duplicating variants, deleting them and bringing them back. */
export class VariantStore {
  constructor(
    private readonly db: Database,
    private readonly freed: FreedCaches,
    private readonly events: EventHub,
  ) {}

  /** A copy of what is on the sheet, draft included; not frozen. Returns its id. */
  async duplicate(id: string): Promise<string> {
    const variant = await this.#row(id);
    const [draft] = await this.db.select().from(tables.drafts).where(eq(tables.drafts.variantId, id));
    const copy = newId();
    await this.db.insert(tables.variants).values({
      id: copy,
      shotId: variant.shotId,
      name: await this.#free(variant.shotId, `${variant.name} copy`),
      parentId: id,
      settings: draft?.settings ?? variant.settings,
      createdAt: Date.now(),
    });
    this.#tell(variant);
    return copy;
  }

  /** Takes it off the list and frees the caches of its runs; both can be undone. `refused` for the last one, or while a run of it goes on. */
  async remove(id: string): Promise<void> {
    const variant = await this.#row(id);
    const siblings = await this.db
      .select({ id: tables.variants.id })
      .from(tables.variants)
      .where(and(eq(tables.variants.shotId, variant.shotId), isNull(tables.variants.deletedAt)));
    if (siblings.length < 2) throw new RuddleError('refused', 'A shot keeps at least one variant.', { reason: 'last' });
    const runs = await this.db.select().from(tables.runs).where(eq(tables.runs.variantId, id));
    if (runs.some((r) => r.state === 'running' || r.state === 'queued' || r.state === 'paused')) {
      throw new RuddleError('refused', 'A run of this variant goes on. Cancel it first.', { reason: 'running' });
    }
    const approved = runs.find((r) => r.approvedAt !== null && r.freedAt === null);
    if (approved) {
      const text = `Run ${String(approved.number)} of this variant is approved. Take the approval back, or free its cache first.`;
      throw new RuddleError('refused', text, { reason: 'approved' });
    }
    // Caches that runs of other variants read stay: those could not be continued or repaired without them.
    for (const run of runs) if (!(await this.freed.readByOthers(run.id, id))) await this.freed.free(run.id, true);
    await this.db
      .update(tables.variants)
      .set({ deletedAt: Date.now(), name: `${variant.name}${MARK}${id}` })
      .where(eq(tables.variants.id, id));
    this.#tell(variant);
  }

  /** Undoes a deletion; caches whose space was needed meanwhile stay gone. */
  async restore(id: string): Promise<void> {
    const variant = await this.#row(id);
    if (variant.deletedAt === null) return;
    const name = await this.#free(variant.shotId, variant.name.split(MARK)[0] ?? variant.name);
    await this.db.update(tables.variants).set({ deletedAt: null, name }).where(eq(tables.variants.id, id));
    const runs = await this.db.select().from(tables.runs).where(eq(tables.runs.variantId, id));
    for (const run of runs) if (run.purgedAt === null) await this.freed.restore(run.id);
    this.#tell(variant);
  }

  async #row(id: string): Promise<VariantRow> {
    const [row] = await this.db.select().from(tables.variants).where(eq(tables.variants.id, id));
    if (!row) throw new RuddleError('not-found', 'There is no such variant.', { what: `variant ${id}` });
    return row;
  }

  /** The name, or with a number behind it when it is taken. */
  async #free(shotId: string, wanted: string): Promise<string> {
    const rows = await this.db.select({ name: tables.variants.name }).from(tables.variants).where(eq(tables.variants.shotId, shotId));
    const taken = new Set(rows.map((r) => r.name));
    const base = wanted.slice(0, 70);
    let name = base;
    for (let n = 2; taken.has(name); n++) name = `${base} (${String(n)})`;
    return name;
  }

  #tell(variant: VariantRow): void {
    this.events.emit({ kind: 'shot', shotId: variant.shotId });
  }
}

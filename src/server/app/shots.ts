import { and, asc, count, desc, eq, isNull } from 'drizzle-orm';
import { type Prediction, summaryOf } from '#core/cost';
import { RuddleError } from '#core/errors';
import {
  type Settings,
  type ShotFields,
  type ShotFile,
  canonicalJson,
  differences,
  planToRun,
  SHOT_VERSION,
  parseWith,
  shotFileSchema,
  variantName,
} from '#core/shot';
import type { DraftDto, RunDto, ShotDto, ShotRowDto, VariantDto } from '#protocol';
import { type Database, tables } from '#server/db';
import type { Costs } from './costs';
import type { EventHub } from './events';
import { newId, slugOf } from './ids';
import type { Runner } from './runner';
import type { RunStore } from './runs';

type ShotRow = typeof tables.shots.$inferSelect;
type VariantRow = typeof tables.variants.$inferSelect;

/** Shots, their variants and drafts. */
export class ShotStore {
  constructor(
    private readonly db: Database,
    private readonly runs: RunStore,
    private readonly costs: Costs,
    private readonly events: EventHub,
  ) {}

  async any(): Promise<boolean> {
    const [row] = await this.db.select({ n: count() }).from(tables.shots);
    return (row?.n ?? 0) > 0;
  }

  /** Adds a shot file as a new shot. */
  async add(file: ShotFile): Promise<ShotDto> {
    const taken = await this.db.select({ slug: tables.shots.slug }).from(tables.shots);
    const slug = slugOf(
      file.name,
      taken.map((t) => t.slug),
    );
    const id = newId();
    const now = Date.now();
    const { ruddle: _version, variants, ...fields } = file;
    const ids = new Map(variants.map((v) => [v.name, newId()]));
    await this.db.batch([
      this.db.insert(tables.shots).values({ id, slug, fields, createdAt: now, updatedAt: now }),
      ...variants.map((v, n) =>
        this.db.insert(tables.variants).values({
          id: ids.get(v.name) ?? newId(),
          shotId: id,
          name: v.name,
          parentId: v.parent === null ? null : (ids.get(v.parent) ?? null),
          settings: v.settings,
          createdAt: now + n,
        }),
      ),
    ]);
    this.events.emit({ kind: 'shot', shotId: id });
    return await this.get(id);
  }

  async list(): Promise<ShotRowDto[]> {
    const rows = await this.db.select().from(tables.shots).orderBy(desc(tables.shots.updatedAt));
    return await Promise.all(
      rows.map(async (row): Promise<ShotRowDto> => {
        const [variants] = await this.db
          .select({ n: count() })
          .from(tables.variants)
          .where(and(eq(tables.variants.shotId, row.id), isNull(tables.variants.deletedAt)));
        return {
          id: row.id,
          slug: row.slug,
          fields: row.fields,
          variants: variants?.n ?? 0,
          runs: await this.runs.ofShot(row.id),
          lastActivity: row.updatedAt,
        };
      }),
    );
  }

  async get(idOrSlug: string): Promise<ShotDto> {
    const row = await this.row(idOrSlug);
    const variants = await this.db
      .select()
      .from(tables.variants)
      .leftJoin(tables.drafts, eq(tables.drafts.variantId, tables.variants.id))
      .where(and(eq(tables.variants.shotId, row.id), isNull(tables.variants.deletedAt)))
      .orderBy(asc(tables.variants.createdAt));
    return {
      id: row.id,
      slug: row.slug,
      fields: row.fields,
      variants: variants.map(({ variants: v, drafts: d }): VariantDto => ({
        id: v.id,
        name: v.name,
        parentId: v.parentId,
        frozen: v.frozen,
        settings: v.settings,
        draft: d && { settings: d.settings, revision: d.revision, updatedAt: d.updatedAt },
      })),
      runs: await this.runs.ofShot(row.id),
    };
  }

  async setFields(id: string, fields: ShotFields): Promise<ShotDto> {
    const row = await this.row(id);
    await this.db.update(tables.shots).set({ fields, updatedAt: Date.now() }).where(eq(tables.shots.id, row.id));
    this.events.emit({ kind: 'shot', shotId: row.id });
    return await this.get(row.id);
  }

  async row(idOrSlug: string): Promise<ShotRow> {
    const bySlug = await this.db.select().from(tables.shots).where(eq(tables.shots.slug, idOrSlug));
    const row = bySlug[0] ?? (await this.db.select().from(tables.shots).where(eq(tables.shots.id, idOrSlug)))[0];
    if (!row) throw new RuddleError('not-found', 'There is no such shot.', { what: `shot ${idOrSlug}` });
    return row;
  }

  async #variant(id: string): Promise<VariantRow> {
    const [row] = await this.db.select().from(tables.variants).where(eq(tables.variants.id, id));
    if (!row) throw new RuddleError('not-found', 'There is no such variant.', { what: `variant ${id}` });
    return row;
  }

  async #draft(variantId: string): Promise<DraftDto | null> {
    const [row] = await this.db.select().from(tables.drafts).where(eq(tables.drafts.variantId, variantId));
    return row ?? null;
  }

  /**
   * Keeps an edit. `conflict` when someone else edited since: the caller takes the newer draft and says so. A draft that equals its variant
   * is removed. Returns the draft, or null.
   */
  async saveDraft(variantId: string, settings: Settings, revision: number): Promise<DraftDto | null> {
    const variant = await this.#variant(variantId);
    const current = await this.#draft(variantId);
    if ((current?.revision ?? 0) !== revision) {
      throw new RuddleError('conflict', 'This draft was edited in another window.', { what: `draft of ${variantId}` });
    }
    const now = Date.now();
    const where = eq(tables.drafts.variantId, variantId);
    if (canonicalJson(settings) === canonicalJson(variant.settings)) {
      await this.db.delete(tables.drafts).where(where);
    } else if (current) {
      const saved = await this.db
        .update(tables.drafts)
        .set({ settings, revision: revision + 1, updatedAt: now })
        .where(and(where, eq(tables.drafts.revision, revision)))
        .returning({ id: tables.drafts.variantId });
      if (saved.length === 0) throw new RuddleError('conflict', 'This draft was edited in another window.', { what: variantId });
    } else {
      await this.db.insert(tables.drafts).values({ variantId, settings, revision: 1, updatedAt: now });
    }
    await this.db.update(tables.shots).set({ updatedAt: now }).where(eq(tables.shots.id, variant.shotId));
    this.events.emit({ kind: 'shot', shotId: variant.shotId });
    return await this.#draft(variantId);
  }

  async rename(variantId: string, name: string): Promise<ShotDto> {
    const variant = await this.#variant(variantId);
    const siblings = await this.db.select().from(tables.variants).where(eq(tables.variants.shotId, variant.shotId));
    if (siblings.some((s) => s.id !== variantId && s.name === name)) {
      throw new RuddleError('settings-invalid', `There is a variant "${name}" already.`, {
        issues: [{ path: 'name', message: 'is taken' }],
      });
    }
    await this.db.update(tables.variants).set({ name }).where(eq(tables.variants.id, variantId));
    this.events.emit({ kind: 'shot', shotId: variant.shotId });
    return await this.get(variant.shotId);
  }

  /**
   * Starts a run of what is on the sheet. A draft is frozen first: into its variant while no run used that, else into a new one, named from
   * what changed.
   */
  async startRun(variantId: string, rung: 'test' | 'final', runner: Runner, overBudget = false): Promise<RunDto> {
    const variant = await this.#variant(variantId);
    const shot = await this.row(variant.shotId);
    const draft = await this.#draft(variantId);
    const settings = draft?.settings ?? variant.settings;
    const plan = planToRun(shot.fields, settings, rung);
    const prediction = summaryOf(await this.costs.predict(shot.id, plan));
    // A guess from the settings alone is too coarse to refuse a run for; the disk is watched frame by frame in any case.
    await runner.mayStart(plan, prediction.basis === 'settings' ? 0 : prediction.disk.low);
    // What cannot be comes before what may not be.
    if (!overBudget) this.#mayCost(shot.fields, prediction, await this.runs.ofShot(shot.id));
    const used = await this.#freeze(variant, draft);
    const run = await this.runs.create(shot, used, rung, plan, prediction);
    this.events.emit({ kind: 'shot', shotId: shot.id });
    runner.pump();
    return run;
  }

  /** Throws `over-budget` when what is predicted does not fit into what is left. */
  #mayCost({ budgets }: ShotFields, prediction: Prediction, runs: readonly RunDto[]): void {
    const spent = (pick: (r: RunDto) => number): number => runs.reduce((n, r) => n + pick(r), 0);
    const what = [
      ...((prediction.time?.likely ?? 0) > budgets.time - spent((r) => r.seconds) ? ['time'] : []),
      ...(prediction.disk.likely > budgets.disk - spent((r) => r.bytes) ? ['disk'] : []),
      ...(prediction.memory.likely > budgets.memory ? ['memory'] : []),
    ];
    if (what.length === 0) return;
    throw new RuddleError('over-budget', `This run would break the shot's budget of ${what.join(' and ')}.`, { what });
  }

  /** A new shot: blank, or a copy of another with its drafts as they are. */
  async create(name: string, from: string | null): Promise<ShotDto> {
    if (from !== null) return await this.add({ ...(await this.file(from)), name });
    return await this.add(
      parseWith(shotFileSchema, { ruddle: SHOT_VERSION, name, variants: [{ name: 'First', settings: {} }] }, 'A blank shot'),
    );
  }

  async #freeze(variant: VariantRow, draft: DraftDto | null): Promise<string> {
    if (!draft) {
      await this.db.update(tables.variants).set({ frozen: true }).where(eq(tables.variants.id, variant.id));
      return variant.id;
    }
    const removeDraft = this.db.delete(tables.drafts).where(eq(tables.drafts.variantId, variant.id));
    if (!variant.frozen) {
      await this.db.batch([
        this.db.update(tables.variants).set({ frozen: true, settings: draft.settings }).where(eq(tables.variants.id, variant.id)),
        removeDraft,
      ]);
      return variant.id;
    }
    const siblings = await this.db
      .select({ name: tables.variants.name })
      .from(tables.variants)
      .where(eq(tables.variants.shotId, variant.shotId));
    const name = variantName(
      differences(variant.settings, draft.settings),
      siblings.map((s) => s.name),
    );
    const id = newId();
    await this.db.batch([
      this.db.insert(tables.variants).values({
        id,
        shotId: variant.shotId,
        name,
        parentId: variant.id,
        settings: draft.settings,
        frozen: true,
        createdAt: Date.now(),
      }),
      removeDraft,
    ]);
    return id;
  }

  /** The shot as a shot file. */
  async file(idOrSlug: string): Promise<ShotFile> {
    const shot = await this.get(idOrSlug);
    const names = new Map(shot.variants.map((v) => [v.id, v.name]));
    return {
      ruddle: SHOT_VERSION,
      ...shot.fields,
      variants: shot.variants.map((v) => ({
        name: v.name,
        parent: v.parentId === null ? null : (names.get(v.parentId) ?? null),
        settings: v.draft?.settings ?? v.settings,
      })),
    };
  }
}

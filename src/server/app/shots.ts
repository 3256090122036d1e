import { and, asc, count, desc, eq, isNull, sql } from 'drizzle-orm';
import type { BatchItem } from 'drizzle-orm/batch';
import { RuddleError } from '#core/errors';
import {
  type SolveKind,
  blankSettings,
  type Settings,
  type ShotFields,
  type ShotFile,
  canonicalJson,
  SHOT_VERSION,
  SOLVE,
  parseWith,
  shotFileSchema,
  variantName,
  settingsDifferences,
} from '#core/shot';
import type { AnyRunDto, BrokenRowDto, DraftDto, ShotDto, ShotRowDto, VariantDto } from '#protocol';
import { lookAtFolders } from '#server/cache';
import type { Config } from '#server/config';
import { type Database, type Kept, keptFields, keptSettings, tables } from '#server/db';
import type { Costs } from './costs';
import type { EventHub } from './events';
import { newId, slugOf } from './ids';
import { passMeasures } from './pass-costs';
import { PassStarter } from './pass-starts';
import type { Runner } from './runner';
import type { RunStore } from './runs';
import { type ShotRow, shotRow } from './shot-row';

type VariantRow = typeof tables.variants.$inferSelect;

const broken = (what: BrokenRowDto['what'], id: string, name: string, kept: Kept<ShotFields> | Kept<Settings> | null): BrokenRowDto[] => {
  const reason = kept?.problem ?? null;
  return reason === null ? [] : [{ what, id, name, reason }];
};

interface HowToStart {
  readonly overBudget?: boolean;
  readonly pass?: string;
  readonly anew?: boolean;
}

/** Shots, their variants and drafts. */
export class ShotStore {
  readonly #passes: PassStarter;
  /** One start after the other: the second finds the sheet that the first has frozen, and the budgets that it has claimed from. */
  #starting: Promise<unknown> = Promise.resolve();

  constructor(
    private readonly db: Database,
    private readonly runs: RunStore,
    costs: Costs,
    private readonly events: EventHub,
    config: Config,
  ) {
    this.#passes = new PassStarter(db, config, runs, costs);
  }

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
      this.db.insert(tables.shots).values({ id, slug, fields: keptFields(fields), createdAt: now, updatedAt: now }),
      ...variants.map((v, n) =>
        this.db.insert(tables.variants).values({
          id: ids.get(v.name) ?? newId(),
          shotId: id,
          name: v.name,
          parentId: v.parent === null ? null : (ids.get(v.parent) ?? null),
          settings: keptSettings(v.settings),
          createdAt: now + n,
        }),
      ),
    ]);
    this.events.emit({ kind: 'shot', shotId: id });
    return await this.get(id);
  }

  /** All shots; one that cannot be read says why instead, and takes nothing else down. */
  async list(): Promise<ShotRowDto[]> {
    const rows = await this.db.select().from(tables.shots).where(isNull(tables.shots.deletedAt)).orderBy(desc(tables.shots.updatedAt));
    const runs = await this.runs.summaries();
    const counts = await this.db
      .select({ shotId: tables.variants.shotId, n: count() })
      .from(tables.variants)
      .where(isNull(tables.variants.deletedAt))
      .groupBy(tables.variants.shotId);
    const variants = new Map(counts.map((c) => [c.shotId, c.n]));
    return rows.map((row): ShotRowDto => {
      const common = { id: row.id, slug: row.slug, lastActivity: row.updatedAt };
      const reason = row.fields.problem;
      if (reason !== null) return { readable: false, ...common, reason };
      return {
        readable: true,
        ...common,
        fields: row.fields.value,
        variants: variants.get(row.id) ?? 0,
        runs: runs.get(row.id) ?? [],
      };
    });
  }

  /** Throws `unreadable` when its fields cannot be read, or none of its variants can. */
  async get(idOrSlug: string): Promise<ShotDto> {
    const row = await this.row(idOrSlug);
    const fields = row.fields.value;
    const rows = await this.db
      .select()
      .from(tables.variants)
      .leftJoin(tables.drafts, eq(tables.drafts.variantId, tables.variants.id))
      .where(and(eq(tables.variants.shotId, row.id), isNull(tables.variants.deletedAt)))
      .orderBy(asc(tables.variants.createdAt));
    const readable = rows.filter(({ variants: v }) => v.settings.problem === null);
    // Throws the reason of the first: there is nothing to open.
    if (readable.length === 0) rows.forEach(({ variants: v }) => v.settings.value);
    const sheets = readable.flatMap(({ variants: v, drafts: d }) => [
      v.settings.value,
      ...(d?.settings.problem === null ? [d.settings.value] : []),
    ]);
    const { runs, passRuns, broken: brokenRuns } = await this.runs.ofShot(row.id);
    return {
      id: row.id,
      slug: row.slug,
      fields,
      revision: row.revision,
      variants: readable.map(({ variants: v, drafts: d }): VariantDto => ({
        id: v.id,
        name: v.name,
        parentId: v.parentId,
        frozen: v.frozen,
        settings: v.settings.value,
        revision: v.revision,
        draft: d?.settings.problem === null ? { settings: d.settings.value, revision: d.revision, updatedAt: d.updatedAt } : null,
      })),
      runs,
      passRuns,
      folders: await lookAtFolders(sheets, fields),
      measures: await passMeasures(this.db, row.id),
      broken: [
        ...rows.flatMap(({ variants: v, drafts: d }) => [
          ...broken('variant', v.id, v.name, v.settings),
          ...broken('draft', v.id, `the draft of ${v.name}`, d?.settings ?? null),
        ]),
        ...brokenRuns,
      ],
    };
  }

  /** Everything that is stored of a shot, as it is stored: for one that cannot be read. */
  async raw(idOrSlug: string): Promise<string> {
    const { id } = await this.row(idOrSlug);
    const all = async (table: 'shots' | 'variants' | 'drafts' | 'runs' | 'frames'): Promise<unknown[]> => {
      const where = {
        shots: sql`id = ${id}`,
        variants: sql`shotId = ${id}`,
        runs: sql`shotId = ${id}`,
        drafts: sql`variantId in (select id from variants where shotId = ${id})`,
        frames: sql`runId in (select id from runs where shotId = ${id})`,
      }[table];
      return await this.db.all(sql`select * from ${sql.raw(table)} where ${where}`);
    };
    const [shots, variants, drafts, runs, frames] = [
      await all('shots'),
      await all('variants'),
      await all('drafts'),
      await all('runs'),
      await all('frames'),
    ];
    const text = (row: unknown, column: string): unknown => {
      const stored = (row as Record<string, unknown>)[column];
      try {
        return JSON.parse(String(stored)) as unknown;
      } catch {
        return stored;
      }
    };
    // As near to a shot file as it comes: what can be mended by hand can be added again.
    const shotFile = {
      ...(text(shots[0], 'fields') as object),
      variants: variants.map((v) => ({ name: (v as { name?: unknown }).name, settings: text(v, 'settings') })),
    };
    return `${JSON.stringify({ shotFile, rows: { shots, variants, drafts, runs, frames } }, null, 1)}\n`;
  }

  /** Keeps changed fields. `conflict` when another window changed them since `revision`. */
  async setFields(id: string, fields: ShotFields, revision: number): Promise<ShotDto> {
    const row = await this.row(id);
    const changed = await this.db
      .update(tables.shots)
      .set({ fields: keptFields(fields), revision: revision + 1, updatedAt: Date.now() })
      .where(and(eq(tables.shots.id, row.id), eq(tables.shots.revision, revision)))
      .returning({ id: tables.shots.id });
    if (changed.length === 0) throw new RuddleError('conflict', 'This shot was changed in another window.', { what: `shot ${row.slug}` });
    this.events.emit({ kind: 'shot', shotId: row.id });
    return await this.get(row.id);
  }

  async row(idOrSlug: string): Promise<ShotRow> {
    return await shotRow(this.db, idOrSlug);
  }

  async #variant(id: string): Promise<VariantRow> {
    const [row] = await this.db.select().from(tables.variants).where(eq(tables.variants.id, id));
    if (!row) throw new RuddleError('not-found', 'There is no such variant.', { what: `variant ${id}` });
    return row;
  }

  async #draft(variantId: string): Promise<DraftDto | null> {
    const [row] = await this.db.select().from(tables.drafts).where(eq(tables.drafts.variantId, variantId));
    return row ? { settings: row.settings.value, revision: row.revision, updatedAt: row.updatedAt } : null;
  }

  /**
   * Keeps an edit. `conflict` when someone else edited since: the caller takes the newer draft and says so. A draft that equals its variant
   * is removed. Returns the draft, or null, and the variant's revision now.
   */
  async saveDraft(variantId: string, settings: Settings, revision: number): Promise<{ draft: DraftDto | null; revision: number }> {
    const { variants, drafts, shots } = tables;
    const variant = await this.#variant(variantId);
    const now = Date.now();
    const next = revision + 1;
    // Taken first, in one statement: of two that were made on the same revision only one gets it. Where the rest then fails, the other is told of a conflict that is none.
    const taken = await this.db
      .update(variants)
      .set({ revision: next })
      .where(and(eq(variants.id, variantId), eq(variants.revision, revision)))
      .returning({ settings: variants.settings });
    const [own] = taken;
    if (!own) throw new RuddleError('conflict', 'This draft was edited in another window.', { what: `draft of ${variantId}` });
    const unchanged = own.settings.problem === null && canonicalJson(settings) === canonicalJson(own.settings.value);
    const row = { settings: keptSettings(settings), revision: next, updatedAt: now };
    await this.db.batch([
      unchanged
        ? this.db.delete(drafts).where(eq(drafts.variantId, variantId))
        : this.db
            .insert(drafts)
            .values({ variantId, ...row })
            .onConflictDoUpdate({ target: drafts.variantId, set: row }),
      this.db.update(shots).set({ updatedAt: now }).where(eq(shots.id, variant.shotId)),
    ]);
    this.events.emit({ kind: 'shot', shotId: variant.shotId });
    return { draft: await this.#draft(variantId), revision: next };
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
  async startRun(variantId: string, rung: 'test' | 'final', runner: Runner, how: HowToStart = {}): Promise<AnyRunDto> {
    const started = this.#starting.then(() => this.#startRun(variantId, rung, runner, how));
    this.#starting = started.catch(() => undefined);
    return await started;
  }

  async #startRun(
    variantId: string,
    rung: 'test' | 'final',
    runner: Runner,
    { overBudget = false, pass = SOLVE, anew = true }: HowToStart,
  ): Promise<AnyRunDto> {
    const variant = await this.#variant(variantId);
    const shot = await this.row(variant.shotId);
    const draft = await this.#draft(variantId);
    const settings = draft?.settings ?? variant.settings.value;
    const fields = shot.fields.value;
    const { id: used, changes } = await this.#freeze(variant, draft);
    const of = { id: shot.id, slug: shot.slug, fields };
    const run = await this.#passes.start({
      shot: of,
      settings,
      variantId: used,
      rung,
      pass,
      anew,
      overBudget,
      before: changes,
      runner,
    });
    this.events.emit({ kind: 'shot', shotId: shot.id });
    runner.pump();
    return run;
  }

  /** A new shot: blank, of gas or of liquid; or a copy of another with its drafts as they are. */
  async create(name: string, from: string | null, kind: SolveKind = 'gas'): Promise<ShotDto> {
    if (from !== null) return await this.add({ ...(await this.file(from)), name });
    return await this.add(
      parseWith(
        shotFileSchema,
        { ruddle: SHOT_VERSION, name, variants: [{ name: 'First', settings: blankSettings(kind) }] },
        'A blank shot',
      ),
    );
  }

  /** The variant that a run uses, and the changes that freeze it: they belong into the transaction that makes the run. */
  async #freeze(variant: VariantRow, draft: DraftDto | null): Promise<{ readonly id: string; readonly changes: BatchItem<'sqlite'>[] }> {
    const own = eq(tables.variants.id, variant.id);
    if (!draft) return { id: variant.id, changes: [this.db.update(tables.variants).set({ frozen: true }).where(own)] };
    // Of the very draft that was planned: an edit that came meanwhile stays a draft. A save that was made on it is told.
    const removeDraft = [
      this.db
        .update(tables.variants)
        .set({ revision: draft.revision + 1 })
        .where(and(own, eq(tables.variants.revision, draft.revision))),
      this.db.delete(tables.drafts).where(and(eq(tables.drafts.variantId, variant.id), eq(tables.drafts.revision, draft.revision))),
    ];
    const settings = keptSettings(draft.settings);
    if (!variant.frozen)
      return { id: variant.id, changes: [this.db.update(tables.variants).set({ frozen: true, settings }).where(own), ...removeDraft] };
    const siblings = await this.db
      .select({ name: tables.variants.name })
      .from(tables.variants)
      .where(eq(tables.variants.shotId, variant.shotId));
    const name = variantName(
      settingsDifferences(variant.settings.value, draft.settings),
      siblings.map((s) => s.name),
    );
    const id = newId();
    const made = this.db.insert(tables.variants).values({
      id,
      shotId: variant.shotId,
      name,
      parentId: variant.id,
      settings,
      frozen: true,
      createdAt: Date.now(),
    });
    return { id, changes: [made, ...removeDraft] };
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

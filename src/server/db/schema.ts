import { customType, index, integer, primaryKey, real, sqliteTable, text, uniqueIndex } from 'drizzle-orm/sqlite-core';
import type { CostFrame, Prediction } from '#core/cost';
import type { ErrorData } from '#core/errors';
import type { FrameReport } from '#core/gas';
import { type Plan, type Settings, type ShotFields, completePlan, settingsSchema, shotFieldsSchema } from '#core/shot';

// Times are milliseconds since 1970. Changed tables need a new numbered migration: npm run db:generate.

/** JSON that an older version may have stored: what has come since is filled in when it is read. */
const json = <T>(complete: (stored: unknown) => T): ReturnType<typeof customType<{ data: T; driverData: string }>> =>
  customType<{ data: T; driverData: string }>({
    dataType: () => 'text',
    toDriver: (value) => JSON.stringify(value),
    fromDriver: (text) => complete(JSON.parse(text)),
  });
const plan = json<Plan>(completePlan);
const settings = json<Settings>((stored) => settingsSchema.parse(stored));
const fields = json<ShotFields>((stored) => shotFieldsSchema.parse(stored));

export const shots = sqliteTable('shots', {
  id: text().primaryKey(),
  slug: text().notNull().unique(),
  fields: fields().notNull(),
  createdAt: integer().notNull(),
  updatedAt: integer().notNull(),
});

export const variants = sqliteTable(
  'variants',
  {
    id: text().primaryKey(),
    shotId: text()
      .notNull()
      .references(() => shots.id, { onDelete: 'cascade' }),
    name: text().notNull(),
    parentId: text(),
    settings: settings().notNull(),
    /** Set once a run used it. */
    frozen: integer({ mode: 'boolean' }).notNull().default(false),
    createdAt: integer().notNull(),
    /** Set when it was deleted; it can be brought back. Its name then carries its id, so that the name is free. */
    deletedAt: integer(),
  },
  (t) => [uniqueIndex('variants_name').on(t.shotId, t.name)],
);

/** At most one a variant. */
export const drafts = sqliteTable('drafts', {
  variantId: text()
    .primaryKey()
    .references(() => variants.id, { onDelete: 'cascade' }),
  settings: settings().notNull(),
  revision: integer().notNull(),
  updatedAt: integer().notNull(),
});

export const runs = sqliteTable(
  'runs',
  {
    id: text().primaryKey(),
    number: integer().notNull(),
    shotId: text()
      .notNull()
      .references(() => shots.id, { onDelete: 'cascade' }),
    variantId: text()
      .notNull()
      .references(() => variants.id),
    rung: text({ enum: ['test', 'final'] }).notNull(),
    key: text().notNull(),
    plan: plan().notNull(),
    codeVersion: text().notNull(),
    threads: integer(),
    /** What was predicted before it started. */
    prediction: text({ mode: 'json' }).$type<Prediction>(),
    /** The user's own words about it. */
    notes: text().notNull().default(''),
    state: text({ enum: ['queued', 'running', 'done', 'cancelled', 'interrupted', 'failed'] }).notNull(),
    error: text({ mode: 'json' }).$type<ErrorData>(),
    folder: text().notNull(),
    /** Set when its frames were moved away to be deleted when space is needed. */
    freedAt: integer(),
    /** Set when they were deleted. */
    purgedAt: integer(),
    createdAt: integer().notNull(),
    startedAt: integer(),
    endedAt: integer(),
  },
  (t) => [index('runs_shot').on(t.shotId), uniqueIndex('runs_number').on(t.shotId, t.number)],
);

export const frames = sqliteTable(
  'frames',
  {
    runId: text()
      .notNull()
      .references(() => runs.id, { onDelete: 'cascade' }),
    frame: integer().notNull(),
    inRange: integer({ mode: 'boolean' }).notNull(),
    stored: integer({ mode: 'boolean' }).notNull(),
    bytes: integer().notNull(),
    checksum: text(),
    seconds: real().notNull(),
    memoryBytes: integer().notNull(),
    report: text({ mode: 'json' }).$type<FrameReport>().notNull(),
  },
  (t) => [primaryKey({ columns: [t.runId, t.frame] })],
);

export const jobs = sqliteTable(
  'jobs',
  {
    id: integer().primaryKey({ autoIncrement: true }),
    runId: text()
      .notNull()
      .references(() => runs.id, { onDelete: 'cascade' }),
    rung: text({ enum: ['test', 'final'] }).notNull(),
    state: text({ enum: ['waiting', 'active', 'finished'] }).notNull(),
    createdAt: integer().notNull(),
    claimedAt: integer(),
  },
  (t) => [index('jobs_state').on(t.state, t.rung)],
);

/** What this machine computed at first start, for the cost model: one row a plan. */
export const calibrations = sqliteTable('calibrations', {
  id: integer().primaryKey({ autoIncrement: true }),
  codeVersion: text().notNull(),
  threads: integer().notNull(),
  plan: plan().notNull(),
  frames: text({ mode: 'json' }).$type<CostFrame[]>().notNull(),
  createdAt: integer().notNull(),
});

/** Loads of Sketches that a browser computed; their times are not used. */
export const sketches = sqliteTable(
  'sketches',
  {
    key: text().primaryKey(),
    shotId: text()
      .notNull()
      .references(() => shots.id, { onDelete: 'cascade' }),
    plan: plan().notNull(),
    frames: text({ mode: 'json' }).$type<CostFrame[]>().notNull(),
    createdAt: integer().notNull(),
  },
  (t) => [index('sketches_shot').on(t.shotId)],
);

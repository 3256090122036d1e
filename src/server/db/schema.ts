import { sql } from 'drizzle-orm';
import { customType, index, integer, primaryKey, real, sqliteTable, text, uniqueIndex } from 'drizzle-orm/sqlite-core';
import type { CostFrame, LiquidCostFrame, Prediction } from '#core/cost';
import type { ErrorData } from '#core/errors';
import type { AnyPlan, AnyReport } from '#core/passes';
import type { Plan, Settings, ShotFields } from '#core/shot';
import { type Keepable, Kept } from './kept';

// Times are milliseconds since 1970. Changed tables need a new numbered migration: npm run db:generate.

/** A part of a shot, with the version that wrote it; read only when it is asked for, and a row that cannot be read says so itself (`kept.ts`). */
const kept = <T extends Keepable>(part: ConstructorParameters<typeof Kept<T>>[1]) =>
  customType<{ data: Kept<T>; driverData: string }>({
    dataType: () => 'text',
    toDriver: (value) => value.text,
    fromDriver: (stored) => new Kept<T>(stored, part),
  });
const plan = kept<AnyPlan>('plan');
/** What predictions are made from is of solves. */
const solvePlan = kept<Plan>('plan');
const settings = kept<Settings>('settings');
const fields = kept<ShotFields>('fields');

/** Figures as JSON; null where what is stored is none, so that one damaged row takes nothing else down. */
const figures = <T>() =>
  customType<{ data: T | null; driverData: string }>({
    dataType: () => 'text',
    toDriver: (value) => JSON.stringify(value),
    fromDriver: (stored) => {
      try {
        return JSON.parse(stored) as T;
      } catch {
        return null;
      }
    },
  });

export const shots = sqliteTable('shots', {
  id: text().primaryKey(),
  slug: text().notNull().unique(),
  fields: fields().notNull(),
  /** Of its fields: raised by every change, so that a window that is behind is told. */
  revision: integer().notNull().default(0),
  createdAt: integer().notNull(),
  updatedAt: integer().notNull(),
  /** Set when it was deleted, to when that began; it can be brought back. Its slug stays its own. */
  deletedAt: integer(),
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
    /** Of its sheet: raised by every edit and when a draft is frozen or taken back, never lowered, so that no window that is behind overwrites. */
    revision: integer().notNull().default(0),
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
    /** Of the pass in its shot's list; and its kind. */
    passId: text().notNull().default('solve'),
    /** Every row says it; the column's own default is from before the gas solve's kind had its name. */
    kind: text({ enum: ['gas', 'liquid', 'resample', 'detail', 'held', 'fed', 'retime', 'particles', 'refill', 'surface', 'stills'] })
      .notNull()
      .default(sql`'solve'`),
    rung: text({ enum: ['test', 'final'] }).notNull(),
    key: text().notNull(),
    plan: plan().notNull(),
    codeVersion: text().notNull(),
    threads: integer(),
    /** What was predicted before it started. */
    prediction: figures<Prediction>()(),
    /** The user's own words about it. */
    notes: text().notNull().default(''),
    state: text({ enum: ['queued', 'running', 'paused', 'done', 'cancelled', 'interrupted', 'failed'] }).notNull(),
    error: figures<ErrorData>()(),
    folder: text().notNull(),
    /** Set when it was approved: its cache is not freed without asking twice. */
    approvedAt: integer(),
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

/** Runs that a run reads: it waits for them, and their caches are not freed unasked while it is kept. */
export const runInputs = sqliteTable(
  'run_inputs',
  {
    runId: text()
      .notNull()
      .references(() => runs.id, { onDelete: 'cascade' }),
    role: text().notNull(),
    inputRunId: text()
      .notNull()
      .references(() => runs.id, { onDelete: 'cascade' }),
  },
  (t) => [primaryKey({ columns: [t.runId, t.role] }), index('inputs_of').on(t.inputRunId)],
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
    report: figures<AnyReport>()().notNull(),
    /** What its files were found to be when they were last looked at; null: as they were written. */
    damage: text({ enum: ['damaged', 'missing'] }),
  },
  (t) => [primaryKey({ columns: [t.runId, t.frame] })],
);

/** Files of frames: what they must be when they are read. Frames of older versions have none here. */
export const files = sqliteTable(
  'files',
  {
    runId: text()
      .notNull()
      .references(() => runs.id, { onDelete: 'cascade' }),
    frame: integer().notNull(),
    /** In the run's folder. */
    path: text().notNull(),
    bytes: integer().notNull(),
    /** SHA-256. */
    checksum: text().notNull(),
  },
  (t) => [primaryKey({ columns: [t.runId, t.path] }), index('files_frame').on(t.runId, t.frame)],
);

/** States of runs that are not done: what they go on from. Those of each bounds; the newest two are kept. */
export const states = sqliteTable(
  'states',
  {
    runId: text()
      .notNull()
      .references(() => runs.id, { onDelete: 'cascade' }),
    bounds: integer().notNull(),
    /** After which. */
    frame: integer().notNull(),
    path: text().notNull(),
    bytes: integer().notNull(),
    checksum: text().notNull(),
  },
  (t) => [primaryKey({ columns: [t.runId, t.bounds, t.frame] })],
);

export const jobs = sqliteTable(
  'jobs',
  {
    id: integer().primaryKey({ autoIncrement: true }),
    runId: text()
      .notNull()
      .references(() => runs.id, { onDelete: 'cascade' }),
    rung: text({ enum: ['test', 'final'] }).notNull(),
    state: text({ enum: ['waiting', 'active', 'blocked', 'finished'] }).notNull(),
    createdAt: integer().notNull(),
    claimedAt: integer(),
    /** Frames that its run had when it was last claimed. */
    framesBefore: integer().notNull().default(0),
    /** Times in a row that the server ended while it was computed, without a new frame. */
    attempts: integer().notNull().default(0),
  },
  (t) => [index('jobs_state').on(t.state, t.rung)],
);

/** What this machine computed at first start, for the cost model: one row a plan. */
export const calibrations = sqliteTable('calibrations', {
  id: integer().primaryKey({ autoIncrement: true }),
  codeVersion: text().notNull(),
  threads: integer().notNull(),
  plan: solvePlan().notNull(),
  frames: figures<CostFrame[]>()().notNull(),
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
    plan: solvePlan().notNull(),
    frames: figures<(CostFrame | LiquidCostFrame)[]>()().notNull(),
    createdAt: integer().notNull(),
  },
  (t) => [index('sketches_shot').on(t.shotId)],
);

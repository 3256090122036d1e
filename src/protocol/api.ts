import * as z from 'zod';
import type { ErrorData } from '#core/errors';
import { type AnyCostRun, type Knowledge, type Prediction, type Range, costFrameSchema, liquidCostFrameSchema } from '#core/cost';
import type { FolderFacts, FollowerPlan, FollowerReport, PassMeasure, SolveReport } from '#core/passes';
import {
  type FollowerKind,
  type PassKind,
  type Plan,
  SOLVE,
  type Settings,
  type ShotFields,
  settingsSchema,
  liquidSolveSchema,
  solveSchema,
  shotFieldsSchema,
  shotFileSchema,
  upgradedFile,
} from '#core/shot';

// Requests: schemas. Responses: types, built by the server and read by the page.
export const rungSchema = z.enum(['test', 'final']);
export const startRunSchema = z.strictObject({
  variantId: z.string(),
  rung: rungSchema,
  /** Which pass of the sheet. */
  pass: z.string().max(40).default(SOLVE),
  /** The user was told that a budget would be broken, and agreed. */
  overBudget: z.boolean().default(false),
  /** Also when what it would compute is there already, or on its way. */
  anew: z.boolean().default(true),
});
/** `longer`: beyond its last frame too; `overBudget` as when it is started. */
export const continueSchema = z.strictObject({ longer: z.boolean().default(false), overBudget: z.boolean().default(false) });
/** Which frame of a run is computed next. */
export const firstSchema = z.strictObject({ frame: z.number().int() });
/** Loads of a Sketch that the browser computed: keyed by its plan, never used for times. */
export const sketchSchema = z.strictObject({
  settings: z.union([solveSchema, liquidSolveSchema]),
  factor: z.number().min(1).max(1000),
  frames: z.union([z.array(costFrameSchema).min(8).max(5000), z.array(liquidCostFrameSchema).min(8).max(5000)]),
});
export const newShotSchema = z.strictObject({
  name: z.string().trim().min(1).max(80),
  /** Shot to copy; null: a blank one, of gas or of liquid. */
  from: z.string().nullable(),
  kind: z.enum(['gas', 'liquid']).default('gas'),
});
export const approvedSchema = z.strictObject({ approved: z.boolean() });
/** `sure`: approved caches too. */
export const sureSchema = z.strictObject({ sure: z.boolean().default(false) });
export const notesSchema = z.strictObject({ notes: z.string().max(4000) });
export const sketchingSchema = z.strictObject({ on: z.boolean() });
export const saveDraftSchema = z.strictObject({
  settings: settingsSchema,
  /** Revision of the variant that the edit was made on. */
  revision: z.number().int().min(0),
});
export const renameSchema = z.strictObject({ name: z.string().trim().min(1).max(80) });
/** Of this version or an older one. */
export const importShotSchema = z.preprocess(upgradedFile, shotFileSchema);
export const patchShotSchema = z.strictObject({
  fields: shotFieldsSchema,
  /** Of the fields that the change was made on. */
  revision: z.number().int().min(0),
});

export type RunState = 'queued' | 'running' | 'paused' | 'done' | 'cancelled' | 'interrupted' | 'failed';
/** State of a pass's cache, against the settings on the sheet. */
export type CacheState = 'fresh' | 'stale' | 'partial' | 'missing' | 'damaged' | 'failed';

export interface DraftDto {
  readonly settings: Settings;
  readonly revision: number;
  readonly updatedAt: number;
}
export interface VariantDto {
  readonly id: string;
  readonly name: string;
  readonly parentId: string | null;
  readonly frozen: boolean;
  readonly settings: Settings;
  readonly draft: DraftDto | null;
  /** Of its sheet, draft or not: it only grows. */
  readonly revision: number;
}
export interface FrameDto<Report = SolveReport> {
  readonly frame: number;
  /** False: pre-roll. */
  readonly inRange: boolean;
  /** Whether there is a file to look at. */
  readonly stored: boolean;
  /** What was wrong with its files when they were last looked at. */
  readonly damage: 'damaged' | 'missing' | null;
  readonly bytes: number;
  readonly report: Report;
}
export type PassFrameDto = FrameDto<FollowerReport>;
/** What lists show of a run. */
export interface RunSummaryDto {
  readonly id: string;
  readonly number: number;
  readonly shotId: string;
  /** Which pass of its sheet it is of. */
  readonly passId: string;
  readonly kind: PassKind;
  readonly rung: 'test' | 'final';
  readonly state: RunState;
  readonly frameCount: number;
  readonly framesDone: number;
  /** Of the frames that were written: those whose files are damaged, or gone. */
  readonly damagedFrames: number;
  readonly missingFrames: number;
  readonly seconds: number;
  readonly bytes: number;
  readonly approved: boolean;
  readonly freed: boolean;
  readonly firstFrame: number;
  readonly preRoll: number;
  /** Metres; 1 where there are no voxels. */
  readonly voxelSize: number;
}
/** How far a run can be taken beyond its last frame, and what that will cost. */
export interface LongerDto {
  readonly lastFrame: number;
  /** Frames that are computed for it. */
  readonly frames: number;
  readonly time: Range | null;
  readonly disk: Range | null;
  readonly memory: Range | null;
  /** Which budgets it would break; null: none. */
  readonly breaks: string | null;
}
/** What is known of a run of any kind. */
export interface AnyRunDto extends RunSummaryDto {
  readonly variantId: string;
  readonly key: string;
  readonly error: ErrorData | null;
  readonly createdAt: number;
  readonly startedAt: number | null;
  readonly endedAt: number | null;
  readonly memoryBytes: number;
  /** Whether freed frames can be brought back. */
  readonly restorable: boolean;
  /** Folder of the cache on this machine. */
  readonly folder: string;
  readonly codeVersion: string;
  /** What was said before it started. */
  readonly prediction: Prediction | null;
  readonly notes: string;
}
/** A run of a solve: of gas, or of liquid. */
export interface RunDto extends AnyRunDto {
  readonly plan: Plan;
}
/** A run of a pass that follows it. */
export interface PassRunDto extends AnyRunDto {
  readonly kind: FollowerKind;
  readonly plan: FollowerPlan;
  /** Runs that it reads. */
  readonly inputs: readonly string[];
}
/** Something of a shot that is stored and cannot be read. */
export interface BrokenRowDto {
  readonly what: 'variant' | 'draft' | 'run';
  readonly id: string;
  readonly name: string;
  readonly reason: string;
}
export interface ShotDto {
  readonly id: string;
  readonly slug: string;
  readonly fields: ShotFields;
  /** Of its fields. */
  readonly revision: number;
  readonly variants: readonly VariantDto[];
  readonly runs: readonly RunDto[];
  readonly passRuns: readonly PassRunDto[];
  /** Folders that passes of its sheets read, by path. */
  readonly folders: Readonly<Record<string, FolderFacts>>;
  /** What passes took on this machine, the newest last. */
  readonly measures: readonly PassMeasure[];
  /** What is left out of the lists above. */
  readonly broken: readonly BrokenRowDto[];
}
/** A shot in the list of all; one that cannot be read has a reason instead. */
export type ShotRowDto =
  | {
      readonly readable: true;
      readonly id: string;
      readonly slug: string;
      readonly lastActivity: number;
      readonly fields: ShotFields;
      readonly variants: number;
      readonly runs: readonly RunSummaryDto[];
    }
  | { readonly readable: false; readonly id: string; readonly slug: string; readonly lastActivity: number; readonly reason: string };
/** What reading every file of a run came to: frames by what was found. */
export interface VerifiedDto {
  readonly files: number;
  readonly damaged: readonly number[];
  readonly missing: readonly number[];
  /** Frames whose files cannot be read now: of those nothing is known. */
  readonly unreadable: readonly number[];
  /** Files in its folder that are none of its own. */
  readonly foreign: readonly string[];
}
export interface RunDetailDto {
  readonly run: RunDto;
  readonly frames: readonly FrameDto[];
}
export interface PassDetailDto {
  readonly run: PassRunDto;
  readonly frames: readonly PassFrameDto[];
}
/** What predictions are made from: what this machine has learnt, and the shot's own runs. */
export interface EvidenceDto {
  readonly knowledge: Knowledge;
  readonly runs: readonly AnyCostRun[];
}

export interface StatusDto {
  readonly version: string;
  readonly freeBytes: number;
  readonly keepBytes: number;
  readonly threads: number;
  /** When this server began; with it, what it found left over from before: told once. */
  readonly startedAt: number;
  readonly found: readonly string[];
}

/** What the event stream tells. `progress` is frequent and carries itself; the others say what to look at anew. */
export type ServerEvent =
  | { readonly kind: 'hello' }
  | { readonly kind: 'run'; readonly run: RunDto }
  | { readonly kind: 'pass'; readonly run: PassRunDto }
  /** `again`: it was there, damaged or missing. */
  | {
      readonly kind: 'frame';
      readonly runId: string;
      readonly shotId: string;
      readonly frame: FrameDto | PassFrameDto;
      readonly again: boolean;
    }
  | { readonly kind: 'progress'; readonly runId: string; readonly frame: number; readonly part: number }
  | { readonly kind: 'shot'; readonly shotId: string }
  /** How far an import has come; `id` is the one that its client gave it, `part` 0..1 of the stage or null. */
  | { readonly kind: 'import'; readonly id: string; readonly stage: string; readonly part: number | null };

import { type RunRange, listFrames } from '#core/pass';
import { isSolvePlan, opsOf } from '#core/passes';
import type { PassRunDto, RunDto, RunSummaryDto } from '#protocol';
import type { tables } from '#server/db';

export type RunRow = typeof tables.runs.$inferSelect;

/** What frames add up to. */
export interface Totals {
  readonly done: number;
  readonly bytes: number;
  readonly seconds: number;
  readonly memory: number;
  readonly damaged: number;
  readonly missing: number;
}
export const NOTHING: Totals = { done: 0, bytes: 0, seconds: 0, memory: 0, damaged: 0, missing: 0 };

/** Throws `unreadable`. */
export const rangeOf = (row: RunRow): RunRange => opsOf(row.plan.value).range(row.plan.value);

type Listed = Pick<RunRow, 'id' | 'number' | 'shotId' | 'passId' | 'kind' | 'rung' | 'state' | 'freedAt' | 'approvedAt'>;

export function summaryOf(row: Listed, totals: Totals, { first, last, every, preRoll, voxelSize }: RunRange): RunSummaryDto {
  const freed = row.freedAt !== null;
  return {
    id: row.id,
    number: row.number,
    shotId: row.shotId,
    passId: row.passId,
    kind: row.kind,
    rung: row.rung,
    state: row.state,
    frameCount: listFrames({ first, last, every }).length + preRoll,
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

/** A run as the page has it; throws `unreadable` when its plan cannot be read. */
export function dtoOf(row: RunRow, totals: Totals, inputs: readonly string[]): RunDto | PassRunDto {
  const common = {
    ...summaryOf(row, totals, rangeOf(row)),
    variantId: row.variantId,
    key: row.key,
    error: row.error,
    createdAt: row.createdAt,
    startedAt: row.startedAt,
    endedAt: row.endedAt,
    memoryBytes: totals.memory,
    restorable: row.freedAt !== null && row.purgedAt === null,
    folder: row.folder,
    codeVersion: row.codeVersion,
    prediction: row.prediction,
    notes: row.notes,
  };
  const plan = row.plan.value;
  return isSolvePlan(plan) ? { ...common, plan } : { ...common, kind: plan.pass, plan, inputs };
}

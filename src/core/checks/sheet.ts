import type { FrameReport } from '#core/gas';
import { type Plan, type Rung, type SolveSettings, type ShotFields, resolvePlan } from '#core/shot';
import type { CheckInput, Finding } from './finding';
import { findAll } from './registry';

export interface SheetInput extends Pick<CheckInput, 'spent' | 'prediction'> {
  readonly shot: ShotFields;
  /** On the sheet. */
  readonly settings: SolveSettings;
  /** Rung that is worked at. */
  readonly rung: Rung;
  /** The run that is looked at, with the settings it was computed from. */
  readonly run: { readonly plan: Plan; readonly settings: SolveSettings; readonly reports: readonly FrameReport[] } | null;
}

/**
 * What to tell while a sheet is edited: what its settings say by themselves, and what the run that is looked at went through. The first is about the
 * draft, the second about the run, whose settings may be older.
 */
export function findForSheet({ shot, settings, rung, run, prediction, spent }: SheetInput): Finding[] {
  const own = findAll({ shot, settings, plan: resolvePlan(shot, settings, rung), reports: [], prediction, spent });
  if (!run) return own;
  const measured = findAll({ shot, settings: run.settings, plan: run.plan, reports: run.reports, prediction: null, spent });
  const known = new Set(own.map((f) => f.id));
  const all = [...own, ...measured.filter((f) => f.frames !== null && !known.has(f.id))];
  return [...all.filter((f) => f.severity === 'warning'), ...all.filter((f) => f.severity === 'note')];
}

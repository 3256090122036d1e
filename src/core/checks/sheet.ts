import { type Plan, type Rung, type SolveSettings, type ShotFields, isLiquid, isLiquidPlan, resolvePlan } from '#core/shot';
import type { CheckInput, Finding, FlowCheckInput } from './finding';
import { findAll } from './registry';

export interface SheetInput extends Pick<CheckInput, 'spent' | 'prediction'> {
  readonly shot: ShotFields;
  /** On the sheet. */
  readonly settings: SolveSettings;
  /** Rung that is worked at. */
  readonly rung: Rung;
  /** The run that is looked at, with the settings it was computed from. */
  readonly run: { readonly plan: Plan; readonly settings: SolveSettings; readonly reports: FlowCheckInput['reports'] } | null;
}

/**
 * What to tell while a sheet is edited: what its settings say by themselves, and what the run that is looked at went through. The first is about the
 * draft, the second about the run, whose settings may be older.
 */
export function findForSheet({ shot, settings, rung, run, prediction, spent }: SheetInput): Finding[] {
  const own = findAll({ shot, settings, plan: resolvePlan(shot, settings, rung), reports: [], prediction, spent });
  // A run of another kind, from before the shot became what it is, says nothing about this sheet.
  if (!run || isLiquidPlan(run.plan) !== isLiquid(settings)) return own;
  const measured = findAll({ shot, settings: run.settings, plan: run.plan, reports: run.reports, prediction: null, spent });
  const known = new Set(own.map((f) => f.id));
  const all = [...own, ...measured.filter((f) => f.frames !== null && !known.has(f.id))];
  return [...all.filter((f) => f.severity === 'warning'), ...all.filter((f) => f.severity === 'note')];
}

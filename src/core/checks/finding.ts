import type { FrameReport } from '#core/gas';
import type { LiquidReport } from '#core/liquid';
import type { Prediction } from '#core/cost';
import type { Edit, GasPlan, GasSolve, Group, LiquidPlan, LiquidSolve, Plan, ShotFields, SolveSettings } from '#core/shot';

/** Reads settings and reports only. */
interface InputOf<Solve, SolvePlan, Report> {
  readonly shot: ShotFields;
  readonly settings: Solve;
  /** Of the run that the reports are of; of the draft when there are none. */
  readonly plan: SolvePlan;
  /** In order of frames; empty before a run. */
  readonly reports: readonly Report[];
  /** What the plan is predicted to cost, and what the shot has spent without it. */
  readonly prediction: Prediction | null;
  readonly spent: { readonly seconds: number; readonly bytes: number };
}

/** Of a gas, of a liquid, and of either: what both have can be looked at alike. */
export type CheckInput = InputOf<GasSolve, GasPlan, FrameReport>;
export type LiquidCheckInput = InputOf<LiquidSolve, LiquidPlan, LiquidReport>;
export type FlowCheckInput = InputOf<SolveSettings, Plan, FrameReport | LiquidReport>;

export interface Remedy {
  /** What it does, with the new value: `Most substeps 2 -> 4`. */
  readonly title: string;
  readonly edits: readonly Edit[];
}

export interface Finding {
  /** Name of the check, and what it is about when there are several: `thin-solid:2`. */
  readonly id: string;
  readonly group: Group;
  readonly severity: 'warning' | 'note';
  /** What, in a line, with its figure. */
  readonly title: string;
  /** The likely cause, and what to do. */
  readonly text: string;
  /** First and last frame, and how many in between are meant; null: the settings as such. */
  readonly frames: { readonly from: number; readonly to: number; readonly count: number; readonly list: readonly number[] } | null;
  readonly remedies: readonly Remedy[];
}

/** A check: pure, registered by name. */
export interface Check<Input = CheckInput> {
  readonly id: string;
  readonly find: (input: Input) => Finding[];
}

/** The frames of some reports. */
export function framesOf(reports: readonly { readonly frame: number }[]): Finding['frames'] {
  const list = reports.map((r) => r.frame);
  return list.length === 0 ? null : { from: Math.min(...list), to: Math.max(...list), count: list.length, list };
}

/** `frame 12` or `frames 12-40, 17 of them` */
export const framesText = (frames: Finding['frames']): string => {
  if (!frames) return '';
  if (frames.from === frames.to) return `frame ${String(frames.from)}`;
  const span = frames.to - frames.from + 1;
  return `frames ${String(frames.from)} to ${String(frames.to)}${frames.count < span ? `, ${String(frames.count)} of them` : ''}`;
};

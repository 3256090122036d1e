import type { FrameReport } from '#core/gas';
import type { Prediction } from '#core/cost';
import type { Edit, Group, Plan, SolveSettings, ShotFields } from '#core/shot';

/** Reads settings and reports only. */
export interface CheckInput {
  readonly shot: ShotFields;
  readonly settings: SolveSettings;
  /** Of the run that the reports are of; of the draft when there are none. */
  readonly plan: Plan;
  /** In order of frames; empty before a run. */
  readonly reports: readonly FrameReport[];
  /** What the plan is predicted to cost, and what the shot has spent without it. */
  readonly prediction: Prediction | null;
  readonly spent: { readonly seconds: number; readonly bytes: number };
}

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
export interface Check {
  readonly id: string;
  readonly find: (input: CheckInput) => Finding[];
}

/** The frames of some reports. */
export function framesOf(reports: readonly FrameReport[]): Finding['frames'] {
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

import type { ForeseenFrame, Prediction } from '#core/cost';
import type { ErrorData } from '#core/errors';
import type { Plan, Rung, Settings, ShotFields } from '#core/shot';

/** What the thinking thread works with. */
export interface ThinkingStart {
  /** The database's file. */
  readonly database: string;
  readonly threads: number;
}

/** What is asked of it: everything that may take long on what a user made, so that the thread that answers requests never waits for it. */
export type Question =
  /** What predictions of a shot are made from, as JSON (EvidenceDto). */
  | { readonly kind: 'evidence'; readonly shotId: string }
  /** A plan of settings at a rung, looked through for mistakes, with what it will cost. */
  | { readonly kind: 'plan'; readonly shotId: string; readonly fields: ShotFields; readonly settings: Settings; readonly rung: Rung }
  /** What a plan will cost. */
  | { readonly kind: 'predict'; readonly shotId: string; readonly plan: Plan };

/** The prediction of a solve, and of each of its frames. */
export interface Foreseen {
  readonly prediction: Prediction;
  readonly frames: readonly ForeseenFrame[];
}

export interface Answers {
  readonly evidence: string;
  readonly plan: Foreseen & { readonly plan: Plan };
  readonly predict: Foreseen;
}

export type ThinkingRequest =
  | { readonly kind: 'ask'; readonly id: number; readonly question: Question }
  /** A run ended, or the machine was calibrated: what was learnt before is old. */
  | { readonly kind: 'forget' };

export type ThinkingReply =
  { readonly id: number; readonly answer: Answers[Question['kind']] } | { readonly id: number; readonly error: ErrorData };

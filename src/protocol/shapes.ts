import type { ErrorData } from '#core/errors';
import { type ContactSlice, type ForceArrows, type Gap } from '#core/flow';
import type { Geometry, PointsGeometry } from '#core/mesh';
import type { Plan } from '#core/shot';

/** What the page asks of the worker that knows imported geometry. Questions about a plan are of its state at a frame. */
export type ShapeQuestion =
  | { readonly kind: 'shown'; readonly hash: string }
  | { readonly kind: 'slice'; readonly plan: Plan; readonly frame: number; readonly axis: 0 | 1 | 2; readonly part: number }
  | { readonly kind: 'forces'; readonly plan: Plan; readonly frame: number; readonly axis: 0 | 1 | 2; readonly part: number }
  | { readonly kind: 'gap'; readonly plan: Plan; readonly frame: number; readonly solid: number };

export interface ShapeAnswers {
  readonly shown: Geometry | PointsGeometry;
  readonly slice: ContactSlice;
  readonly forces: ForceArrows;
  readonly gap: Gap;
}

export interface ShapeRequest {
  readonly id: number;
  readonly question: ShapeQuestion;
}
export type ShapeReply =
  { readonly id: number; readonly answer: ShapeAnswers[ShapeQuestion['kind']] } | { readonly id: number; readonly error: ErrorData };

import { parsePath, putAtPath } from './paths';
import { type SolveSettings, parsedSolve, solveKindOf } from './solve';

/** One setting's new value; remedies are lists of these, so that they can be stored and shown. */
export interface Edit {
  readonly path: string;
  readonly value: unknown;
}

/** A solve's settings with edits applied; null when the result would not be valid. */
export function applyEdits<S extends SolveSettings>(settings: S, edits: readonly Edit[]): S | null {
  const changed = edits.reduce<unknown>((s, e) => putAtPath(s, parsePath(e.path), e.value), settings);
  return parsedSolve(solveKindOf(settings), changed) as S | null;
}

import { parsePath, putAtPath } from './paths';
import { type SolveSettings, solveSchema } from './solve-settings';

/** One setting's new value; remedies are lists of these, so that they can be stored and shown. */
export interface Edit {
  readonly path: string;
  readonly value: unknown;
}

/** A solve's settings with edits applied; null when the result would not be valid. */
export function applyEdits(settings: SolveSettings, edits: readonly Edit[]): SolveSettings | null {
  const changed = edits.reduce<unknown>((s, e) => putAtPath(s, parsePath(e.path), e.value), settings);
  const result = solveSchema.safeParse(changed);
  return result.success ? result.data : null;
}

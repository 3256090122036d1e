import { parsePath, putAtPath } from './paths';
import { type Settings, settingsSchema } from './settings';

/** One setting's new value; remedies are lists of these, so that they can be stored and shown. */
export interface Edit {
  readonly path: string;
  readonly value: unknown;
}

/** Settings with edits applied; null when the result would not be valid. */
export function applyEdits(settings: Settings, edits: readonly Edit[]): Settings | null {
  const changed = edits.reduce<unknown>((s, e) => putAtPath(s, parsePath(e.path), e.value), settings);
  const result = settingsSchema.safeParse(changed);
  return result.success ? result.data : null;
}

import { type ErrorTag, isRuddleError } from '#core/errors';

export const EXIT = { done: 0, internal: 1, usage: 2, invalid: 3, refused: 4, ended: 5, interrupted: 130 } as const;

/** Wrong words on the command line. */
export class UsageError extends Error {}

const CODES: Partial<Record<ErrorTag, number>> = {
  'settings-invalid': EXIT.invalid,
  'file-invalid': EXIT.invalid,
  'not-found': EXIT.usage,
  'arena-too-small': EXIT.refused,
  'disk-full': EXIT.refused,
  cancelled: EXIT.interrupted,
};

/** Says what went wrong on standard error; returns the exit code. */
export function reportError(error: unknown): number {
  if (error instanceof UsageError) {
    console.error(error.message);
    return EXIT.usage;
  }
  if (isRuddleError(error)) {
    console.error(error.message);
    return CODES[error.tag] ?? EXIT.internal;
  }
  if (error instanceof Error && 'code' in error && String(error.code).startsWith('ERR_PARSE_ARGS')) {
    console.error(error.message);
    return EXIT.usage;
  }
  console.error(error instanceof Error ? (error.stack ?? error.message) : String(error));
  return EXIT.internal;
}

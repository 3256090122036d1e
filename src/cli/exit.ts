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
  unreadable: EXIT.invalid,
  refused: EXIT.refused,
  cancelled: EXIT.interrupted,
};

const DISK: Readonly<Record<string, string>> = {
  EACCES: 'may not be written here',
  EPERM: 'may not be written here',
  EROFS: 'lies on a disk that cannot be written',
  ENOTDIR: 'lies below a file',
  EEXIST: 'is a file',
  EISDIR: 'is a folder',
  ENOENT: 'cannot be made',
  ENOSPC: 'does not fit: the disk is full',
  ENAMETOOLONG: 'has too long a name',
};

/** What the system said about a file or folder, in words; null when it is something else. */
export function aboutDisk(error: Error): string | null {
  const { code, path } = error as Error & { readonly code?: unknown; readonly path?: unknown };
  const reason = typeof code === 'string' && Object.hasOwn(DISK, code) ? DISK[code] : undefined;
  return reason !== undefined && typeof path === 'string' ? `${path} ${reason}.` : null;
}

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
  const code = error instanceof Error && 'code' in error ? String(error.code) : '';
  if (code.startsWith('ERR_PARSE_ARGS') && error instanceof Error) {
    console.error(error.message);
    return EXIT.usage;
  }
  const disk = error instanceof Error ? aboutDisk(error) : null;
  if (disk) {
    console.error(disk);
    return EXIT.refused;
  }
  console.error(error instanceof Error ? (error.stack ?? error.message) : String(error));
  return EXIT.internal;
}

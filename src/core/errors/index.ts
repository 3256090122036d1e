/**
 * Tagged errors. A tag says which error it is, typed fields say what a program or a person needs to act on it, `message` is the sentence shown
 * to a person. They cross worker and HTTP boundaries as plain data (`toData`, `fromData`) and come back as the same class.
 */
export interface ErrorFields {
  /** The settings, shot or file are not valid: every place at once. */
  'settings-invalid': { readonly issues: readonly Issue[] };
  /** The window needs more memory than the arena has. */
  'arena-too-small': { readonly neededBytes: number; readonly availableBytes: number; readonly frame: number | null };
  /** Runs that compute now leave too little memory for what this one is predicted to take: it waits for them. */
  'waits-for-memory': { readonly neededBytes: number; readonly freeBytes: number };
  /** A value became NaN or infinite. */
  'not-finite': { readonly frame: number; readonly substep: number; readonly channel: string };
  /** Less room on the disk than a run must leave. */
  'disk-full': { readonly freeBytes: number; readonly keepBytes: number };
  /** A run would break a budget of its shot, and nobody has agreed to that. */
  'over-budget': { readonly what: readonly string[] };
  /** A file is not what it should be. */
  'file-invalid': { readonly file: string; readonly reason: string };
  /** What is stored of it cannot be read any more. */
  unreadable: { readonly what: string; readonly reason: string };
  /** The database does not answer as it should. */
  storage: { readonly code: string };
  /** What was asked for does not exist. */
  'not-found': { readonly what: string };
  /** Someone else changed it first. */
  conflict: { readonly what: string };
  /** The run was cancelled. */
  cancelled: Record<never, never>;
  /** A request that must not be answered. */
  refused: { readonly reason: string };
  /** A defect in Ruddle. */
  internal: { readonly where: string };
}

export interface Issue {
  /** Where, as a path into the file: `variants[0].settings.detail.voxelSize`. */
  readonly path: string;
  readonly message: string;
}

export type ErrorTag = keyof ErrorFields;

export class RuddleError<T extends ErrorTag = ErrorTag> extends Error {
  override readonly name = 'RuddleError';
  constructor(
    readonly tag: T,
    message: string,
    readonly fields: ErrorFields[T],
    cause?: unknown,
  ) {
    super(message, cause === undefined ? undefined : { cause });
  }
}

/** A tagged error as data. */
export interface ErrorData {
  readonly tag: ErrorTag;
  readonly message: string;
  readonly fields: Readonly<Record<string, unknown>>;
  readonly cause: string | null;
}

export function isRuddleError<T extends ErrorTag>(error: unknown, tag?: T): error is RuddleError<T> {
  return error instanceof RuddleError && (tag === undefined || (error.tag as string) === tag);
}

/** Any thrown value as data; what is not tagged becomes `internal`. */
export function toErrorData(error: unknown): ErrorData {
  if (error instanceof RuddleError) {
    const { tag, message, cause } = error as RuddleError;
    const fields: Readonly<Record<string, unknown>> = { ...(error as RuddleError).fields };
    return { tag, message, fields, cause: cause === undefined ? null : cause instanceof Error ? cause.message : JSON.stringify(cause) };
  }
  const message = error instanceof Error ? error.message : String(error);
  const where = error instanceof Error ? (error.stack ?? '').split('\n').slice(0, 4).join('\n') : '';
  return { tag: 'internal', message, fields: { where }, cause: null };
}

export function fromErrorData(data: ErrorData): RuddleError {
  return new RuddleError(data.tag, data.message, data.fields, data.cause ?? undefined);
}

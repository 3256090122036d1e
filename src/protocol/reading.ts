import type { ErrorData } from '#core/errors';
import type { CacheFacts, FileConvention } from '#core/pass';

/** Numbered files of a folder that a pass reads. */
export interface FolderCache {
  readonly key: string;
  readonly gives: CacheFacts;
  /** Name and size of each frame's file; null: not asked for. */
  readonly files: Readonly<Record<number, { readonly file: string; readonly bytes: number }>> | null;
}

/** Why a folder cannot be read, in words. */
export interface FolderProblem {
  readonly problem: string;
}

/** What a reading process is asked, one at a time. */
export type ReadingAsk =
  | { readonly kind: 'look'; readonly path: string; readonly file: FileConvention; readonly files: boolean }
  /** Sends the bytes of a file on standard output, all `bytes` of them. */
  | { readonly kind: 'fetch'; readonly path: string; readonly bytes: number };

export type ReadingAnswer =
  | { readonly kind: 'looked'; readonly found: FolderCache | FolderProblem }
  | { readonly kind: 'sent' }
  | { readonly kind: 'failed'; readonly error: ErrorData };

import type { FileSum } from './sum-file';

export interface CheckRequest {
  readonly id: number;
  readonly path: string;
}

/** `why`: in words that follow the file's name. */
export type CheckReply = { readonly id: number; readonly sum: FileSum } | { readonly id: number; readonly why: string };

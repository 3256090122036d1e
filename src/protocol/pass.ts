import type { ErrorData } from '#core/errors';
import type { CacheFacts } from '#core/pass';
import type { FollowerPlan, FollowerReport } from '#core/passes';
import type { InputRole } from '#core/shot';

/** A file of what a pass reads, as it was written. */
export interface InputFile {
  readonly file: string;
  readonly bytes: number;
  /** SHA-256; null: what it was is not known. */
  readonly checksum: string | null;
}

/** What a pass reads: where it lies, and the files of each frame, part by part. */
export interface PassInputFiles {
  readonly folder: string;
  readonly gives: CacheFacts;
  readonly frames: Readonly<Record<number, readonly InputFile[]>>;
}

/** By role; `cache` is what its frames are made from. */
export type PassInputs = Readonly<Partial<Record<InputRole, PassInputFiles>>> & { readonly cache: PassInputFiles };

/** What a pass worker is started with. It computes a frame when it is asked for one, and says when it has it. */
export interface PassStart {
  readonly plan: FollowerPlan;
  readonly key: string;
  /** What it reads, by role. */
  readonly inputs: PassInputs;
  /** Files of the imported geometry that it needs, by fingerprint. */
  readonly geometry: Readonly<Record<string, string>>;
  readonly threads: number;
  readonly from: Uint8Array<ArrayBuffer> | null;
  /** Whether states are wanted on the way. */
  readonly states: boolean;
  /** Seconds between two of them at least; absent: so many that they cost three percent of the time. */
  readonly statesEvery?: number;
  /** Shared block of the kernel team: cancel, threads allowed. */
  readonly control: SharedArrayBuffer;
}

export interface PassAsk {
  readonly frame: number;
  /** Its files too; else it is only passed through. */
  readonly wanted: boolean;
  /** The last one that is asked for: a state is wanted after it. */
  readonly last: boolean;
}

export interface PassFileBytes {
  readonly extension: string;
  readonly bytes: Uint8Array<ArrayBuffer>;
  /** Packed (zlib). */
  readonly previews: readonly { readonly channel: string; readonly bytes: Uint8Array<ArrayBuffer> }[];
}

/** Bytes of a file that a pass worker waits for: a folder from outside is read by a process of its own. */
export interface PassFetch {
  readonly kind: 'fetch';
  readonly path: string;
  /** As long as the file. */
  readonly into: SharedArrayBuffer;
  /** Int32 0: 1 when the bytes are there, 2 when they are not; Int32 1: bytes of the reason that follows, UTF-8. */
  readonly told: SharedArrayBuffer;
}

/** What a pass worker says on the way to an answer. */
export type PassAside =
  | PassFetch
  | { readonly kind: 'alive' }
  /** A state after a frame of the pre-roll. */
  | { readonly kind: 'state'; readonly frame: number; readonly bytes: Uint8Array<ArrayBuffer> };

export type PassAnswer =
  | {
      readonly kind: 'frame';
      readonly report: FollowerReport;
      readonly wanted: boolean;
      readonly parts: readonly PassFileBytes[];
      readonly state: Uint8Array<ArrayBuffer> | null;
    }
  | { readonly kind: 'failed'; readonly error: ErrorData };

import type { ErrorData } from '#core/errors';
import type { FrameReport } from '#core/gas';
import type { Plan } from '#core/shot';

/** What a compute worker is started with. */
export interface ComputeStart {
  readonly plan: Plan;
  /** Which of the plan's bounds. */
  readonly bounds: number;
  readonly key: string;
  /** Files of the imported geometry that the plan needs, by fingerprint. */
  readonly geometry: Readonly<Record<string, string>>;
  readonly threads: number;
  readonly arenaBytes: number | null;
  /** First frame whose file is wanted; earlier ones are computed only. null: all. */
  readonly writeFrom: number | null;
  /** Shared block of the kernel team: cancel, threads allowed. */
  readonly control: SharedArrayBuffer;
  /** One i32: frames that the engine has written; the worker never runs more than two ahead of it. */
  readonly written: SharedArrayBuffer;
}

/** A channel's preview, deflated (zlib). */
export interface PreviewBytes {
  readonly channel: string;
  readonly bytes: Uint8Array<ArrayBuffer>;
}

/** What a compute worker says. */
export type ComputeMessage =
  | { readonly kind: 'progress'; readonly frame: number; readonly part: number }
  | {
      readonly kind: 'frame';
      readonly report: FrameReport;
      readonly inRange: boolean;
      /** null for pre-roll that is not kept. */
      readonly file: Uint8Array<ArrayBuffer> | null;
      readonly previews: readonly PreviewBytes[];
    }
  | { readonly kind: 'done' }
  | { readonly kind: 'failed'; readonly error: ErrorData };

import type { ErrorData } from '#core/errors';
import type { SolveReport } from '#core/passes';
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
  /** Frames that are stored already: they are computed where the way leads through them, and no file is wanted of them. */
  readonly have: readonly number[];
  /** Last frame that is wanted; null: that of the plan. */
  readonly until: number | null;
  /** State after a frame, to begin with; null: from the start. */
  readonly from: Uint8Array<ArrayBuffer> | null;
  /** Whether states are wanted, to go on from when the run is interrupted. */
  readonly states: boolean;
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
  /** It lives: a substep may take long. */
  | { readonly kind: 'alive' }
  | { readonly kind: 'progress'; readonly frame: number; readonly part: number }
  | {
      readonly kind: 'frame';
      readonly report: SolveReport;
      readonly inRange: boolean;
      /** null for pre-roll that is not kept. */
      readonly file: Uint8Array<ArrayBuffer> | null;
      readonly previews: readonly PreviewBytes[];
      /** Volumes beside a file of particles; null: none are kept. */
      readonly volumes: Uint8Array<ArrayBuffer> | null;
      /** The run's state after it, when one was due. */
      readonly state: Uint8Array<ArrayBuffer> | null;
    }
  | { readonly kind: 'done' }
  | { readonly kind: 'failed'; readonly error: ErrorData };

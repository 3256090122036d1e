import type { ErrorData } from '#core/errors';
import type { CacheFacts } from '#core/pass';
import type { FollowerReport, PassSketchPlan } from '#core/passes';
import type { InputRole } from '#core/shot';
import type { SketchSetUp } from './gas';

/** A run that a Sketch of a pass reads, frame by frame from the server. */
export interface SketchInput {
  readonly run: string;
  readonly gives: CacheFacts;
}

export interface PassSketchStart extends PassSketchPlan {
  readonly kind: 'start';
  readonly generation: number;
  readonly inputs: Readonly<Partial<Record<InputRole, SketchInput>>>;
}
export type PassSketchRequest = SketchSetUp | PassSketchStart | { readonly kind: 'stop' };

/** What it says: of frames that lead up to those that are shown, that they are done. */
export type PassSketchMessage =
  | {
      readonly kind: 'frame';
      readonly generation: number;
      readonly report: FollowerReport;
      readonly shown: boolean;
      readonly previews: readonly { readonly part: number; readonly channel: string; readonly bytes: Uint8Array<ArrayBuffer> }[];
    }
  | { readonly kind: 'done'; readonly generation: number }
  | { readonly kind: 'failed'; readonly generation: number; readonly error: ErrorData };

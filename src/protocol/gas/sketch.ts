import type { ErrorData } from '#core/errors';
import type { PointsPreview, Preview } from '#core/formats';
import type { GasChannel } from '#core/gas';
import type { SolveReport } from '#core/passes';
import type { Plan } from '#core/shot';

/** What the page asks of a sketch worker. A new start replaces the run that goes on; `generation` tells their answers apart. */
export interface SketchStart {
  readonly kind: 'start';
  readonly generation: number;
  readonly plan: Plan;
}
export interface SketchSetUp {
  readonly kind: 'setup';
  readonly threads: number;
  /** Shared block of the kernel team: cancel. */
  readonly control: SharedArrayBuffer;
}
export type SketchRequest = SketchSetUp | SketchStart | { readonly kind: 'stop' };

export interface ChannelPreview {
  /** Which of the plan's bounds. */
  readonly bounds: number;
  readonly channel: GasChannel;
  readonly preview: Preview;
}

/** What it says. */
export type SketchMessage =
  | {
      readonly kind: 'frame';
      readonly generation: number;
      readonly report: SolveReport;
      readonly inRange: boolean;
      readonly previews: readonly ChannelPreview[];
      /** Of a liquid; of a gas null. */
      readonly points: PointsPreview | null;
    }
  | { readonly kind: 'done'; readonly generation: number }
  | { readonly kind: 'failed'; readonly generation: number; readonly error: ErrorData };

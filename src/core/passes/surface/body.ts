import type { FlowOptions } from '#core/flow';
import type { FrameFacts } from '#core/pass';
import type { SurfaceFigures, SurfaceOptions } from '#core/surface';

/** What the skin stands in: the solids and the limit box of the sheet's solve. */
export type SurfaceScene = Pick<FlowOptions, 'voxelSize' | 'framesPerSecond' | 'timeScale' | 'firstFrame' | 'solids' | 'followed'> & {
  readonly bounds: Pick<FlowOptions['bounds'], 'limit' | 'walls'>;
};

export interface SurfaceBody {
  readonly skin: SurfaceOptions;
  readonly scene: SurfaceScene;
  /** The particles' attribute that is their radius, and a factor on it; null: all have one. */
  readonly radiusFrom: { readonly name: string; readonly factor: number } | null;
  /** Attributes that the skin has too. */
  readonly attributes: readonly string[];
  /** Seconds of the computation from a frame to the one beside it. */
  readonly frameSeconds: number;
  readonly simplify: { readonly kind: 'share'; readonly share: number } | { readonly kind: 'error'; readonly metres: number } | null;
  readonly files: {
    readonly mesh: 'ply' | 'obj' | 'glb';
    readonly compressed: boolean;
    readonly distance: 'none' | 'level' | 'fog';
  };
}

export interface SurfaceReport extends FrameFacts, Omit<SurfaceFigures, 'seconds' | 'memoryBytes'> {
  /** Particles that were left out: their radius is no number, or 0. */
  readonly without: number;
  /** Metres. */
  readonly voxelSize: number;
  /** Triangles before they were made fewer; null: they were not. */
  readonly before: number | null;
}

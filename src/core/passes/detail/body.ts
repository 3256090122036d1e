import type { FlowOptions } from '#core/flow';
import type { DetailSettings } from '#core/shot';

/** What a detail pass does, resolved. */
export interface DetailBody {
  readonly settings: Omit<DetailSettings, ChannelName | 'precision' | 'compression' | 'limit' | 'factor' | 'mayMove'>;
  readonly channels: readonly ChannelName[];
  readonly precision: 'half' | 'full';
  readonly compression: 'blosc' | 'zip' | 'none';
  /** Voxel size of what it reads (the finest of its parts), metres. */
  readonly base: number;
  /** Seconds of the computation from a frame to the next one that is read. */
  readonly frameSeconds: number;
  /** The fine grid: its voxel size, limit box, walls, solids. */
  readonly flow: FlowOptions;
}

export const DETAIL_CHANNELS = ['density', 'temperature', 'flame', 'fuel', 'colour', 'uvw', 'vel'] as const;
export type ChannelName = (typeof DETAIL_CHANNELS)[number];

/** The smallest size that is added, in base voxels, when it is left open: three of its own voxels. */
export const smallestOf = ({ largest, smallest }: Pick<DetailSettings, 'largest' | 'smallest'>, factor: number): number =>
  smallest ?? Math.min(largest / 2, 3 / factor);

/** Added sizes in base voxels. */
export const sizesOf = ({ settings, base, flow }: DetailBody): { readonly largest: number; readonly smallest: number } => ({
  largest: settings.largest,
  smallest: smallestOf(settings, base / flow.voxelSize),
});

import type { GasChannel, GasOptions } from '#core/gas';
import type { FrameList } from '#core/pass';
import type { FedSettings } from '#core/shot';

export interface FedBody {
  /** Radii in metres. */
  readonly settings: Omit<FedSettings, 'sources' | 'densityRadius' | 'heatRadius' | 'velocityRadius'> & {
    readonly densityRadius: number;
    readonly heatRadius: number;
    readonly velocityRadius: number;
  };
  readonly options: GasOptions;
  readonly channels: readonly GasChannel[];
  readonly precision: 'half' | 'full';
  readonly compression: 'blosc' | 'zip' | 'none';
  /** Frames that have particles, and whether these know their age. */
  readonly given: FrameList;
  readonly ages: boolean;
}

import type { RefillSettings } from '#core/shot';

export interface RefillBody {
  readonly settings: RefillSettings;
  /** Seconds of the computation between two frames. */
  readonly frameSeconds: number;
  readonly firstFrame: number;
  /** Whether the particles that are read know their age. */
  readonly ages: boolean;
}

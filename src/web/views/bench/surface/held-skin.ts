import { create } from 'zustand';
import type { SurfaceReport } from '#core/passes';
import type { ShownSkin } from './mesh-store';

/** A skin that is held against what comes after it. */
export interface HeldSkin {
  readonly pass: string;
  readonly frame: number;
  readonly skin: ShownSkin;
  readonly report: SurfaceReport;
}

interface Held {
  readonly held: HeldSkin | null;
  /** Side by side, or one over the other with a wipe. */
  readonly wipe: boolean;
}

export const useHeldSkin = create<Held>(() => ({ held: null, wipe: false }));
export const holdSkin = (held: HeldSkin | null): void => {
  useHeldSkin.setState({ held });
};
export const wipeSkins = (wipe: boolean): void => {
  useHeldSkin.setState({ wipe });
};

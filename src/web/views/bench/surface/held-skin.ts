import { create } from 'zustand';
import type { SurfaceReport } from '#core/passes';
import type { ShownSkin } from './mesh-store';

/** A skin that is held against what comes after it. */
export interface HeldSkin {
  /** Passes of several shots have the same ids. */
  readonly shot: string;
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

/** The skin that is held of a pass; null: none, or one of another pass or another shot. */
export const heldOf = (held: HeldSkin | null, shot: string, pass: string | undefined): HeldSkin | null =>
  held?.shot === shot && held.pass === pass ? held : null;

export const useHeldSkin = create<Held>(() => ({ held: null, wipe: false }));
export const holdSkin = (held: HeldSkin | null): void => {
  useHeldSkin.setState({ held });
};
export const wipeSkins = (wipe: boolean): void => {
  useHeldSkin.setState({ wipe });
};

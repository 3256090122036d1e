import { create } from 'zustand';

/** How a skin is looked at; changes nothing that is computed. */
export interface SkinLook {
  readonly as: 'clay' | 'glossy' | 'glass' | 'wire' | 'facing' | 'column';
  /** The column of its vertices that colours it. */
  readonly column: string;
  /** Particles beside it: none, all, or those outside of it. */
  readonly particles: 'none' | 'all' | 'outside';
}

export const useSkinLook = create<SkinLook>(() => ({ as: 'glossy', column: 'speed', particles: 'none' }));
export const setSkinLook = (change: Partial<SkinLook>): void => {
  useSkinLook.setState(change);
};

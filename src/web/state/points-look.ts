import { create } from 'zustand';

/** How the particles of a liquid are looked at; changes nothing that is computed. */
export interface PointsLook {
  /** Each as a ball, all as one surface, or their way in a frame as lines. */
  readonly as: 'balls' | 'surface' | 'lines';
  /** By their speed, or all in the colour of red slip. */
  readonly colour: 'speed' | 'slip';
  /** Their width over what leaves no gaps. */
  readonly size: number;
  /** Part of them that is drawn. */
  readonly share: number;
}

export const usePointsLook = create<PointsLook>(() => ({ as: 'balls', colour: 'speed', size: 1, share: 1 }));
export const setPointsLook = (change: Partial<PointsLook>): void => {
  usePointsLook.setState(change);
};

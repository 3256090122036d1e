import type { FrameFacts } from '#core/pass';

/** A frame of a pass whose particles are carried by a cached gas. */
export interface FlownReport extends FrameFacts {
  readonly count: number;
  readonly born: number;
  readonly gone: number;
  readonly substeps: number;
}

/** Memory of the velocities that carry them, from the voxels of a frame: tiles are about as full as measured on plumes. */
export const velocityBytes = (voxels: number): number => 8192 * 3 * (voxels / 400);

/** Of the particles themselves: the columns grow by half, and are written as a file beside. */
export const aliveBytes = (particles: number): number => 80 * particles;

/** Why nothing is seen; null: there is something. `why`: what to look at when none is born. */
export const flownNothing = ({ count, born }: FlownReport, why: string): string | null => {
  if (count > 0) return null;
  return born > 0 ? 'All of them are past their age limit within the frame: raise it.' : why;
};

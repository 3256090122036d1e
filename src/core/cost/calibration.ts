import { type Plan, resolvePlan, settingsSchema, shotFieldsSchema } from '#core/shot';

/** Voxels a side of the boxes that are computed; the last is about what a Final works on, and too large for the caches. */
const SIDES = [40, 72, 112] as const;
const FRAMES = 4;
const SIZE = 4;

/**
 * What this machine computes at its first start, so that the first prediction is not blind: small dense boxes with everything switched on, one of them
 * without forces and with linear advection, so that the fit can tell them apart. About ten seconds on two cores.
 */
export function calibrationPlans(): Plan[] {
  const plan = (side: number, plain: boolean): Plan => {
    const settings = settingsSchema.parse({
      detail: { voxelSize: SIZE / side },
      stepping: { minSubsteps: plain ? 1 : 2, maxSubsteps: plain ? 1 : 2, firstFrameSolved: true },
      bounds: { mode: 'dense', limit: { min: [0, 0, 0], max: [SIZE, SIZE, SIZE] }, walls: { floor: 'closed' } },
      sources: [{ shape: { kind: 'ball', centre: [2, 1, 2], radius: 0.8 }, velocity: [0, 3, 0], noise: {} }],
      solids: [{ shape: { kind: 'ball', centre: [2, 3, 2], radius: 0.5 } }],
      forces: { wind: [1, 0, 0], ...(plain ? {} : { turbulence: {}, confinement: 0.2 }) },
      matter: plain ? { velocityAdvection: 'linear', scalarAdvection: 'linear' } : {},
    });
    const shot = shotFieldsSchema.parse({ name: 'Calibration', firstFrame: 1, lastFrame: FRAMES });
    return resolvePlan(shot, settings, 'final');
  };
  return [...SIDES.map((side) => plan(side, false)), plan(SIDES[1], true)];
}

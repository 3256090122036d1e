import { type GasPlan, resolvePlan, solveSchema, shotFieldsSchema } from '#core/shot';

/** Voxels a side of the boxes that are computed; the last is about what a Final works on, and too large for the caches. */
const SIDES = [32, 56, 88] as const;
const FRAMES = 8;
const SIZE = 4;

/**
 * What this machine computes at its first start, so that the first prediction is not blind: small dense boxes with everything switched on, one of them
 * without forces and with linear advection, two with a solid that moves and a force in a region, so that the fit can tell them apart. About fifteen
 * seconds on two cores.
 */
export function calibrationPlans(): GasPlan[] {
  const plan = (side: number, substeps: number, kind: 'all' | 'plain' | 'moving' = 'all'): GasPlan => {
    const plain = kind === 'plain';
    const settings = solveSchema.parse({
      detail: { voxelSize: SIZE / side },
      stepping: { minSubsteps: substeps, maxSubsteps: substeps, firstFrameSolved: true },
      bounds: { mode: 'dense', limit: { min: [0, 0, 0], max: [SIZE, SIZE, SIZE] }, walls: { floor: 'closed' } },
      sources: [{ shape: { kind: 'ball', centre: [2, 1, 2], radius: 0.8 }, velocity: [0, 3, 0], noise: {} }],
      solids: [
        {
          shape: { kind: 'ball', centre: [2, 3, 2], radius: 0.5 },
          moves: kind === 'moving' ? { 'shape.centre.x': { kind: 'expression', text: '2 + time' } } : {},
        },
      ],
      forces: {
        wind: [1, 0, 0],
        ...(plain ? {} : { turbulence: {}, confinement: 0.2 }),
        fields: kind === 'moving' ? [{ kind: 'draught', shape: { kind: 'ball', centre: [2, 2, 2], radius: 1 } }] : [],
      },
      matter: plain ? { velocityAdvection: 'linear', scalarAdvection: 'linear' } : {},
    });
    const shot = shotFieldsSchema.parse({ name: 'Calibration', firstFrame: 1, lastFrame: FRAMES });
    return resolvePlan(shot, settings, 'final');
  };
  const [small, medium, large] = SIDES;
  return [plan(small, 2), plan(medium, 2), plan(large, 1), plan(medium, 1, 'plain'), plan(small, 2, 'moving'), plan(medium, 2, 'moving')];
}

import { useMemo } from 'react';
import { type Plan, isLiquidPlan } from '#core/shot';
import { type PointsLook, usePointsLook } from '#web/state';
import type { DropsLook, SliceSetting } from '#web/viewport';

/** Of the share that a particle has of its voxel: balls that wide leave no gaps. */
const WIDER = 1.5;
/** Voxels of a slab that a slice shows. */
const SLAB = 2;

const AXES = { x: 0, y: 1, z: 2 } as const;

/** How a plan's particles are drawn: as balls that fill their share of a voxel, all of them or a slab; null: they are no liquid's. */
export function dropsOf(plan: Plan, look: PointsLook, slice: SliceSetting | null): DropsLook | null {
  if (!isLiquidPlan(plan)) return null;
  const { voxelSize: h, particles, bounds, framesPerSecond } = plan.options;
  const axis = slice ? AXES[slice.axis] : null;
  const middle = slice && axis !== null ? bounds.limit.min[axis] + slice.at * (bounds.limit.max[axis] - bounds.limit.min[axis]) : 0;
  return {
    as: look.as,
    seconds: 1 / framesPerSecond,
    diameter: (WIDER * look.size * h) / particles.along,
    ramp: look.colour === 'speed' ? 'patina' : 'slip',
    share: look.share,
    slab: axis === null ? null : { axis, from: middle - (SLAB * h) / 2, to: middle + (SLAB * h) / 2 },
  };
}

export function useDrops(plan: Plan | null, slice: SliceSetting | null): DropsLook | null {
  const look = usePointsLook();
  return useMemo(() => plan && dropsOf(plan, look, slice), [plan, look, slice]);
}

import type { LookChannel } from '#core/look';
import { type Plan, isLiquidPlan } from '#core/shot';

/** Channels of voxels that a run keeps: a liquid keeps particles. */
export const channelsKept = (plan: Plan): readonly LookChannel[] => (isLiquidPlan(plan) ? [] : plan.keep.channels);

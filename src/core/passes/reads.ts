import { type FrameList, listFrames } from '#core/pass';
import type { InputRole } from '#core/shot';
import type { FollowerPlan } from './follower';
import { definitionOf } from './registry';

/** Frames of what a plan reads in a role that must be there, of those that it has. */
export function framesRead(plan: FollowerPlan, role: InputRole, given: FrameList): readonly number[] {
  const { reads } = definitionOf(plan.pass);
  return role === 'cache' && reads ? reads(plan.body, given) : listFrames(plan.frames);
}

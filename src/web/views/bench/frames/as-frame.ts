import type { LookChannel } from '#core/look';
import { type Plan, isLiquidPlan } from '#core/shot';
import type { ViewportFrame } from '#web/viewport';
import type { ShownFrame } from './frame-store';

/** Value of a channel where there is nothing. */
export const backgroundOf = (plan: Plan, channel: LookChannel): number =>
  channel === 'temperature' && !isLiquidPlan(plan)
    ? plan.options.matter.ambient
    : channel === 'vel'
      ? Math.hypot(...plan.options.forces.wind)
      : 0;

/** A fetched frame as the viewport takes it. */
export function asViewportFrame(
  shown: ShownFrame | null,
  plan: Plan | null,
  { flame = null, tint = null }: { readonly flame?: ShownFrame | null; readonly tint?: ShownFrame | null } = {},
): ViewportFrame | null {
  if (!shown?.preview || !plan) return null;
  return {
    preview: shown.preview,
    channel: shown.channel,
    // Of another frame they are not laid over this one.
    flame: flame?.frame === shown.frame && flame.run === shown.run ? flame.preview : null,
    tint: tint?.frame === shown.frame && tint.run === shown.run ? tint.preview : null,
    voxelSize: plan.options.voxelSize,
    background: backgroundOf(plan, shown.channel),
  };
}

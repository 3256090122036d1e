import { type FrameFacts, type KernelDigests, type PassDefinition, type PassKindOps, type PassPlan, passKey } from '#core/pass';
import type { FollowerKind } from '#core/shot';

export type FollowerPlan = PassPlan<FollowerKind>;

/** What a kind that reads others answers to code that handles runs, from its definition. `kernels`: those that decide about its bits. */
export function followerOps<Own, Body, Report extends FrameFacts>(
  definition: PassDefinition<Own, Body, Report>,
  kernels: (digests: KernelDigests) => string | null = () => null,
): PassKindOps<PassPlan<FollowerKind, Body>, Report> {
  return {
    order: definition.order,
    key: (plan, digests) => {
      const own = kernels(digests);
      return passKey(plan, own === null ? String(definition.version) : `${String(definition.version)}-${own}`);
    },
    gives: (plan) => plan.gives,
    range: ({ frames, gives }) => ({ ...frames, preRoll: 0, voxelSize: gives.voxelSizes[0] ?? 1 }),
    upTo: (plan, last) => {
      const frames = { ...plan.frames, last };
      return { ...plan, frames, gives: { ...plan.gives, frames } };
    },
    geometry: ({ body }) => definition.geometry(body),
    partName: ({ pass }, n) => (n === 0 ? pass : `${pass}-${definition.parts?.[n - 1] ?? String(n + 1)}`),
    kept: (report) => report.kept,
  };
}

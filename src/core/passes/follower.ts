import { type FrameFacts, type PassDefinition, type PassKindOps, type PassPlan, listFrames, passKey } from '#core/pass';
import type { FollowerKind } from '#core/shot';

export type FollowerPlan = PassPlan<FollowerKind>;

/** What a kind that reads others answers to code that handles runs, from its definition. `solver`: the version of the solver that it computes with. */
export function followerOps<Own, Body, Report extends FrameFacts>(
  definition: PassDefinition<Own, Body, Report>,
  solver: string | null = null,
): PassKindOps<PassPlan<FollowerKind, Body>, Report> {
  const version = solver === null ? String(definition.version) : `${String(definition.version)}-${solver}`;
  return {
    order: definition.order,
    version,
    key: (plan) => passKey(plan, version, definition.essence(plan.body)),
    gives: (plan) => plan.gives,
    range: ({ frames, gives }) => ({ ...frames, preRoll: 0, voxelSize: gives.voxelSizes[0] ?? 1 }),
    upTo: (plan, last) => {
      const frames = { ...plan.frames, last };
      return { ...plan, frames, gives: { ...plan.gives, frames } };
    },
    unsettled: ({ body, frames }) => {
      const ahead = definition.ahead?.(body) ?? 0;
      return listFrames(frames).filter((f) => f > frames.last - ahead);
    },
    geometry: ({ body }) => definition.geometry(body),
    partName: ({ pass }, n) => (n === 0 ? pass : `${pass}-${definition.parts?.[n - 1] ?? String(n + 1)}`),
    kept: (report) => report.kept,
  };
}

import { rungTitle } from '#core/shot';
import type { PassRunDto, RunDto } from '#protocol';

/** A run that is looked at beside others. */
export interface SideRun {
  readonly id: string;
  readonly title: string;
  readonly voxelSize: number;
}

/** Kinds that make a cache finer. */
const FINER: readonly string[] = ['detail', 'held'];
const MOST = 4;

/** What stands beside a pass that makes a cache finer: its base, what else was made of that, and the same solve computed finer without it. */
export function sidesOf(
  run: PassRunDto | null,
  runs: readonly RunDto[],
  passRuns: readonly PassRunDto[],
  names: (pass: string) => string,
): SideRun[] {
  const base = run && FINER.includes(run.kind) ? runs.find((r) => r.id === run.inputs[0] && !r.freed) : undefined;
  if (!run || !base) return [];
  const size = base.plan.options.voxelSize;
  const side = (r: PassRunDto): SideRun => ({ id: r.id, title: names(r.passId), voxelSize: r.plan.gives.voxelSizes[0] ?? size });
  // Of each other pass the newest run.
  const others = new Map(
    passRuns
      .filter((r) => r.passId !== run.passId && FINER.includes(r.kind) && r.inputs[0] === base.id && !r.freed && r.framesDone > 0)
      .map((r) => [r.passId, r]),
  );
  const plain = runs.findLast(
    (r) => r.variantId === base.variantId && !r.freed && r.framesDone > 0 && r.plan.options.voxelSize < 0.99 * size,
  );
  return [
    { id: base.id, title: `Base: ${rungTitle[base.rung]}, run ${String(base.number)}`, voxelSize: size },
    side(run),
    ...[...others.values()].map(side),
    ...(plain
      ? [{ id: plain.id, title: `Plain: ${rungTitle[plain.rung]}, run ${String(plain.number)}`, voxelSize: plain.plan.options.voxelSize }]
      : []),
  ].slice(0, MOST);
}

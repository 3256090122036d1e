import type { GasFrame } from '#core/gas';
import type { KernelTeam } from '#core/grid';
import type { FrameFacts } from '#core/pass';
import type { PassJob, PassPart } from './contract';
import { volumePart } from './volume-part';

interface SolvedBody {
  readonly options: { readonly voxelSize: number };
  readonly precision: 'half' | 'full';
  readonly compression: 'blosc' | 'zip' | 'none';
}

/** The file of a frame that a pass solved, and what every report says of it. */
export function solvedFrame(
  { plan, clock, uuid }: Pick<PassJob<SolvedBody>, 'plan' | 'clock' | 'uuid'>,
  { report, grids }: Pick<GasFrame, 'report' | 'grids'>,
  {
    began,
    wanted,
    team,
    elements,
  }: {
    readonly began: number;
    readonly wanted: boolean;
    readonly team: KernelTeam & { allocated: () => number };
    readonly elements: number;
  },
): { readonly facts: FrameFacts; readonly parts: readonly PassPart[] } {
  const done = clock();
  const { precision, compression, options } = plan.body;
  const { frame } = report;
  const parts = wanted
    ? [volumePart(grids, { file: plan.gives.file, voxelSize: options.voxelSize, precision, compression, uuid: uuid(0, frame) })]
    : [];
  const facts = {
    frame,
    seconds: { solving: done - began, writing: clock() - done },
    totalSeconds: clock() - began,
    memoryBytes: team.allocated(),
    elements,
    kept: report.activeVoxels,
  };
  return { facts, parts };
}

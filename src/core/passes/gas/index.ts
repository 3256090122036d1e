import { doNotFit } from '#core/flow';
import { type FrameReport, GAS_VERSION, leastBytes, reportOfAll } from '#core/gas';
import type { PassKindOps } from '#core/pass';
import { type GasPlan, geometryOf, optionsOf, passOf, runKey } from '#core/shot';

export type GasReport = FrameReport;

/** Raised when the same plan gives another result. */
export const gasVersion: string = GAS_VERSION;

/** One report of those of its bounds. */
export const mergedReport = (parts: readonly GasReport[]): GasReport => reportOfAll(parts);

/** Why the bounds of a plan can never fit into so many bytes; null: they may. */
export function gasNeverFits(plan: GasPlan, bytes: number): { readonly neededBytes: number; readonly message: string } | null {
  for (const options of optionsOf(plan)) {
    const neededBytes = leastBytes(options);
    if (neededBytes > bytes) return { neededBytes, message: doNotFit(neededBytes, bytes) };
  }
  return null;
}

/** The gas solve, as code that handles runs of any kind knows it. */
export const gasOps: PassKindOps<GasPlan, GasReport> = {
  order: 'sequential',
  version: GAS_VERSION,
  key: runKey,
  gives: (plan) => {
    const { firstFrame, lastFrame, preRoll } = plan.options;
    return {
      output: 'vdb',
      voxelSizes: optionsOf(plan).map((o) => o.voxelSize),
      channels: plan.keep.channels,
      file: plan.file,
      frames: { first: firstFrame - (plan.keep.preRoll ? preRoll : 0), last: lastFrame, every: 1 },
    };
  },
  range: ({ options: { firstFrame: first, lastFrame: last, preRoll, voxelSize } }) => ({ first, last, every: 1, preRoll, voxelSize }),
  upTo: (plan, lastFrame) => ({
    ...plan,
    options: { ...plan.options, lastFrame },
    beside: plan.beside.map((o) => ({ ...o, lastFrame })),
  }),
  unsettled: () => [],
  geometry: geometryOf,
  partName: passOf,
  kept: (report) => report.activeVoxels,
};

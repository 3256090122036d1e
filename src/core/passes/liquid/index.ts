import { doNotFit } from '#core/flow';
import { LIQUID_VERSION, type LiquidReport, leastBytes } from '#core/liquid';
import { expectedParticles } from '#core/cost';
import type { PassKindOps } from '#core/pass';
import { type LiquidPlan, geometryOf, passOf, runKey } from '#core/shot';
import { formatBytes, formatCount, formatQuantity } from '#core/units';

export type { LiquidReport } from '#core/liquid';

/** Least bytes of a particle while it is computed: its place, motion and marks, and their twins. */
const LEAST_BYTES = 104;
/** What a guess at the particles may be too high by. */
const SURE = 2;

/** Why a liquid can never fit into so many bytes, and the voxel size that would; null: it may. */
export function liquidNeverFits(plan: LiquidPlan, bytes: number): { readonly neededBytes: number; readonly message: string } | null {
  const box = leastBytes(plan.options);
  if (box > bytes) return { neededBytes: box, message: doNotFit(box, bytes) };
  const particles = expectedParticles(plan);
  const neededBytes = particles * LEAST_BYTES;
  if (neededBytes <= SURE * bytes) return null;
  const fits = Number((plan.options.voxelSize * Math.cbrt(neededBytes / bytes)).toPrecision(2));
  return {
    neededBytes,
    message: `${formatCount(particles)} particles do not fit into memory: they need ${formatBytes(neededBytes)}, ${formatBytes(bytes)} are there. A voxel size of ${formatQuantity(fits, 'metre')} fits, or fewer particles along a voxel.`,
  };
}

/** The liquid solve, as code that handles runs of any kind knows it. */
export const liquidOps: PassKindOps<LiquidPlan, LiquidReport> = {
  order: 'sequential',
  version: LIQUID_VERSION,
  key: runKey,
  gives: (plan) => {
    const { firstFrame, lastFrame, preRoll, voxelSize, particles } = plan.options;
    return {
      output: 'ply',
      voxelSizes: [],
      channels: ['v', 'age', 'id', ...plan.keep.attributes],
      file: plan.file,
      frames: { first: firstFrame - (plan.keep.preRoll ? preRoll : 0), last: lastFrame, every: 1 },
      spacing: voxelSize / particles.along,
    };
  },
  range: ({ options: { firstFrame: first, lastFrame: last, preRoll, voxelSize } }) => ({ first, last, every: 1, preRoll, voxelSize }),
  upTo: (plan, lastFrame) => ({ ...plan, options: { ...plan.options, lastFrame } }),
  unsettled: () => [],
  geometry: geometryOf,
  partName: passOf,
  kept: (report) => report.particles,
};

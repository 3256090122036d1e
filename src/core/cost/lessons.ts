import { canonicalJson, type GasPlan } from '#core/shot';
import { type CostFrame, type CostRun, componentsOf } from './evidence';
import { median } from './nnls';

/** How the load changes with the voxel size, learnt from runs that differ in nothing else; priors where there are none. */
export interface Lessons {
  /** Active voxels over those that a coarser run expects for its matter, a halving: finer voxels smear less. */
  readonly smear: number;
  /** The fastest matter gets faster by this factor when the voxels are halved. */
  readonly speedGrowth: number;
  /** So do pressure iterations a substep. */
  readonly iterationGrowth: number;
  /** Bytes of an active voxel, as the voxels are halved: more of the active space is reach with nothing in it on coarse ones. */
  readonly bytesGrowth: number;
  /** Bytes on disk of a float, by precision and compression, over the default's. */
  readonly bytesFactor: number;
  readonly pairs: number;
}

const PRIOR: Lessons = { smear: 0.93, speedGrowth: 1.05, iterationGrowth: 1.12, bytesGrowth: 0.93, bytesFactor: 1, pairs: 0 };
/** Frames that a prior counts as. */
const PRIOR_FRAMES = 30;
/** A coarse run of fewer active voxels is a handful of tiles around a source of two or three voxels: it tells nothing about finer ones. */
const TELLING = 20_000;

/** Bytes of a float that is written. */
const BYTES = { half: 2, full: 4 } as const;
const SQUEEZE = { blosc: 0.62, zip: 0.5, none: 1 } as const;
/** Part of an active voxel's floats that hold something at 100 voxels or so across. */
const FILLED = 1.1;
/** Bytes a voxel takes by its settings alone. */
export const bytesOfVoxel = (plan: GasPlan): number =>
  componentsOf(plan) * BYTES[plan.keep.precision] * SQUEEZE[plan.keep.compression] * FILLED;

/** Least part of what half the voxel size would fill, that still finer ones do: the matter with its reach. */
const LEAST_FILLED = 0.5;

/**
 * Cubic metres that would be active on voxels of another size, for the matter of a frame: what tiles add goes with the size of the voxels, and two sizes
 * are known. null: an older report, which knows one.
 */
export function activeVolume(frame: CostFrame, from: number, to: number): number | null {
  if (frame.finer === null) return null;
  const [whole, half] = [frame.voxels * from ** 3, frame.finer * (from / 2) ** 3];
  return Math.max(LEAST_FILLED * half, half + (whole - half) * ((2 * to) / from - 1));
}

/** What must agree for two runs to be the same but for their voxels. */
const twin = (plan: GasPlan): string => {
  const { voxelSize: _h, lastFrame: _l, ...rest } = plan.options;
  return canonicalJson({ rest: { ...rest, sources: rest.sources.map(({ name: _n, ...s }) => s) } });
};

const steady = (all: readonly number[], prior: number): number => {
  const values = all.filter(Number.isFinite);
  if (values.length === 0) return prior;
  return (median(values) * values.length + prior * PRIOR_FRAMES) / (values.length + PRIOR_FRAMES);
};

export function learn(runs: readonly CostRun[]): Lessons {
  const smear: number[] = [];
  const speed: number[] = [];
  const iterations: number[] = [];
  const bytes: number[] = [];
  const factors: number[] = [];
  let pairs = 0;
  const groups = new Map<string, CostRun[]>();
  for (const run of runs) {
    if (run.origin === 'calibration' || run.frames.length < 4) continue;
    const key = twin(run.plan);
    groups.set(key, [...(groups.get(key) ?? []), run]);
    // A shot with nothing in it writes files too, and tells nothing of voxels.
    const stored = run.frames.filter((f) => f.bytes > 0 && f.voxels > 0);
    if (stored.length > 0) {
      const perVoxel = median(stored.slice(stored.length >> 1).map((f) => f.bytes / f.voxels));
      factors.push(perVoxel / bytesOfVoxel(run.plan));
    }
  }
  for (const group of groups.values()) {
    const sorted = [...group].sort((a, b) => b.plan.options.voxelSize - a.plan.options.voxelSize);
    for (let n = 1; n < sorted.length; n++) {
      const [coarse, fine] = [sorted[n - 1] as CostRun, sorted[n] as CostRun];
      const [hc, hf] = [coarse.plan.options.voxelSize, fine.plan.options.voxelSize];
      const halvings = Math.log2(hc / hf);
      if (halvings < 0.3) continue;
      pairs++;
      const byFrame = new Map(coarse.frames.map((f) => [f.frame, f]));
      for (const f of fine.frames) {
        const c = byFrame.get(f.frame);
        if (!c || f.substeps === 0 || c.substeps === 0 || c.voxels < TELLING) continue;
        const expected = fine.plan.options.bounds.mode === 'dense' ? null : activeVolume(c, hc, hf);
        if (expected !== null && expected > 0) smear.push(((f.voxels * hf ** 3) / expected) ** (1 / halvings));
        speed.push((f.speed / Math.max(1e-9, c.speed)) ** (1 / halvings));
        iterations.push((f.iterations / f.substeps / Math.max(1e-9, c.iterations / c.substeps)) ** (1 / halvings));
        if (f.bytes > 0 && c.bytes > 0 && componentsOf(fine.plan) === componentsOf(coarse.plan))
          bytes.push((f.bytes / f.voxels / (c.bytes / c.voxels)) ** (1 / halvings));
      }
    }
  }
  return {
    smear: steady(smear, PRIOR.smear),
    speedGrowth: steady(speed, PRIOR.speedGrowth),
    iterationGrowth: steady(iterations, PRIOR.iterationGrowth),
    bytesGrowth: steady(bytes, PRIOR.bytesGrowth),
    bytesFactor: median(factors.filter((f) => Number.isFinite(f) && f > 0)) || PRIOR.bytesFactor,
    pairs,
  };
}

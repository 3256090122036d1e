import { type Basis, type Prediction, type Range } from './prediction';
import { calibratedSeconds } from './model';
import type { CostFrame } from './evidence';
import { median } from './nnls';

/** A finished run beside what was said before it. Time in calibrated seconds. */
export interface RecordEntry {
  readonly run: string;
  readonly title: string;
  readonly prediction: Prediction;
  readonly measured: { readonly voxels: number; readonly memory: number; readonly disk: number; readonly time: number };
}

export const QUANTITIES = ['time', 'memory', 'disk', 'voxels'] as const;
export type Quantity = (typeof QUANTITIES)[number];

/** What of a frame was measured, of any kind of solve. */
type Measured = Pick<CostFrame, 'voxels' | 'memoryBytes' | 'bytes' | 'calibration'> & {
  readonly seconds: Readonly<Record<string, number>>;
  readonly waited?: number | undefined;
};

/** What a run came to. `reference`: calibration that a calibrated second stands for. */
export const measuredOf = (frames: readonly Measured[], reference: number): RecordEntry['measured'] => ({
  voxels: Math.max(0, ...frames.map((f) => f.voxels)),
  memory: Math.max(0, ...frames.map((f) => f.memoryBytes)),
  disk: frames.reduce((n, f) => n + f.bytes, 0),
  time: calibratedSeconds(frames, reference).reduce((a, b) => a + b, 0),
});

export interface RecordStatistics {
  readonly count: number;
  /** Median of |predicted / measured - 1|. */
  readonly medianError: number;
  /** Part of the measured values that lie inside the stated range. */
  readonly inside: number;
}

const rangeIn = (p: Prediction, q: Quantity): Range | null => p[q];

/** Pairs of predicted and measured of one quantity. */
export const pairsOf = (
  record: readonly RecordEntry[],
  q: Quantity,
): { readonly range: Range; readonly measured: number; readonly entry: RecordEntry }[] =>
  record.flatMap((entry) => {
    const range = rangeIn(entry.prediction, q);
    const measured = entry.measured[q];
    // Times of another machine do not tell how good predictions for this machine are.
    if (q === 'time' && entry.prediction.unmeasured) return [];
    return range && measured > 0 && range.likely > 0 ? [{ range, measured, entry }] : [];
  });

export function statisticsOf(record: readonly RecordEntry[], q: Quantity): RecordStatistics {
  const pairs = pairsOf(record, q);
  return {
    count: pairs.length,
    medianError: median(pairs.map((p) => Math.abs(p.range.likely / p.measured - 1))) || 0,
    inside: pairs.filter((p) => p.measured >= p.range.low && p.measured <= p.range.high).length / Math.max(1, pairs.length),
  };
}

/**
 * Standard deviation of ln(predicted / measured) that is assumed before anything was compared, by what the prediction rests on. `same` and `settings` as the
 * twelve fitted shots of bench/varied-shots.ts came out (docs/methods/cost.md), wider by what so few leave open (Student's t over the normal: 1.14).
 */
const PRIOR: Readonly<Record<Basis, Readonly<Record<Quantity, number>>>> = {
  repeat: { time: 0.1, memory: 0.01, disk: 0.01, voxels: 0.01 },
  same: { time: 0.18, memory: 0.135, disk: 0.17, voxels: 0.1 },
  relative: { time: 0.3, memory: 0.22, disk: 0.25, voxels: 0.2 },
  settings: { time: 0.4, memory: 0.35, disk: 0.4, voxels: 0.3 },
};
/** Comparisons that the prior counts as. */
const PRIOR_COUNT = 4;

/** Spread to state for a basis: the prior, moved by how the predictions of this kind have come out so far. */
export function spreadOf(record: readonly RecordEntry[], basis: Basis, q: Quantity): number {
  const prior = PRIOR[basis][q];
  const errors = pairsOf(
    record.filter((r) => r.prediction.basis === basis),
    q,
  ).map((p) => Math.log(p.range.likely / p.measured));
  const squares = errors.reduce((s, e) => s + e * e, 0);
  return Math.sqrt((squares + PRIOR_COUNT * prior ** 2) / (errors.length + PRIOR_COUNT));
}

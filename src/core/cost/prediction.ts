import * as z from 'zod';
import type { PredictedFrame } from './extrapolate';

/** Of ten, nine lie within; `likely` is the median. */
export const rangeSchema = z.strictObject({ low: z.number(), likely: z.number(), high: z.number() });
export type Range = z.output<typeof rangeSchema>;

/**
 * What a prediction rests on. `repeat`: the same run was computed; `same`: the same settings on coarser voxels; `relative`: a run with other settings;
 * `settings`: nothing but the settings.
 */
export const BASES = ['repeat', 'same', 'relative', 'settings'] as const;
export type Basis = (typeof BASES)[number];

export const predictionSchema = z.strictObject({
  /** Most active voxels at once. */
  voxels: rangeSchema,
  /** Bytes of memory, most. */
  memory: rangeSchema,
  /** Bytes on disk, all frames. */
  disk: rangeSchema,
  /** Seconds of computing, all frames, on this machine in its usual state. null: said by a version that had no times before the first measurement. */
  time: rangeSchema.nullable(),
  /** Most particles at once; of a liquid. */
  particles: rangeSchema.optional(),
  basis: z.enum(BASES),
  /** Which run, as a person knows it. */
  from: z.string(),
  /** This machine is not measured yet: its times are those of another machine, with a wide range. */
  unmeasured: z.literal(true).optional(),
});

/** Stored with a run: what was said before it started. */
export type Prediction = z.output<typeof predictionSchema>;

/** What a page says after what a prediction rests on; empty where its times are this machine's. */
export const notMeasured = ({ unmeasured }: Pick<Prediction, 'unmeasured'>): string =>
  unmeasured ? ' This machine is not measured yet: the times come from another machine.' : '';

/** Standard normal quantile that leaves 5 % on each side. */
const NINETY = 1.645;

export const rangeOf = (likely: number, sigma: number): Range => ({
  low: likely * Math.exp(-NINETY * sigma),
  likely,
  high: likely * Math.exp(NINETY * sigma),
});

/** Frame by frame, too. */
export interface DetailedPrediction extends Prediction {
  readonly frames: readonly (PredictedFrame & { readonly seconds: number | null })[];
}

/** Predicted figures of one frame of a solve: for passes that read it, and for the price of its last frames. */
export interface ForeseenFrame {
  readonly frame: number;
  /** Particles of a liquid, active voxels of a gas. */
  readonly elements: number;
  readonly seconds: number | null;
  readonly bytes: number;
}

export const foreseenFrames = ({ frames }: DetailedPrediction): ForeseenFrame[] =>
  frames.map(({ frame, voxels, particles, seconds, bytes }) => ({ frame, elements: particles ?? voxels, seconds, bytes }));

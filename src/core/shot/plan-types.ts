import type { GasChannel, GasOptions } from '#core/gas';
import type { LiquidOptions, LiquidVolume } from '#core/liquid';

/** How fine a run is: a factor on the voxel size. */
export const RUNGS = { sketch: 4, test: 2, final: 1 } as const;
export type Rung = keyof typeof RUNGS;
export const rungTitle = { sketch: 'Sketch', test: 'Test', final: 'Final' } as const satisfies Record<Rung, string>;

interface PlanOf<Pass extends string, Options> {
  readonly pass: Pass;
  readonly rung: Rung;
  readonly options: Options;
  /** How its files are written. */
  readonly file: { readonly metresPerUnit: number; readonly upAxis: 'y' | 'z'; readonly timeScale: number };
}

/** What a run of a gas solve does, resolved: SI, no defaults left open. Everything that changes the result is in it, and nothing else. */
export interface GasPlan extends PlanOf<'solve', GasOptions> {
  /** Of the bounds beside, in their order: computed with the first ones, frame by frame. */
  readonly beside: readonly GasOptions[];
  readonly keep: {
    readonly channels: readonly GasChannel[];
    readonly precision: 'half' | 'full';
    readonly compression: 'blosc' | 'zip' | 'none';
    readonly preRoll: boolean;
  };
}

/** The same of a liquid solve. */
export interface LiquidPlan extends PlanOf<'liquid', LiquidOptions> {
  readonly beside: readonly never[];
  readonly keep: {
    /** What is written of each particle beside place, velocity, age and number. */
    readonly attributes: readonly LiquidAttribute[];
    /** Volumes that are written beside the particles. */
    readonly volumes: readonly LiquidVolume[];
    readonly preRoll: boolean;
  };
}
export type LiquidAttribute = 'radius' | 'viscosity' | 'source';

export type Plan = GasPlan | LiquidPlan;

export const isLiquidPlan = (plan: { readonly pass: string }): plan is LiquidPlan => plan.pass === 'liquid';

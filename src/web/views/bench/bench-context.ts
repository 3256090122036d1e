import { createContext, useContext } from 'react';
import type { Finding } from '#core/checks';
import type { Ahead, DetailedPrediction } from '#core/cost';
import type { ShotDto, VariantDto } from '#protocol';
import type { FoundInPass, PassState, Predictor, SolveLoads } from '#web/state';
import type { MovingField } from './moves/moves';
import type { Shown } from './runs/shown-run';

/** What every part of the Bench looks at: derived once, in BenchView. */
export interface BenchState {
  readonly shot: ShotDto;
  readonly variant: VariantDto;
  readonly shown: Shown;
  readonly predictor: Predictor;
  /** Of the sheet as it is; null while it is not known. */
  readonly predicted: { readonly test: DetailedPrediction | null; readonly final: DetailedPrediction | null };
  /** Time and disk that the shot's runs took, and that unfinished runs will still take; `ahead`: the second part alone. */
  readonly spent: { readonly seconds: number; readonly bytes: number; readonly ahead: Ahead & { readonly runs: number } };
  /** Voxels of each frame of the solve, as predicted. */
  readonly loads: SolveLoads;
  readonly findings: readonly Finding[];
  /** In the runs of its passes. */
  readonly passFindings: readonly FoundInPass[];
  /** The sheet's passes in order, the solve first. */
  readonly passes: readonly PassState[];
  /** The one that is looked at; null: the solve. */
  readonly pass: PassState | null;
  /** Opens the editor of what moves a number. */
  readonly makeMove: (field: MovingField) => void;
  /** Opens three values of a setting side by side. */
  readonly tryThree: (path: readonly (string | number)[]) => void;
}

export const BenchContext = createContext<BenchState | null>(null);

export function useBench(): BenchState {
  const state = useContext(BenchContext);
  if (!state) throw new Error('outside the Bench');
  return state;
}

import { budgets } from '../budget';
import type { Check, LiquidCheckInput } from '../finding';
import { brokenMoves, fastSolids } from '../moves';
import { pressure } from '../pressure';
import { fineSolids, smallSources, thinSolids } from '../sizes';
import { substepLimit } from '../substeps';
import { blockedSources, noLiquid } from './nothing';
import { explosive, insideSolids } from './particles';
import { openContainer, volumeDrift } from './volume';

/** Every check of a liquid; what is first here is told first. */
export const LIQUID_CHECKS: readonly Check<LiquidCheckInput>[] = [
  brokenMoves,
  noLiquid,
  blockedSources,
  budgets,
  substepLimit,
  fastSolids,
  insideSolids,
  explosive,
  volumeDrift,
  openContainer,
  pressure,
  smallSources,
  thinSolids,
  fineSolids,
];

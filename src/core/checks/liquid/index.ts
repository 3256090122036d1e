import { budgets } from '../budget';
import type { Check, LiquidCheckInput } from '../finding';
import { idleGuides } from '../guides';
import { brokenMoves, fastSolids } from '../moves';
import { pressure } from '../pressure';
import { fineSolids, smallSources, thinSolids } from '../sizes';
import { substepLimit } from '../substeps';
import { noLiquid } from './nothing';
import { clumped, gapAtWalls, holes } from './lie';
import { explosive, insideSolids } from './particles';
import { tensionSteps, thinBand, unfeltTension, viscositySteps } from './steps';
import { blockedSources, floods, shortSources } from './streams';
import { againstLimit, openContainer, volumeDrift } from './volume';

/** Every check of a liquid; what is first here is told first. */
export const LIQUID_CHECKS: readonly Check<LiquidCheckInput>[] = [
  brokenMoves,
  noLiquid,
  blockedSources,
  shortSources,
  floods,
  budgets,
  substepLimit,
  fastSolids,
  idleGuides,
  insideSolids,
  explosive,
  volumeDrift,
  openContainer,
  againstLimit,
  tensionSteps,
  viscositySteps,
  thinBand,
  holes,
  clumped,
  gapAtWalls,
  unfeltTension,
  pressure,
  smallSources,
  thinSolids,
  fineSolids,
];

import { isLiquidPlan } from '#core/shot';
import { eachBounds, overlappingBounds } from './beside';
import { emptyBounds } from './bounds';
import { unreadChannels } from './channels';
import { budgets } from './budget';
import type { Check, CheckInput, Finding, FlowCheckInput, LiquidCheckInput } from './finding';
import { LIQUID_CHECKS } from './liquid';
import { burning, unusedHeat } from './fire';
import { idleGuides } from './guides';
import { numericalMass } from './mass';
import { growingEnergy, overSmooth } from './motion';
import { brokenMoves, fastSolids } from './moves';
import { nothingVisible } from './nothing';
import { pilingVelocity } from './piling';
import { pressure } from './pressure';
import { shortReach } from './reach';
import { scale } from './scale';
import { fineSolids, smallSources, thinSolids } from './sizes';
import { substepLimit } from './substeps';
import { openWalls } from './walls';

/** Every check of a gas; what is first here is told first. */
export const CHECKS: readonly Check[] = [
  brokenMoves,
  nothingVisible,
  burning,
  budgets,
  substepLimit,
  fastSolids,
  idleGuides,
  openWalls,
  shortReach,
  growingEnergy,
  pilingVelocity,
  pressure,
  smallSources,
  thinSolids,
  fineSolids,
  numericalMass,
  scale,
  emptyBounds,
  unusedHeat,
  overSmooth,
  unreadChannels,
];

/** Of a gas: in each of its bounds. */
const findInGas = (input: CheckInput): Finding[] => [
  ...overlappingBounds.find(input),
  ...eachBounds(input, (one) => CHECKS.flatMap((c) => c.find(one))),
];

/** Warnings first, in the registry's order. Settings, plan and reports are of one kind. */
export function findAll(input: FlowCheckInput): Finding[] {
  const found = isLiquidPlan(input.plan) ? LIQUID_CHECKS.flatMap((c) => c.find(input as LiquidCheckInput)) : findInGas(input as CheckInput);
  return [...found.filter((f) => f.severity === 'warning'), ...found.filter((f) => f.severity === 'note')];
}

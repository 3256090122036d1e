import { emptyBounds } from './bounds';
import { budgets } from './budget';
import type { Check, CheckInput, Finding } from './finding';
import { burning, unusedHeat } from './fire';
import { numericalMass } from './mass';
import { brokenMoves, fastSolids } from './moves';
import { nothingVisible } from './nothing';
import { pressure } from './pressure';
import { scale } from './scale';
import { smallSources, thinSolids } from './sizes';
import { substepLimit } from './substeps';
import { openWalls } from './walls';

/** Every check; what is first here is told first. */
export const CHECKS: readonly Check[] = [
  brokenMoves,
  nothingVisible,
  burning,
  budgets,
  substepLimit,
  fastSolids,
  openWalls,
  pressure,
  smallSources,
  thinSolids,
  numericalMass,
  scale,
  emptyBounds,
  unusedHeat,
];

/** Warnings first, in the registry's order. */
export function findAll(input: CheckInput): Finding[] {
  const found = CHECKS.flatMap((c) => c.find(input));
  return [...found.filter((f) => f.severity === 'warning'), ...found.filter((f) => f.severity === 'note')];
}

import { formatBytes } from '#core/units';
import type { FollowerPlan } from './follower';
import { definitionOf } from './registry';

/** A guess is at most so much too high: below that nothing is refused for it. */
const SURE = 2;

/** What to do about a pass that needs more memory than there is; `factor`: times that it is finer than what it reads, if it is. */
export function remedyOf(factor: number | null, neededBytes: number, bytes: number): string {
  // Memory grows with the factor's third power.
  const fits = factor === null ? 0 : Math.floor(10 * factor * Math.cbrt(bytes / neededBytes)) / 10;
  return fits < 1 ? 'Let it read a coarser or smaller cache.' : `A factor of ${String(fits)} fits; or let it read a smaller cache.`;
}

/** Why a pass can never fit into so many bytes, from the most that a frame of its input, and of what it reads beside, has; null: it may. */
export function tooLarge(
  plan: FollowerPlan,
  most: number,
  bytes: number,
  beside = 0,
): { readonly neededBytes: number; readonly message: string } | null {
  const { title, cost, factor: factorOf } = definitionOf(plan.pass);
  const neededBytes = cost.memoryBytes(plan.body, most, beside);
  if (neededBytes <= SURE * bytes) return null;
  const factor = factorOf?.(plan.body) ?? null;
  const remedy = remedyOf(factor, neededBytes, bytes);
  return {
    neededBytes,
    message: `${title} needs about ${formatBytes(neededBytes)} of memory, and ${formatBytes(bytes)} are there. ${remedy}`,
  };
}

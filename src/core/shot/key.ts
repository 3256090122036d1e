import { sha256 } from '@noble/hashes/sha2.js';
import { bytesToHex, utf8ToBytes } from '@noble/hashes/utils.js';
import { GAS_VERSION, type GasOptions } from '#core/gas';
import { LIQUID_VERSION, type LiquidOptions } from '#core/liquid';
import { canonicalJson } from './canonical';
import { type Plan, isLiquidPlan } from './plan-types';

/** What of a solver's options decides about its frames: no names, no last frame. */
export const essenceOfOptions = ({ lastFrame: _lastFrame, sources, ...options }: GasOptions | LiquidOptions): unknown => ({
  ...options,
  sources: sources.map(({ name: _name, ...s }: { readonly name: string }) => s),
});

/** The same of a plan. */
export const essenceOfPlan = (plan: Plan): unknown => ({
  ...plan,
  options: essenceOfOptions(plan.options),
  beside: plan.beside.map(essenceOfOptions),
});

/** SHA-256 of the plan's essence and of the solver's version, which is raised by hand. */
export const runKey = (plan: Plan): string =>
  bytesToHex(sha256(utf8ToBytes(canonicalJson(['solve', isLiquidPlan(plan) ? LIQUID_VERSION : GAS_VERSION, essenceOfPlan(plan)]))));

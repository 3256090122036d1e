import { sha256 } from '@noble/hashes/sha2.js';
import { bytesToHex, utf8ToBytes } from '@noble/hashes/utils.js';
import { GAS_VERSION, type GasOptions } from '#core/gas';
import { LIQUID_VERSION, type LiquidOptions } from '#core/liquid';
import { canonicalJson } from './canonical';
import { type Plan, isLiquidPlan } from './plan-types';

/** The part of a plan that decides about its frames: no names, no last frame. */
function essence(plan: Plan): unknown {
  const bare = ({ lastFrame: _lastFrame, sources, ...options }: GasOptions | LiquidOptions): unknown => ({
    ...options,
    sources: sources.map(({ name: _name, ...s }: { readonly name: string }) => s),
  });
  return { ...plan, options: bare(plan.options), beside: plan.beside.map(bare) };
}

/** SHA-256 of what decides about the result, the solver's and the kernels' versions included. */
export function runKey(plan: Plan, kernelsVersion: string): string {
  return bytesToHex(sha256(utf8ToBytes(canonicalJson([isLiquidPlan(plan) ? LIQUID_VERSION : GAS_VERSION, kernelsVersion, essence(plan)]))));
}

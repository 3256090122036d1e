import { type Plan, isLiquidPlan } from '#core/shot';
import { gasNeverFits } from './gas';
import { liquidNeverFits } from './liquid';

/** Why a solve can never fit into so many bytes; null: it may. */
export const neverFits = (plan: Plan, bytes: number): { readonly neededBytes: number; readonly message: string } | null =>
  isLiquidPlan(plan) ? liquidNeverFits(plan, bytes) : gasNeverFits(plan, bytes);

import { sha256 } from '@noble/hashes/sha2.js';
import { bytesToHex, utf8ToBytes } from '@noble/hashes/utils.js';
import { timeOfFrame } from '#core/flow';
import { type FollowerKind, type Plan, canonicalJson, essenceOfPlan, isLiquidPlan, optionsOf } from '#core/shot';
import type { FollowerPlan } from './follower';
import { gasVersion } from './gas';
import { type AnyPlan, definitionOf, isSolvePlan, opsOf } from './registry';

/**
 * Until December 2026 run keys held a digest of the kind's compiled kernels, names of sources in some kinds, and the last frame in others. These are the digests and versions
 * of the last code that wrote such keys: what it computed is what the present code computes, where the versions are still the same.
 */
const DIGESTS = {
  gas: '03f260845af0',
  particles: 'cda7d92bbf57',
  detail: 'f0b6ee586e02',
  held: 'a3ae0d07f4c9',
  liquid: '69d940f01b72',
  surface: '312b1d2caa5e',
};
const GAS = 'gas-6';
const LIQUID = 'liquid-2';
const FOLLOWER = 1;
/** What stood in a follower's key beside its version. */
const BESIDE: Readonly<Record<FollowerKind, string | null>> = {
  resample: null,
  detail: DIGESTS.detail,
  held: `${GAS}-${DIGESTS.held}`,
  fed: `${GAS}-${DIGESTS.gas}`,
  retime: null,
  particles: DIGESTS.particles,
  refill: DIGESTS.particles,
  surface: DIGESTS.surface,
  stills: null,
};

const hashOf = (value: unknown): string => bytesToHex(sha256(utf8ToBytes(canonicalJson(value))));

/** The key that this plan had then. */
export function formerKey(plan: AnyPlan): string {
  if (isSolvePlan(plan))
    return hashOf(isLiquidPlan(plan) ? [LIQUID, DIGESTS.liquid, essenceOfPlan(plan)] : [GAS, DIGESTS.gas, essenceOfPlan(plan)]);
  const { last: _last, ...from } = plan.frames;
  const keys = plan.inputs.map(({ role, key }) => ({ role, key }));
  const beside = BESIDE[plan.pass];
  return hashOf(['pass', plan.pass, beside === null ? String(FOLLOWER) : `${String(FOLLOWER)}-${beside}`, from, keys, plan.body]);
}

/** Whether a solve comes out otherwise now: every liquid (its surface is another), and a gas source that acted once more after its end by rounding. */
function changedSince(plan: Plan): boolean {
  if (isLiquidPlan(plan)) return true;
  return (
    gasVersion !== GAS ||
    optionsOf(plan).some((o) =>
      o.sources.some(({ to }) => to !== null && timeOfFrame(to + 1, o) - 1 / o.framesPerSecond < timeOfFrame(to, o)),
    )
  );
}

/** Particles fell with 9.81 m/s^2: those that do not fall are the same. (Frames of a source were not in their plans: where it has some, the key differs by itself.) */
const falls = ({ body }: FollowerPlan): boolean => {
  const { drag, weight } = (body as { readonly settings: { readonly drag: number | null; readonly weight: number } }).settings;
  return drag !== null && weight !== 0;
};

const followerChanged = (plan: FollowerPlan): boolean => {
  const { pass } = plan;
  const { version } = definitionOf(pass);
  if (pass === 'particles' || pass === 'refill') return version !== 2 || falls(plan);
  return version !== FOLLOWER || ((pass === 'held' || pass === 'fed') && gasVersion !== GAS);
};

/**
 * Plan and key of a run that was stored with a former key, as they are now. null: it has another key, or would come out otherwise. `renamed`: new
 * keys of its inputs, by their former ones.
 */
export function broughtUp(
  plan: AnyPlan,
  key: string,
  renamed: ReadonlyMap<string, string>,
): { readonly plan: AnyPlan; readonly key: string } | null {
  if (key !== formerKey(plan)) return null;
  if (isSolvePlan(plan)) return changedSince(plan) ? null : { plan, key: opsOf(plan).key(plan) };
  if (followerChanged(plan)) return null;
  const now = { ...plan, inputs: plan.inputs.map((i) => ({ ...i, key: renamed.get(i.key) ?? i.key })) };
  return { plan: now, key: opsOf(now).key(now) };
}

import type { GasOptions } from '#core/gas';
import type { LiquidOptions } from '#core/liquid';
import type { Key, Move } from '#core/moves';
import { canonicalJson } from './canonical';
import { type Plan } from './plan-types';
import { optionsOf } from './plan';

/**
 * Last frame up to which two plans give the same frames, as far as can be told without computing: they differ in nothing but keys that come later. null: they
 * differ from the start on. Infinity: in nothing at all.
 */
export function sameUntil(a: Plan, b: Plan): number | null {
  const [these, those] = [optionsOf(a), optionsOf(b)];
  if (these.length !== those.length || canonicalJson(outside(a)) !== canonicalJson(outside(b))) return null;
  let until = Infinity;
  for (const [n, options] of these.entries()) {
    const other = those[n];
    const same = other ? sameOptions(options, other) : null;
    if (same === null) return null;
    until = Math.min(until, same);
  }
  return until;
}

const outside = ({ options: _o, beside: _b, ...rest }: Plan): unknown => rest;

/** Keys taken out of options, by where they stood; what is left must be equal. */
interface Parted {
  readonly rest: string;
  readonly keys: ReadonlyMap<string, readonly Key[]>;
}

function parted({ lastFrame: _last, sources, ...options }: GasOptions | LiquidOptions): Parted {
  const keys = new Map<string, readonly Key[]>();
  const walk = (value: unknown, at: string): unknown => {
    if (Array.isArray(value)) return value.map((v, n) => walk(v, `${at}.${String(n)}`));
    if (typeof value !== 'object' || value === null) return value;
    if (isKeys(value)) {
      keys.set(at, value.keys);
      return { ...value, keys: [] };
    }
    return Object.fromEntries(Object.entries(value).map(([name, v]) => [name, walk(v, `${at}.${name}`)]));
  };
  const rest = canonicalJson(walk({ ...options, sources: sources.map(({ name: _name, ...s }: { readonly name: string }) => s) }, ''));
  return { rest, keys };
}

const isKeys = (value: object): value is Extract<Move, { kind: 'keys' }> => 'kind' in value && value.kind === 'keys' && 'keys' in value;

function sameOptions(a: GasOptions | LiquidOptions, b: GasOptions | LiquidOptions): number | null {
  const [these, those] = [parted(a), parted(b)];
  if (these.rest !== those.rest) return null;
  let until = Infinity;
  for (const [at, keys] of these.keys) {
    const same = sameKeys(keys, those.keys.get(at) ?? []);
    if (same === null) return null;
    until = Math.min(until, same);
  }
  return until;
}

/**
 * A key decides about its curve from the key before the last one on: the slope at the key before it is chosen by both its neighbours. Before the first key the
 * first value holds.
 */
function sameKeys(a: readonly Key[], b: readonly Key[]): number | null {
  const differ = Array.from({ length: Math.max(a.length, b.length) }, (_v, n) => n).find(
    (n) => canonicalJson(a[n] ?? null) !== canonicalJson(b[n] ?? null),
  );
  if (differ === undefined) return Infinity;
  if (differ === 0) return null;
  return Math.floor(a[Math.max(0, differ - 2)]?.frame ?? 0);
}

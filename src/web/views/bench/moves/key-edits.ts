import { type Key, smoothSlope } from '#core/moves';

const fresh = (frame: number, value: number): Key => ({ frame, value, then: 'smooth', arrive: null, leave: null });

/** Keys in the order of their frames; of two at one frame the one that was touched last (`wins`) stays. */
function ordered(keys: readonly Key[], wins: ReadonlySet<Key>): Key[] {
  const byFrame = new Map<number, Key>();
  for (const k of keys) {
    const there = byFrame.get(k.frame);
    if (!there || wins.has(k) || !wins.has(there)) byFrame.set(k.frame, k);
  }
  return [...byFrame.values()].sort((a, b) => a.frame - b.frame);
}

/** Adds a key, or gives the one at that frame the value. Returns the keys and which one it is. */
export function withKey(keys: readonly Key[], frame: number, value: number): { readonly keys: Key[]; readonly index: number } {
  const there = keys.find((k) => k.frame === frame);
  const key = there ? { ...there, value } : fresh(frame, value);
  const next = ordered([...keys.filter((k) => k !== there), key], new Set([key]));
  return { keys: next, index: next.indexOf(key) };
}

/** Moves some keys together. Returns the keys and where the moved ones are now. */
export function movedKeys(
  keys: readonly Key[],
  picked: ReadonlySet<number>,
  frames: number,
  value: number,
): { readonly keys: Key[]; readonly picked: Set<number> } {
  const moved = new Set<Key>();
  const all = keys.map((k, n) => {
    if (!picked.has(n)) return k;
    const next = { ...k, frame: k.frame + frames, value: k.value + value };
    moved.add(next);
    return next;
  });
  const next = ordered(all, moved);
  return { keys: next, picked: new Set(next.flatMap((k, n) => (moved.has(k) ? [n] : []))) };
}

/** Without some keys; the last one stays: a curve has at least one. */
export function withoutKeys(keys: readonly Key[], picked: ReadonlySet<number>): readonly Key[] {
  const left = keys.filter((_k, n) => !picked.has(n));
  return left.length > 0 ? left : keys.slice(0, 1);
}

export const changedKeys = (keys: readonly Key[], picked: ReadonlySet<number>, change: Partial<Key>): Key[] =>
  keys.map((k, n) => (picked.has(n) ? { ...k, ...change } : k));

/** Slope of a key on one side, set or chosen by the curve. */
export const slopeOf = (keys: readonly Key[], n: number, side: 'arrive' | 'leave'): number => keys[n]?.[side] ?? smoothSlope(keys, n);

/** Keys that lie in a box. */
export const keysWithin = (keys: readonly Key[], frames: readonly [number, number], values: readonly [number, number]): Set<number> =>
  new Set(
    keys.flatMap((k, n) =>
      k.frame >= Math.min(...frames) && k.frame <= Math.max(...frames) && k.value >= Math.min(...values) && k.value <= Math.max(...values)
        ? [n]
        : [],
    ),
  );

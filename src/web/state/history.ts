import { type Patch, applyPatches, enablePatches, produceWithPatches } from 'immer';
import { canonicalJson } from '#core/shot';

enablePatches();

/** One edit, both ways, and what it was in words. */
export interface Step {
  readonly title: string;
  readonly forward: readonly Patch[];
  readonly back: readonly Patch[];
}

const isTree = (v: unknown): v is Record<string, unknown> => typeof v === 'object' && v !== null;

/** Writes what differs into a draft, as deep down as it can, so that its patches are as small as the edit. */
function assign(target: Record<string, unknown>, next: Record<string, unknown>): void {
  for (const key of new Set([...Object.keys(target), ...Object.keys(next)])) {
    const [a, b] = [target[key], next[key]];
    // Taken out, not left as undefined: a strict shape refuses a key that it does not know, whatever its value.
    if (!Object.hasOwn(next, key)) {
      if (Object.hasOwn(target, key)) Reflect.deleteProperty(target, key);
      continue;
    }
    // A key that is not there is not one that is null.
    if (Object.hasOwn(target, key) && canonicalJson(a ?? null) === canonicalJson(b ?? null)) continue;
    const alike =
      isTree(a) &&
      isTree(b) &&
      Array.isArray(a) === Array.isArray(b) &&
      (!Array.isArray(a) || a.length === (b as unknown as unknown[]).length);
    if (alike) assign(a, b);
    else target[key] = b;
  }
}

/** The step from one value to another; null when they are equal. */
export function stepBetween<T extends object>(from: T, to: T, title: string): Step | null {
  const [, forward, back] = produceWithPatches(from, (draft) => {
    assign(draft as Record<string, unknown>, to as Record<string, unknown>);
  });
  return forward.length === 0 ? null : { title, forward, back };
}

export const stepped = <T extends object>(value: T, patches: readonly Patch[]): T => applyPatches(value, [...patches]);

const places = (step: Step): string => [...new Set(step.forward.map((p) => p.path.join('/')))].sort().join(' ');

/** Whether two steps change the same things. */
export const samePlaces = (a: Step, b: Step): boolean => places(a) === places(b);

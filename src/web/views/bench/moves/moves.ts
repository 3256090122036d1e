import { type Move, type Moves, numberAt } from '#core/moves';
import { type Path, type SolveSettings, putAtPath, valueAtPath } from '#core/shot';
import type { Unit } from '#core/units';

export interface MovingField {
  readonly title: string;
  readonly unit: Unit;
  /** The item that the numbers belong to: `['sources', 0]`, `['forces']`. */
  readonly item: Path;
  /** Their paths in it: one, or those of x, y and z. */
  readonly paths: readonly string[];
}

/** What moves a number of an item; null when nothing does. */
export const moveAt = (settings: SolveSettings, item: Path, path: string): Move | null =>
  (valueAtPath(settings, [...item, 'moves']) as Moves | undefined)?.[path] ?? null;

/** The number on the sheet. */
export const numberOf = (settings: SolveSettings, item: Path, path: string): number | null => numberAt(valueAtPath(settings, item), path);

/** Settings with a number's move replaced; null: it stands still. */
export function withMove(settings: SolveSettings, item: Path, path: string, move: Move | null): SolveSettings {
  const { [path]: _old, ...others } = (valueAtPath(settings, [...item, 'moves']) ?? {}) as Moves;
  return putAtPath(settings, [...item, 'moves'], move ? { ...others, [path]: move } : others) as SolveSettings;
}

/** An item of a list has its own moves; else the group has: where a field's path splits. */
export function splitPath(path: Path): { readonly item: Path; readonly rest: readonly (string | number)[] } {
  const index = path.findIndex((p) => typeof p === 'number');
  const depth = index < 0 ? 1 : index + 1;
  return { item: path.slice(0, depth), rest: path.slice(depth) };
}

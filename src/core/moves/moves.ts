import { evaluateNode } from './evaluate';
import { type Key, valueOfKeys } from './keys';
import { type Node, parseExpression, settingsRead } from './parse';

/** What makes one number move: keys, or an expression. */
export type Move = { readonly kind: 'keys'; readonly keys: readonly Key[] } | { readonly kind: 'expression'; readonly text: string };

/** Moves of one item (a source, a solid, the forces), by the path of the number in it: `density`, `shape.centre.y`. */
export type Moves = Readonly<Record<string, Move>>;

/** A setting that an expression reads: its number on the sheet, and what moves it. */
export interface Follow {
  readonly value: number;
  readonly move: Move | null;
}

/** Everything that the expressions of a plan read, by path. */
export type Followed = Readonly<Record<string, Follow>>;

export interface Moment {
  readonly time: number;
  readonly firstFrame: number;
  readonly framesPerSecond: number;
}

const trees = new Map<string, Node | null>();
const KEEP = 500;

/** The tree of a text, or null when it has a mistake. Kept: the same few texts are looked at thousands of times a run. */
function treeOf(text: string): Node | null {
  let tree = trees.get(text);
  if (tree === undefined) {
    if (trees.size > KEEP) trees.clear();
    const parsed = parseExpression(text);
    tree = parsed.ok ? parsed.node : null;
    trees.set(text, tree);
  }
  return tree;
}

/**
 * Value of a moving number. NaN where an expression has no value (a mistake, a division by zero, a circle): whoever resolves a plan has looked for
 * that first (`mistakesOf`).
 */
export function valueOfMove(move: Move, value: number, moment: Moment, followed: Followed, within: readonly string[] = []): number {
  const frame = moment.firstFrame + moment.time * moment.framesPerSecond;
  if (move.kind === 'keys') return valueOfKeys(move.keys, frame);
  const tree = treeOf(move.text);
  if (!tree) return NaN;
  return evaluateNode(tree, {
    time: moment.time,
    frame,
    fps: moment.framesPerSecond,
    value,
    setting: (path) => {
      const other = followed[path];
      if (!other || within.includes(path)) return NaN;
      return other.move ? valueOfMove(other.move, other.value, moment, followed, [...within, path]) : other.value;
    },
  });
}

/** Paths that a move reads. */
export function readBy(move: Move): readonly { readonly path: string; readonly column: number }[] {
  if (move.kind === 'keys') return [];
  const tree = treeOf(move.text);
  return tree ? settingsRead(tree) : [];
}

/** Last part of a path as a key: x, y and z are places in a vector. */
const place = (part: string): string | number => ({ x: 0, y: 1, z: 2 })[part] ?? part;

/** Number at a path of an item; null when there is none. */
export function numberAt(item: unknown, path: string): number | null {
  let at: unknown = item;
  for (const part of path.split('.')) {
    if (typeof at !== 'object' || at === null) return null;
    at = (at as Record<string | number, unknown>)[Array.isArray(at) ? place(part) : part];
  }
  return typeof at === 'number' ? at : null;
}

/** A copy with the number at a path replaced; what is not on the way is shared. */
function withNumber(item: unknown, parts: readonly string[], value: number): unknown {
  const [part, ...rest] = parts;
  if (part === undefined) return value;
  if (Array.isArray(item)) return item.map((v: unknown, n) => (n === place(part) ? withNumber(v, rest, value) : v));
  if (typeof item !== 'object' || item === null) return item;
  return { ...item, [part]: withNumber((item as Record<string, unknown>)[part], rest, value) };
}

/** An item as it is at a moment. */
export function atMoment<T>(item: T, moves: Moves, moment: Moment, followed: Followed): T {
  let moved: unknown = item;
  for (const [path, move] of Object.entries(moves)) {
    const value = numberAt(item, path);
    if (value !== null) moved = withNumber(moved, path.split('.'), valueOfMove(move, value, moment, followed));
  }
  return moved as T;
}

import { type Scope, type Undefined, evaluateNode, whyUndefined } from './evaluate';
import { type Key, valueOfKeys } from './keys';
import { type Node, parseExpression, settingsRead } from './parse';

/** What makes one number move: keys, or an expression; held between `limits` where they are given. */
export type Move = ({ readonly kind: 'keys'; readonly keys: readonly Key[] } | { readonly kind: 'expression'; readonly text: string }) & {
  readonly limits?: readonly [number, number] | undefined;
};

/** Moves of one item (a source, a solid, the forces), by the path of the number in it: `density`, `shape.centre.y`. */
export type Moves = Readonly<Record<string, Move>>;

/** A setting that an expression reads: its number on the sheet, and what moves it. */
export interface Follow {
  readonly value: number;
  readonly move: Move | null;
}

/** Everything that the expressions of a plan read, by path. */
export type Followed = Readonly<Record<string, Follow>>;

/** Seconds of the shot since its first frame. */
export type ShotSeconds = number & { readonly seconds?: 'shot' };

export interface Moment {
  readonly time: ShotSeconds;
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

/** Values of what expressions read at one moment: a setting that many read, or that others read in turn, is worked out once. */
interface Values {
  readonly time: number;
  readonly firstFrame: number;
  readonly framesPerSecond: number;
  readonly known: Map<string, number>;
}

const latest = new WeakMap<Followed, Values>();

function valuesAt(followed: Followed, { time, firstFrame, framesPerSecond }: Moment): Values {
  const last = latest.get(followed);
  if (last?.time === time && last.firstFrame === firstFrame && last.framesPerSecond === framesPerSecond) return last;
  const values = { time, firstFrame, framesPerSecond, known: new Map<string, number>() };
  latest.set(followed, values);
  return values;
}

function scopeOf(value: number, moment: Moment, followed: Followed): Scope {
  return {
    time: moment.time,
    frame: frameAt(moment),
    fps: moment.framesPerSecond,
    value,
    setting: (path) => {
      const other = Object.hasOwn(followed, path) ? followed[path] : undefined;
      if (!other) return NaN;
      if (!other.move) return other.value;
      const { known } = valuesAt(followed, moment);
      const found = known.get(path);
      if (found !== undefined) return found;
      // Asked for again while it is worked out: a circle, which has no value.
      known.set(path, NaN);
      const result = valueOfMove(other.move, other.value, moment, followed);
      known.set(path, result);
      return result;
    },
  };
}

const frameAt = ({ time, firstFrame, framesPerSecond }: Moment): number => firstFrame + time * framesPerSecond;

const held = (value: number, limits: Move['limits']): number => (limits ? Math.min(limits[1], Math.max(limits[0], value)) : value);

/**
 * Value of a moving number. NaN where an expression has no value (a mistake, a division by zero, a circle): whoever resolves a plan has looked for
 * that first (`mistakesOfMoves`).
 */
export function valueOfMove(move: Move, value: number, moment: Moment, followed: Followed): number {
  if (move.kind === 'keys') return held(valueOfKeys(move.keys, frameAt(moment)), move.limits);
  const tree = treeOf(move.text);
  return tree ? held(evaluateNode(tree, scopeOf(value, moment, followed)), move.limits) : NaN;
}

/** Why a move has no value at a moment, with the column in its text; null when it has one, or is no expression. */
export function whyNoValue(move: Move, value: number, moment: Moment, followed: Followed): Undefined | null {
  const tree = move.kind === 'expression' ? treeOf(move.text) : null;
  return tree && whyUndefined(tree, scopeOf(value, moment, followed));
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
    const key = Array.isArray(at) ? place(part) : part;
    // A list has places and nothing else: its length is no setting.
    if ((Array.isArray(at) && typeof key !== 'number') || !Object.hasOwn(at, key)) return null;
    at = (at as Record<string | number, unknown>)[key];
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

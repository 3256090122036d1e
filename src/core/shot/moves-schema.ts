import * as z from 'zod';
import { type Followed, type Move, type Moves, numberAt, parseExpression, readBy } from '#core/moves';
import { inner, metaOf } from './fields';
import { type Path, valueAtPath } from './paths';

const slope = z.number().nullable().default(null);

const keySchema = z.strictObject({
  frame: z.number().min(-1e5).max(1e5),
  value: z.number().min(-1e6).max(1e6),
  /** How the curve goes on from here. */
  then: z.enum(['smooth', 'straight', 'hold']).default('smooth'),
  /** Slopes, a frame; null: chosen so that the curve does not overshoot. */
  arrive: slope,
  leave: slope,
});

const limits = z
  .tuple([z.number().min(-1e6).max(1e6), z.number().min(-1e6).max(1e6)])
  .refine(([low, high]) => low <= high, { error: 'the lower limit must not lie above the upper one' })
  .optional()
  .describe('Lowest and highest value: what the move gives beyond them is held there.');

const keysSchema = z.strictObject({
  kind: z.literal('keys'),
  limits,
  keys: z
    .array(keySchema)
    .min(1)
    .max(500)
    .superRefine((keys, context) => {
      const wrong = keys.findIndex((k, n) => n > 0 && k.frame <= (keys[n - 1]?.frame ?? 0));
      if (wrong < 0) return;
      const [a, b] = [String(keys[wrong - 1]?.frame), String(keys[wrong]?.frame)];
      context.addIssue({
        code: 'custom',
        path: [wrong, 'frame'],
        message: `keys must come in the order of their frames, each once: ${b} stands after ${a}`,
      });
    }),
});

const expressionSchema = z.strictObject({
  kind: z.literal('expression'),
  limits,
  text: z
    .string()
    .max(500)
    .superRefine((text, context) => {
      const parsed = parseExpression(text);
      if (!parsed.ok) context.addIssue({ code: 'custom', message: `column ${String(parsed.column)}: ${parsed.message}` });
    }),
});

const moveSchema = z.discriminatedUnion('kind', [keysSchema, expressionSchema]);

/** What moves the numbers of an item, by their path in it: `heat`, `shape.centre.y`. */
export const movesSchema = z
  .record(z.string(), moveSchema)
  .default({})
  .describe('Keys or expressions that move numbers of this item, by path.');

/** Paths of an object's numbers that can move; a vector gives three. */
export function movablePaths(schema: z.ZodType, prefix = ''): string[] {
  const bare = inner(schema);
  if (bare instanceof z.ZodDiscriminatedUnion) {
    return [...new Set((bare.options as unknown as z.ZodType[]).flatMap((o) => movablePaths(o, prefix)))];
  }
  if (metaOf(schema)?.moves) return bare instanceof z.ZodTuple ? ['x', 'y', 'z'].map((a) => `${prefix}${a}`) : [prefix.slice(0, -1)];
  if (!(bare instanceof z.ZodObject)) return [];
  return Object.entries(bare.shape as Record<string, z.ZodType>).flatMap(([name, field]) => movablePaths(field, `${prefix}${name}.`));
}

/** Refuses moves of what cannot move; for `superRefine` of an item's schema. */
export function checkMoves(schema: () => z.ZodType): (item: { readonly moves: Moves }, context: z.RefinementCtx) => void {
  let known: ReadonlySet<string> | null = null;
  return (item, context) => {
    const paths = Object.keys(item.moves);
    if (paths.length === 0) return;
    known ??= new Set(movablePaths(schema()));
    for (const path of paths) {
      if (!known.has(path))
        context.addIssue({ code: 'custom', path: ['moves', path], message: `there is no number "${path}" here that could move` });
    }
  };
}

/** The item that a path of the settings lies in, the path within it, and its number; null when there is none. */
function find(settings: unknown, path: string): { readonly value: number; readonly move: Move | null } | null {
  const parts = path.split(/[.[\]]+/).filter(Boolean);
  // An item of a list has its own moves; else the group has.
  const index = parts.findIndex((p) => /^\d+$/.test(p));
  const depth = index < 0 ? 1 : index + 1;
  const at: Path = parts.slice(0, depth).map((p) => (/^\d+$/.test(p) ? Number(p) : p));
  const item = valueAtPath(settings, at);
  const rest = parts.slice(depth).join('.');
  if (parts.includes('moves')) return null;
  const value = numberAt(item, rest);
  if (value === null) return null;
  return { value, move: (item as { readonly moves?: Moves }).moves?.[rest] ?? null };
}

export interface MoveMistake {
  /** In the settings: `sources[0].moves.heat`. */
  readonly path: readonly (string | number)[];
  readonly message: string;
}

const textOf = (path: readonly (string | number)[]): string =>
  path
    .map((p) => (typeof p === 'number' ? `[${String(p)}]` : `.${p}`))
    .join('')
    .slice(1);

/** Every move of the settings, with where it stands: as a path, and as it is written. */
export function allMoves(
  settings: Readonly<Record<string, unknown>>,
): { readonly path: readonly (string | number)[]; readonly text: string; readonly move: Move }[] {
  const found: { path: (string | number)[]; text: string; move: Move }[] = [];
  const look = (item: unknown, at: (string | number)[]): void => {
    const moves = (item as { readonly moves?: Moves } | null)?.moves;
    if (moves)
      for (const [path, move] of Object.entries(moves))
        found.push({ path: [...at, 'moves', path], text: textOf([...at, 'moves', path]), move });
  };
  // Groups, and the lists that are a group or lie in one.
  const lookAll = (items: unknown, at: (string | number)[]): void => {
    if (Array.isArray(items))
      items.forEach((item, n) => {
        look(item, [...at, n]);
      });
  };
  for (const [group, value] of Object.entries(settings)) {
    if (Array.isArray(value)) lookAll(value, [group]);
    else {
      look(value, [group]);
      for (const [name, inner] of Object.entries(value ?? {})) if (name !== 'moves') lookAll(inner, [group, name]);
    }
  }
  return found;
}

/** `sources[0].moves.shape.centre.y` -> `sources[0].shape.centre.y`: what the move moves, as expressions write it. */
const movedPath = (path: readonly (string | number)[]): string => textOf(path.filter((p) => p !== 'moves'));

/** What the expressions of some settings read, and what is wrong with it: settings that are not there, circles. Each move is looked at once. */
export function followedBy(settings: Readonly<Record<string, unknown>>): {
  readonly followed: Followed;
  readonly mistakes: readonly MoveMistake[];
} {
  const followed: Record<string, Followed[string]> = {};
  const mistakes: MoveMistake[] = [];
  const all = allMoves(settings);
  const byPath = new Map(all.map((m) => [movedPath(m.path), m]));
  const done = new Set<string>();
  const visit = (own: string, trail: readonly string[]): void => {
    const found = byPath.get(own);
    if (!found || done.has(own)) return;
    done.add(own);
    const way = [...trail, own];
    for (const { path: read, column } of readBy(found.move)) {
      const at = way.indexOf(read);
      if (at >= 0) {
        const circle = [...way.slice(at), read];
        mistakes.push({ path: found.path, message: `column ${String(column)}: a circle: ${circle.join(' → ')}` });
        continue;
      }
      const other = find(settings, read);
      if (!other) {
        mistakes.push({ path: found.path, message: `column ${String(column)}: there is no number "${read}" in the settings` });
        continue;
      }
      followed[read] = other;
      visit(read, way);
    }
  };
  for (const own of byPath.keys()) visit(own, []);
  return { followed, mistakes };
}

import * as z from 'zod';
import { liquidSolveSchema, isLiquid, type FieldMeta, type Path, type SolveSettings, solveSchema, valueAtPath } from '#core/shot';
import { type MovingField, splitPath } from '../moves/moves';

const DEFAULTS = [solveSchema.parse({}), liquidSolveSchema.parse({})] as const;

/** Default of a field: from its schema. */
export function defaultOf(schema: z.ZodType, path: Path): unknown {
  if (schema instanceof z.ZodDefault) return schema.parse(undefined);
  return DEFAULTS.map((d) => valueAtPath(d, path)).find((v) => v !== undefined);
}

export function acceptsNull(schema: z.ZodType): boolean {
  let s = schema;
  for (;;) {
    if (s instanceof z.ZodNullable) return true;
    if (s instanceof z.ZodDefault || s instanceof z.ZodPrefault) s = s.unwrap() as z.ZodType;
    else return false;
  }
}

/** What "none" becomes when it is set: an object's own defaults, or a value inside the limits. */
export function startValue(bare: z.ZodType, meta: FieldMeta): unknown {
  if (bare instanceof z.ZodObject) {
    const parsed = bare.safeParse({});
    return parsed.success ? parsed.data : null;
  }
  if (bare instanceof z.ZodTuple) return [0, 1, 0];
  if (bare instanceof z.ZodDiscriminatedUnion) return bare.parse({ kind: 'ball', radius: 1 });
  const start = Math.min(meta.max ?? 1, Math.max(meta.min ?? 1, 1));
  return meta.title === 'From frame' || meta.title === 'To frame' ? 1 : start;
}

/** Why a channel that could be kept is not there to be kept; null: it is. */
export function idleChannel(solve: SolveSettings, path: Path): string | null {
  if (path[0] !== 'keep' || isLiquid(solve)) return null;
  const { matter } = solve;
  const name = path[1];
  if (name === 'flame' || name === 'fuel') return matter.fire ? null : 'nothing burns';
  if (name === 'colour') return matter.colour ? null : 'not carried';
  return name === 'uvw' && !matter.coordinates ? 'not carried' : null;
}

/** What the editor of moves is opened with for a field. */
export function movingField(meta: FieldMeta, path: Path, value: unknown): MovingField {
  const { item, rest } = splitPath(path);
  const base = rest.join('.');
  return {
    title: meta.title,
    unit: meta.unit ?? 'none',
    item,
    paths: Array.isArray(value) ? ['x', 'y', 'z'].map((a) => `${base}.${a}`) : [base],
  };
}

import * as z from 'zod';
import type { Unit } from '#core/units';

/** What a form, the documentation and an error message say about a field. Attached to its schema, so that it cannot drift. */
export type FieldMeta = {
  readonly title: string;
  /** What it does, what it costs, when to change it: one line. */
  readonly help: string;
  readonly unit?: Unit;
  readonly min?: number;
  readonly max?: number;
  /** Step of the arrow keys and of dragging, in SI. */
  readonly step?: number;
  /** Steps multiply instead of adding: sizes and tolerances. */
  readonly ratio?: boolean;
  /** Names of an enumeration's values, as shown. */
  readonly names?: Readonly<Record<string, string>>;
  /** What null means, as shown. */
  readonly none?: string;
  /** Keys or an expression can move it. */
  readonly moves?: boolean;
  /** Three numbers that are a colour: red, green and blue, linear. */
  readonly colour?: boolean;
  /** Comes from a file that is picked. */
  readonly fromFile?: 'picture';
  /** Shown only in the file, not in forms. */
  readonly hidden?: boolean;
};

/** Peels defaults and nullables off a schema. */
export function inner(schema: z.ZodType): z.ZodType {
  let s = schema;
  while (s instanceof z.ZodDefault || s instanceof z.ZodPrefault || s instanceof z.ZodNullable || s instanceof z.ZodOptional) {
    s = s.unwrap() as z.ZodType;
  }
  return s;
}

export const metaOf = (schema: z.ZodType): FieldMeta | null => {
  const meta = schema.meta() as FieldMeta | undefined;
  return meta?.title === undefined ? null : meta;
};

const describe = (meta: FieldMeta): FieldMeta & { description: string } => ({ ...meta, description: meta.help });

export const number = (initial: number, meta: FieldMeta & { min: number; max: number }): z.ZodDefault<z.ZodNumber> =>
  z.number().min(meta.min).max(meta.max).default(initial).meta(describe(meta));

export const integer = (initial: number, meta: FieldMeta & { min: number; max: number }): z.ZodDefault<z.ZodNumber> =>
  z.number().int().min(meta.min).max(meta.max).default(initial).meta(describe(meta));

/** A number, or null for "none". */
export const optional = (
  initial: number | null,
  meta: FieldMeta & { min: number; max: number; none: string },
): z.ZodDefault<z.ZodNullable<z.ZodNumber>> => z.number().min(meta.min).max(meta.max).nullable().default(initial).meta(describe(meta));

export const optionalInteger = (
  initial: number | null,
  meta: FieldMeta & { min: number; max: number; none: string },
): z.ZodDefault<z.ZodNullable<z.ZodNumber>> =>
  z.number().int().min(meta.min).max(meta.max).nullable().default(initial).meta(describe(meta));

export const choice = <const T extends Readonly<Record<string, string>>>(
  initial: keyof T & string,
  names: T,
  meta: Omit<FieldMeta, 'names'>,
): z.ZodDefault<z.ZodEnum<{ [K in keyof T & string]: K }>> =>
  z
    .enum(Object.keys(names) as [keyof T & string, ...(keyof T & string)[]])
    .default(initial as never)
    .meta(describe({ ...meta, names }));

export const flag = (initial: boolean, meta: FieldMeta): z.ZodDefault<z.ZodBoolean> => z.boolean().default(initial).meta(describe(meta));

type Triple = [number, number, number];
const component = (meta: { min: number; max: number }): z.ZodNumber => z.number().min(meta.min).max(meta.max);

export const vector = (
  initial: Triple,
  meta: FieldMeta & { min: number; max: number },
): z.ZodDefault<z.ZodTuple<[z.ZodNumber, z.ZodNumber, z.ZodNumber], null>> =>
  z
    .tuple([component(meta), component(meta), component(meta)])
    .default(initial)
    .meta(describe(meta));

export const optionalVector = (
  initial: Triple | null,
  meta: FieldMeta & { min: number; max: number; none: string },
): z.ZodDefault<z.ZodNullable<z.ZodTuple<[z.ZodNumber, z.ZodNumber, z.ZodNumber], null>>> =>
  z
    .tuple([component(meta), component(meta), component(meta)])
    .nullable()
    .default(initial)
    .meta(describe(meta));

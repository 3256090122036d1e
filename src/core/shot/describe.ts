import * as z from 'zod';
import { formatQuantity } from '#core/units';
import { type FieldMeta, inner, metaOf } from './fields';
import { type Difference, differences } from './canonical';
import { passesSchema } from './passes-schema';
import { type Settings, solveOf } from './settings';
import { liquidSolveSchema } from './liquid-settings';
import { isSolveKind } from './solve';
import { solveSchema } from './solve-settings';

/** What is said about the setting at a path of the solve's sheet, such as `sources[0].noise.size`, or of the passes, such as `passes[1].settings.width`. */
export function metaAt(path: string): FieldMeta | null {
  let meta: FieldMeta | null = null;
  // More than one: kinds of items or passes, as long as all could have the path.
  let schemas: z.ZodType[] = [solveSchema, liquidSolveSchema, passesOnly];
  for (const part of path.split(/[.[\]]+/).filter(Boolean)) {
    schemas = schemas.flatMap((schema): z.ZodType[] => fieldsOf(inner(schema), part));
    if (schemas.length === 0) return meta;
    meta = schemas.map(metaOf).find((m) => m !== null) ?? meta;
  }
  return meta;
}

const passesOnly = z.object({ passes: passesSchema });

function fieldsOf(schema: z.ZodType, part: string): z.ZodType[] {
  if (schema instanceof z.ZodArray) return [schema.element as z.ZodType];
  if (schema instanceof z.ZodDiscriminatedUnion) return (schema.options as unknown as z.ZodType[]).flatMap((o) => fieldsOf(o, part));
  if (!(schema instanceof z.ZodObject)) return [];
  const field = (schema.shape as Record<string, z.ZodType>)[part];
  return field ? [field] : [];
}

/** A setting's value as a person reads it. */
export function showValue(value: unknown, meta: FieldMeta | null): string {
  if (value === null) return meta?.none ?? 'none';
  if (typeof value === 'number') return formatQuantity(value, meta?.unit ?? 'none');
  if (typeof value === 'boolean') return value ? 'on' : 'off';
  if (typeof value === 'string') return meta?.names?.[value] ?? value;
  if (Array.isArray(value) && value.every((v) => typeof v === 'number')) {
    const numbers = value.map((v) => formatQuantity(v, meta?.unit ?? 'none', { bare: true })).join(', ');
    const symbol = formatQuantity(0, meta?.unit ?? 'none').replace(/^-?[\d.]+ ?/, '');
    return symbol ? `${numbers} ${symbol}` : numbers;
  }
  return 'changed';
}

/** `Voxel size 0.1 m -> 0.08 m` */
export function showDifference(d: Difference): string {
  // A whole thing came or went: its name says more than its path.
  const named = (v: unknown): string | null =>
    typeof v === 'object' && v !== null && typeof (v as { name?: unknown }).name === 'string' ? (v as { name: string }).name : null;
  if (d.from === null && named(d.to) !== null) return `${named(d.to) ?? ''} added`;
  if (d.to === null && named(d.from) !== null) return `${named(d.from) ?? ''} taken out`;
  if (d.path === 'passes') return `Order of the passes: ${String(d.to)}`;
  const meta = metaAt(d.path);
  const index = /\[(\d+)\]/.exec(d.path);
  const place = d.pass !== undefined ? `${d.pass}: ` : index ? `${d.path.split('[')[0] ?? ''} ${String(Number(index[1]) + 1)}: ` : '';
  return `${place}${meta?.title ?? d.path} ${showValue(d.from, meta)} → ${showValue(d.to, meta)}`;
}

/** What differs between two settings: of the solve and its scene by the paths of its sheet, of the passes by theirs. */
export const settingsDifferences = (from: Settings, to: Settings): Difference[] => [
  ...differences(solveOf(from), solveOf(to)),
  ...differences({ passes: listed(from) }, { passes: listed(to) }).map((d) => {
    const name = to.passes[Number(/^passes\[(\d+)\]\./.exec(d.path)?.[1] ?? -1)]?.name;
    return name === undefined ? d : { ...d, pass: name };
  }),
];
const listed = ({ passes }: Settings): unknown[] => passes.map((p) => (isSolveKind(p.kind) ? { ...p, settings: null } : p));

/** Name of a new variant, from what changed against its parent. */
export function variantName(changes: readonly Difference[], taken: readonly string[]): string {
  const first = changes[0];
  const meta = first ? metaAt(first.path) : null;
  const more = changes.length > 1 ? ` and ${String(changes.length - 1)} more` : '';
  const text = first ? showDifference(first) : '';
  const whole = /(^Order of the passes| added$| taken out$)/.test(text) ? text : null;
  const base = first ? `${whole ?? `${meta?.title ?? first.path} ${showValue(first.to, meta)}`}${more}` : 'Copy';
  let name = base.slice(0, 70);
  for (let n = 2; taken.includes(name); n++) name = `${base.slice(0, 66)} (${String(n)})`;
  return name;
}

import { z } from 'zod';
import { formatQuantity } from '#core/units';
import { type FieldMeta, inner, metaOf } from './fields';
import type { Difference } from './canonical';
import { settingsSchema } from './settings';

/** What is said about the setting at a path such as `sources[0].noise.size`. */
export function metaAt(path: string): FieldMeta | null {
  let schema: z.ZodType = settingsSchema;
  let meta: FieldMeta | null = null;
  for (const part of path.split(/[.[\]]+/).filter(Boolean)) {
    const s = inner(schema);
    if (s instanceof z.ZodArray) schema = s.element as z.ZodType;
    else if (s instanceof z.ZodObject) schema = (s.shape as Record<string, z.ZodType>)[part] ?? z.never();
    else if (s instanceof z.ZodDiscriminatedUnion) {
      const options = s.options as unknown as z.ZodObject[];
      schema = options.map((o) => (o.shape as Record<string, z.ZodType>)[part]).find((o) => o !== undefined) ?? z.never();
    } else return meta;
    meta = metaOf(schema) ?? meta;
  }
  return meta;
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
  const meta = metaAt(d.path);
  const index = /\[(\d+)\]/.exec(d.path);
  const place = index ? `${d.path.split('[')[0] ?? ''} ${String(Number(index[1]) + 1)}: ` : '';
  return `${place}${meta?.title ?? d.path} ${showValue(d.from, meta)} → ${showValue(d.to, meta)}`;
}

/** Name of a new variant, from what changed against its parent. */
export function variantName(changes: readonly Difference[], taken: readonly string[]): string {
  const first = changes[0];
  const meta = first ? metaAt(first.path) : null;
  const more = changes.length > 1 ? ` and ${String(changes.length - 1)} more` : '';
  const text = first ? showDifference(first) : '';
  const whole = / (added|taken out)$/.test(text) ? text : null;
  const base = first ? `${whole ?? `${meta?.title ?? first.path} ${showValue(first.to, meta)}`}${more}` : 'Copy';
  let name = base.slice(0, 70);
  for (let n = 2; taken.includes(name); n++) name = `${base.slice(0, 66)} (${String(n)})`;
  return name;
}

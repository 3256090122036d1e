import type { ReactElement, ReactNode } from 'react';
import type * as z from 'zod';
import { inner, settingAt } from '#core/shot';
import { useSheet } from '#web/state';
import { ChoiceControl } from './controls';
import { FieldRow, type FieldProps, usePut } from './field-row';

export interface ShownShape {
  readonly kind: string;
  readonly seconds?: number;
  readonly content?: string;
  readonly pick?: string;
}

const kindsOf = (schema: z.ZodType): Map<string, z.ZodObject> => {
  const options = (inner(schema) as z.ZodDiscriminatedUnion).options as unknown as z.ZodObject[];
  return new Map(options.map((o) => [String((o.shape['kind'] as z.ZodLiteral).value), o]));
};

/** Fields of a shape as it is. */
export const fieldsOfShape = (schema: z.ZodType, shape: ShownShape): z.ZodObject | null => kindsOf(schema).get(shape.kind) ?? null;

/** Settings that mean nothing for what a file holds. */
export function idleOfShape({ kind, seconds, content, pick }: ShownShape): string[] {
  if (kind !== 'mesh') return [];
  return [
    ...(seconds === 0 ? ['starts', 'pace'] : []),
    ...(content === 'points' ? ['insideOut'] : ['pointRadius', 'pick']),
    ...(content === 'points' && pick !== 'all' ? [] : ['above']),
  ];
}

/** Kind of a shape. What kinds share is kept when the kind changes. */
export function ShapeRow({ meta, schema, path, none }: FieldProps & { none: ReactNode }): ReactElement {
  const change = usePut();
  const value = useSheet((s) => settingAt(s.settings, path)) as ShownShape;
  const become = (kind: string): void => {
    const target = kindsOf(schema).get(kind);
    if (!target) return;
    change(path, { ...Object.fromEntries(Object.entries(value).filter(([k]) => k !== 'kind' && k in target.shape)), kind });
  };
  // What comes from a file is imported, not chosen.
  const names = Object.keys(meta.names ?? {}).filter((k) => k !== 'mesh' || value.kind === 'mesh');
  return (
    <FieldRow meta={meta} schema={schema} path={path} none={none}>
      <ChoiceControl meta={meta} value={value.kind} changed={false} names={names} onChange={become} />
    </FieldRow>
  );
}

import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Tooltip from '@mui/material/Tooltip';
import type { ReactElement, ReactNode } from 'react';
import * as z from 'zod';
import { type Path, canonicalJson, defaultLimit, inner, metaOf, settingAt, solveOf } from '#core/shot';
import { useSheet, useSolve } from '#web/state';
import { useColours } from '#web/ui';
import { ChoiceControl, NumberControl, SwitchControl, TripleControl } from './controls';
import { type FieldProps, FieldRow, SmallIcon, usePut } from './field-row';
import { acceptsNull, idleChannel, startValue } from './field-values';
import { MaskPicture, pickMask } from './mask-picture';
import { ShapeRow, type ShownShape, fieldsOfShape, idleOfShape } from './shape-row';
import { WallsBox } from './walls-box';

/** Every field of an object of settings, by its schema: what it is called, explained, limited and reset to comes from there. */
export function Fields({ schema, path, skip = [] }: { schema: z.ZodObject; path: Path; skip?: readonly string[] }): ReactElement {
  const shape = schema.shape as Record<string, z.ZodType>;
  return (
    <>
      {Object.entries(shape)
        .filter(([name, field]) => !skip.includes(name) && metaOf(field)?.hidden !== true)
        .map(([name, field]) => (
          <Field key={name} schema={field} path={[...path, name]} />
        ))}
    </>
  );
}

function Field({ schema, path }: { schema: z.ZodType; path: Path }): ReactElement | null {
  const change = usePut();
  const value = useSheet((s) => settingAt(s.settings, path));
  const meta = metaOf(schema);
  const bare = inner(schema);
  if (!meta) return bare instanceof z.ZodObject ? <Fields schema={bare} path={path} /> : null;
  const field = { meta, schema, path };
  const nullable = acceptsNull(schema);
  if (nullable && value === null) return <UnsetField {...field} />;
  const none = nullable && meta.none !== undefined && (
    <SmallIcon
      title={`Set to: ${meta.none}`}
      label={`${meta.title}: ${meta.none}`}
      icon="close"
      size={12}
      onClick={() => change(path, null)}
    />
  );
  if (bare instanceof z.ZodDiscriminatedUnion) {
    const shape = value as ShownShape;
    const fields = fieldsOfShape(schema, shape);
    return (
      <>
        <ShapeRow {...field} none={none} />
        {fields && <Fields schema={fields} path={path} skip={['kind', ...idleOfShape(shape)]} />}
      </>
    );
  }
  if (bare instanceof z.ZodObject) return path.join('.') === 'bounds.walls' ? <WallsBox meta={meta} /> : <Group {...field} none={none} />;
  return <Value {...field} none={none} />;
}

/** Boxes of the shot: they begin around what is in it. */
const isBox = (path: Path): boolean => path.join('.') === 'bounds.limit' || path[path.length - 1] === 'crop';

/** What is not set: what that means, and a button that sets it. */
function UnsetField(field: FieldProps): ReactElement {
  const c = useColours();
  const change = usePut();
  const { meta, schema, path } = field;
  const bare = inner(schema);
  const set = (): void => {
    if (meta.fromFile === 'picture') pickMask((picked) => change(path, (bare as z.ZodObject).parse(picked)));
    else change(path, isBox(path) ? defaultLimit(solveOf(useSheet.getState().settings)) : startValue(bare, meta));
  };
  return (
    <FieldRow {...field}>
      <span style={{ color: c.dim, fontSize: 12.5, whiteSpace: 'nowrap' }}>{meta.none}</span>
      <Button size="small" color="inherit" aria-label={`${meta.title}: set`} onClick={set} sx={{ minWidth: 0, py: 0, fontSize: 12 }}>
        {meta.fromFile ? 'Pick…' : 'Set'}
      </Button>
    </FieldRow>
  );
}

/** A number, a choice, a switch, three numbers. */
function Value({ none, ...field }: FieldProps & { none: ReactNode }): ReactElement | null {
  const change = usePut();
  const { meta, schema, path } = field;
  const value = useSheet((s) => settingAt(s.settings, path));
  const base = useSheet((s) => settingAt(s.base, path));
  const idle = useSolve((s) => idleChannel(s, path));
  // Of a thing that is new as a whole nothing is marked.
  const changed = base !== undefined && canonicalJson(base) !== canonicalJson(value);
  const bare = inner(schema);
  const put = (v: unknown): void => change(path, v);
  if (bare instanceof z.ZodNumber) {
    return (
      <FieldRow {...field} none={none} numeric={path[0] !== 'passes'}>
        <NumberControl meta={meta} value={Number(value)} changed={changed} integer={bare.format === 'safeint'} onChange={put} />
      </FieldRow>
    );
  }
  if (bare instanceof z.ZodEnum) {
    return (
      <FieldRow {...field}>
        <ChoiceControl meta={meta} value={String(value)} changed={changed} onChange={put} />
      </FieldRow>
    );
  }
  if (bare instanceof z.ZodBoolean) {
    return (
      <FieldRow {...field}>
        <SwitchControl meta={meta} value={value === true} idle={idle} onChange={put} />
      </FieldRow>
    );
  }
  if (bare instanceof z.ZodTuple) {
    return (
      <FieldRow {...field} none={none} stacked>
        <TripleControl
          meta={meta}
          value={value as readonly number[]}
          changed={changed}
          onPart={(n, v) => change([...path, n], v)}
          onColour={put}
        />
      </FieldRow>
    );
  }
  return null;
}

/** An object of settings under its own heading. */
function Group({ meta, schema, path, none }: FieldProps & { none: ReactNode }): ReactElement {
  const c = useColours();
  const change = usePut();
  const value = useSheet((s) => settingAt(s.settings, path));
  return (
    <Box sx={{ mt: 0.75, pt: 0.5, borderTop: `1px solid ${c.line}` }}>
      <Box sx={{ display: 'flex', alignItems: 'center', fontWeight: 600, fontSize: 12.5 }}>
        <Tooltip title={meta.help} placement="right">
          <span tabIndex={0} style={{ cursor: 'help' }}>
            {meta.title}
          </span>
        </Tooltip>
        {none}
      </Box>
      {meta.fromFile === 'picture' && <MaskPicture mask={value as never} onChange={(mask) => change(path, mask)} />}
      <Fields schema={inner(schema) as z.ZodObject} path={path} />
    </Box>
  );
}

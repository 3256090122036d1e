import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import IconButton from '@mui/material/IconButton';
import MenuItem from '@mui/material/MenuItem';
import Select from '@mui/material/Select';
import Switch from '@mui/material/Switch';
import Tooltip from '@mui/material/Tooltip';
import type { ReactElement, ReactNode } from 'react';
import { z } from 'zod';
import { colourOfHex, hexOf } from '#core/look';
import {
  type FieldMeta,
  type Path,
  type Settings,
  canonicalJson,
  defaultLimit,
  inner,
  metaOf,
  putAtPath,
  settingsSchema,
  valueAtPath,
} from '#core/shot';
import { useSheet } from '#web/state';
import { Icon, NumberField, useColours } from '#web/ui';
import { useBench } from '../bench-context';
import { MaskPicture, pickMask } from './mask-picture';
import { type MovingField, moveAt, splitPath } from '../moves/moves';
import { CLEAR_SLOT, CONTROL } from './sheet-layout';
import { WallsBox } from './walls-box';

/** A settings change at a path; what comes out is validated by the sheet. */
function usePut(): (path: Path, next: unknown) => void {
  const edit = useSheet((s) => s.edit);
  return (path, next) => void edit((s) => putAtPath(s, path, next) as Settings);
}

const defaults = settingsSchema.parse({});

/** Default of a field: from its schema. */
function defaultOf(schema: z.ZodType, path: Path): unknown {
  if (schema instanceof z.ZodDefault) return schema.parse(undefined);
  return valueAtPath(defaults, path);
}

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

function Row({
  meta,
  schema,
  path,
  children,
  none = null,
  stacked = false,
  numeric = false,
}: {
  meta: FieldMeta;
  schema: z.ZodType;
  path: Path;
  children: ReactNode;
  /** Takes the value away. */
  none?: ReactNode;
  stacked?: boolean;
  /** Three values of it can be tried side by side. */
  numeric?: boolean;
}): ReactElement {
  const { tryThree, makeMove } = useBench();
  const c = useColours();
  const change = usePut();
  const value = useSheet((s) => valueAtPath(s.settings, path));
  const moving = meta.moves === true && value !== null ? movingField(meta, path, value) : null;
  const moves = useSheet((s) => moving?.paths.some((p) => moveAt(s.settings, moving.item, p) !== null) ?? false);
  const initial = defaultOf(schema, path);
  const isDefault = initial === undefined || canonicalJson(initial) === canonicalJson(value);
  return (
    <Box
      sx={{
        display: 'flex',
        flexDirection: stacked ? 'column' : 'row',
        alignItems: stacked ? 'stretch' : 'center',
        gap: stacked ? 0.4 : 1,
        py: 0.4,
        minHeight: 30,
        '& .on-hover': { opacity: 0 },
        '&:hover .on-hover, & .on-hover:focus-visible': { opacity: 1 },
      }}
    >
      <Box sx={{ flex: 1, minWidth: 0, display: 'flex', alignItems: 'center', gap: 0.25 }}>
        <Tooltip title={meta.help} placement="right">
          <span
            tabIndex={0}
            style={{
              cursor: 'help',
              borderBottom: `1px dotted ${c.line}`,
              overflow: 'hidden',
              textOverflow: 'ellipsis',
              whiteSpace: 'nowrap',
            }}
          >
            {meta.title}
          </span>
        </Tooltip>
        {!isDefault && (
          <Tooltip title="Back to the default">
            <IconButton
              size="small"
              aria-label={`${meta.title}: back to the default`}
              onClick={() => {
                change(path, initial);
              }}
              sx={{ p: 0.25, color: c.dim }}
            >
              <Icon name="reset" size={12} />
            </IconButton>
          </Tooltip>
        )}
        {moving && (
          <Tooltip title={moves ? 'Animated: open its curve' : 'Animate: keys or an expression'}>
            <IconButton
              className={moves ? '' : 'on-hover'}
              size="small"
              aria-label={`${meta.title}: ${moves ? 'its curve' : 'make it move'}`}
              onClick={() => {
                makeMove(moving);
              }}
              sx={{ p: 0.25, color: moves ? c.selected : c.dim }}
            >
              <Icon name="curve" size={14} />
            </IconButton>
          </Tooltip>
        )}
        {numeric && (
          <Tooltip title="Try three values, side by side">
            <IconButton
              className="on-hover"
              size="small"
              aria-label={`${meta.title}: try three values`}
              onClick={() => {
                tryThree(path);
              }}
              sx={{ p: 0.25, color: c.dim }}
            >
              <Icon name="three" size={13} />
            </IconButton>
          </Tooltip>
        )}
      </Box>
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 0.5 }}>
        {children}
        <Box sx={{ width: CLEAR_SLOT, flex: 'none', display: 'flex', justifyContent: 'center' }}>{none}</Box>
      </Box>
    </Box>
  );
}

/** What the editor of moves is opened with for a field. */
function movingField(meta: FieldMeta, path: Path, value: unknown): MovingField {
  const { item, rest } = splitPath(path);
  const base = rest.join('.');
  return {
    title: meta.title,
    unit: meta.unit ?? 'none',
    item,
    paths: Array.isArray(value) ? ['x', 'y', 'z'].map((a) => `${base}.${a}`) : [base],
  };
}

function Field({ schema, path }: { schema: z.ZodType; path: Path }): ReactElement | null {
  const c = useColours();
  const change = usePut();
  const value = useSheet((s) => valueAtPath(s.settings, path));
  const base = useSheet((s) => valueAtPath(s.base, path));
  const idle = useSheet((s) => idleChannel(s.settings, path));
  const meta = metaOf(schema);
  const bare = inner(schema);
  if (!meta) return bare instanceof z.ZodObject ? <Fields schema={bare} path={path} /> : null;
  const changed = canonicalJson(base) !== canonicalJson(value);
  const nullable = acceptsNull(schema);
  const numeric = { unit: meta.unit ?? 'none', min: meta.min, max: meta.max, step: meta.step, ratio: meta.ratio, changed } as const;

  if (nullable && value === null) {
    return (
      <Row meta={meta} schema={schema} path={path}>
        <span style={{ color: c.dim, fontSize: 12.5, whiteSpace: 'nowrap' }}>{meta.none}</span>
        <SmallButton
          title={`${meta.title}: set`}
          onClick={() => {
            if (meta.fromFile === 'picture') {
              pickMask((picked) => {
                change(path, (bare as z.ZodObject).parse(picked));
              });
              return;
            }
            change(path, path.join('.') === 'bounds.limit' ? defaultLimit(useSheet.getState().settings) : startValue(bare, meta));
          }}
        >
          {meta.fromFile ? 'Pick…' : 'Set'}
        </SmallButton>
      </Row>
    );
  }
  const none = nullable && meta.none !== undefined && (
    <Tooltip title={`Set to: ${meta.none}`}>
      <IconButton
        size="small"
        aria-label={`${meta.title}: ${meta.none}`}
        onClick={() => {
          change(path, null);
        }}
        sx={{ p: 0.25, color: c.dim }}
      >
        <Icon name="close" size={12} />
      </IconButton>
    </Tooltip>
  );
  if (bare instanceof z.ZodDiscriminatedUnion) return <ShapeField schema={schema} path={path} meta={meta} none={none} />;
  if (bare instanceof z.ZodNumber) {
    return (
      <Row meta={meta} schema={schema} path={path} none={none} numeric>
        <NumberField
          label={meta.title}
          value={Number(value)}
          {...numeric}
          width={CONTROL}
          integer={bare.format === 'safeint'}
          onChange={(v) => {
            change(path, v);
          }}
        />
      </Row>
    );
  }
  if (bare instanceof z.ZodEnum) {
    return (
      <Row meta={meta} schema={schema} path={path}>
        <Select
          value={String(value)}
          inputProps={{ 'aria-label': meta.title }}
          onChange={(e) => {
            change(path, e.target.value);
          }}
          sx={{ minWidth: CONTROL, bgcolor: c.page, '& fieldset': { borderColor: changed ? c.selected : c.line } }}
        >
          {Object.keys(meta.names ?? {}).map((k) => (
            <MenuItem key={k} value={k}>
              {meta.names?.[k]}
            </MenuItem>
          ))}
        </Select>
      </Row>
    );
  }
  if (bare instanceof z.ZodBoolean) {
    return (
      <Row meta={meta} schema={schema} path={path}>
        {idle !== null && <span style={{ color: c.dim, fontSize: 12.5 }}>{idle}</span>}
        <Switch
          size="small"
          color="secondary"
          disabled={idle !== null}
          checked={value === true && idle === null}
          sx={{ mr: '-6px' }}
          slotProps={{ input: { 'aria-label': meta.title } }}
          onChange={(e) => {
            change(path, e.target.checked);
          }}
        />
      </Row>
    );
  }
  if (bare instanceof z.ZodTuple && meta.colour) {
    const colour = value as [number, number, number];
    return (
      <Row meta={meta} schema={schema} path={path} stacked>
        <Box sx={{ display: 'flex', gap: 0.5, alignItems: 'center', flex: 1 }}>
          <input
            type="color"
            aria-label={`${meta.title}: pick`}
            value={hexOf(colour)}
            onChange={(e) => {
              change(path, colourOfHex(e.target.value));
            }}
            style={{
              width: 34,
              height: 24,
              padding: 0,
              border: `1px solid ${changed ? c.selected : c.line}`,
              borderRadius: 4,
              background: c.page,
            }}
          />
          {['red', 'green', 'blue'].map((part, n) => (
            <NumberField
              key={part}
              label={`${meta.title}, ${part}`}
              value={colour[n] ?? 0}
              {...numeric}
              width="fill"
              onChange={(v) => {
                change([...path, n], v);
              }}
            />
          ))}
        </Box>
      </Row>
    );
  }
  if (bare instanceof z.ZodTuple) {
    const triple = value as readonly number[];
    return (
      <Row meta={meta} schema={schema} path={path} none={none} stacked>
        <Box sx={{ display: 'flex', gap: 0.5, alignItems: 'center', flex: 1 }}>
          {['x', 'y', 'z'].map((axis, n) => (
            <NumberField
              key={axis}
              label={`${meta.title} ${axis}`}
              value={triple[n] ?? 0}
              {...numeric}
              width="fill"
              onChange={(v) => {
                change([...path, n], v);
              }}
            />
          ))}
        </Box>
      </Row>
    );
  }
  if (bare instanceof z.ZodObject && path.join('.') === 'bounds.walls') {
    return <WallsBox meta={meta} />;
  }
  if (bare instanceof z.ZodObject) {
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
        {meta.fromFile === 'picture' && (
          <MaskPicture
            mask={value as never}
            onChange={(mask) => {
              change(path, mask);
            }}
          />
        )}
        <Fields schema={bare} path={path} />
      </Box>
    );
  }
  return null;
}

const SmallButton = ({ title, onClick, children }: { title: string; onClick: () => void; children: ReactNode }): ReactElement => (
  <Button size="small" color="inherit" aria-label={title} onClick={onClick} sx={{ minWidth: 0, py: 0, fontSize: 12 }}>
    {children}
  </Button>
);

/** Why a channel that could be kept is not there to be kept; null: it is. */
function idleChannel({ matter }: Settings, path: Path): string | null {
  if (path[0] !== 'keep') return null;
  const name = path[1];
  if (name === 'flame' || name === 'fuel') return matter.fire ? null : 'nothing burns';
  if (name === 'colour') return matter.colour ? null : 'not carried';
  return name === 'uvw' && !matter.coordinates ? 'not carried' : null;
}

function acceptsNull(schema: z.ZodType): boolean {
  let s = schema;
  for (;;) {
    if (s instanceof z.ZodNullable) return true;
    if (s instanceof z.ZodDefault || s instanceof z.ZodPrefault) s = s.unwrap() as z.ZodType;
    else return false;
  }
}

/** What "none" becomes when it is set: an object's own defaults, or a value inside the limits. */
function startValue(bare: z.ZodType, meta: FieldMeta): unknown {
  if (bare instanceof z.ZodObject) {
    const parsed = bare.safeParse({});
    return parsed.success ? parsed.data : null;
  }
  if (bare instanceof z.ZodTuple) return [0, 1, 0];
  if (bare instanceof z.ZodDiscriminatedUnion) return bare.parse({ kind: 'ball', radius: 1 });
  const start = Math.min(meta.max ?? 1, Math.max(meta.min ?? 1, 1));
  return meta.title === 'From frame' || meta.title === 'To frame' ? 1 : start;
}

interface ShownShape {
  readonly kind: string;
  readonly seconds?: number;
  readonly content?: string;
  readonly pick?: string;
}

/** Settings that mean nothing for what a file holds. */
function idleOfShape({ kind, seconds, content, pick }: ShownShape): string[] {
  if (kind !== 'mesh') return [];
  return [
    ...(seconds === 0 ? ['starts', 'pace'] : []),
    ...(content === 'points' ? ['insideOut'] : ['pointRadius', 'pick']),
    ...(content === 'points' && pick !== 'all' ? [] : ['above']),
  ];
}

/** Kind of a shape, and the fields of that kind. What kinds share is kept when the kind changes. */
function ShapeField({ schema, path, meta, none }: { schema: z.ZodType; path: Path; meta: FieldMeta; none: ReactNode }): ReactElement {
  const c = useColours();
  const change = usePut();
  const value = useSheet((s) => valueAtPath(s.settings, path)) as ShownShape;
  const union = inner(schema) as z.ZodDiscriminatedUnion;
  const options = union.options as unknown as z.ZodObject[];
  const kindOf = (o: z.ZodObject): string => String(((o.shape as Record<string, z.ZodType>)['kind'] as z.ZodLiteral).value);
  const current = options.find((o) => kindOf(o) === value.kind);
  const become = (kind: string): void => {
    const target = options.find((o) => kindOf(o) === kind);
    if (!target) return;
    const shared = Object.fromEntries(Object.entries(value).filter(([k]) => k !== 'kind' && k in target.shape));
    change(path, { ...shared, kind });
  };
  return (
    <>
      <Row meta={meta} schema={schema} path={path} none={none}>
        <Select
          value={value.kind}
          inputProps={{ 'aria-label': meta.title }}
          onChange={(e) => {
            become(e.target.value);
          }}
          sx={{ minWidth: CONTROL, bgcolor: c.page, '& fieldset': { borderColor: c.line } }}
        >
          {Object.entries(meta.names ?? {})
            // What comes from a file is imported, not chosen.
            .filter(([k]) => k !== 'mesh' || value.kind === 'mesh')
            .map(([k, title]) => (
              <MenuItem key={k} value={k}>
                {title}
              </MenuItem>
            ))}
        </Select>
      </Row>
      {current && <Fields schema={current} path={path} skip={['kind', ...idleOfShape(value)]} />}
    </>
  );
}

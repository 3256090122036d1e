import Box from '@mui/material/Box';
import MenuItem from '@mui/material/MenuItem';
import Select from '@mui/material/Select';
import Switch from '@mui/material/Switch';
import type { ReactElement } from 'react';
import { colourOfHex, hexOf } from '#core/look';
import type { FieldMeta } from '#core/shot';
import { NumberField, useColours } from '#web/ui';
import { CONTROL } from './sheet-layout';

interface ControlProps<T> {
  readonly meta: FieldMeta;
  readonly value: T;
  /** Differs from what the draft began with. */
  readonly changed: boolean;
}

const limits = (meta: FieldMeta, changed: boolean) =>
  ({ unit: meta.unit ?? 'none', min: meta.min, max: meta.max, step: meta.step, ratio: meta.ratio, changed }) as const;

export function NumberControl({
  meta,
  value,
  changed,
  integer,
  onChange,
}: ControlProps<number> & { integer: boolean; onChange: (v: number) => void }): ReactElement {
  return <NumberField label={meta.title} value={value} {...limits(meta, changed)} width={CONTROL} integer={integer} onChange={onChange} />;
}

export function ChoiceControl({
  meta,
  value,
  changed,
  names = Object.keys(meta.names ?? {}),
  onChange,
}: ControlProps<string> & { names?: readonly string[]; onChange: (v: string) => void }): ReactElement {
  const c = useColours();
  return (
    <Select
      value={value}
      inputProps={{ 'aria-label': meta.title }}
      onChange={(e) => onChange(e.target.value)}
      sx={{ minWidth: CONTROL, bgcolor: c.page, '& fieldset': { borderColor: changed ? c.selected : c.line } }}
    >
      {names.map((k) => (
        <MenuItem key={k} value={k}>
          {meta.names?.[k]}
        </MenuItem>
      ))}
    </Select>
  );
}

/** On or off; why it cannot be on is said beside it. */
export function SwitchControl({
  meta,
  value,
  idle,
  onChange,
}: Omit<ControlProps<boolean>, 'changed'> & { idle: string | null; onChange: (v: boolean) => void }): ReactElement {
  const c = useColours();
  return (
    <>
      {idle !== null && <span style={{ color: c.dim, fontSize: 12.5 }}>{idle}</span>}
      <Switch
        size="small"
        color="secondary"
        disabled={idle !== null}
        checked={value && idle === null}
        sx={{ mr: '-6px' }}
        slotProps={{ input: { 'aria-label': meta.title } }}
        onChange={(e) => onChange(e.target.checked)}
      />
    </>
  );
}

/** Three numbers in a row: a place, a direction, or the parts of a colour beside its picker. */
export function TripleControl({
  meta,
  value,
  changed,
  onPart,
  onColour,
}: ControlProps<readonly number[]> & { onPart: (n: number, v: number) => void; onColour: (v: readonly number[]) => void }): ReactElement {
  const c = useColours();
  const parts = meta.colour ? [', red', ', green', ', blue'] : [' x', ' y', ' z'];
  return (
    <Box sx={{ display: 'flex', gap: 0.5, alignItems: 'center', flex: 1 }}>
      {meta.colour && (
        <input
          type="color"
          aria-label={`${meta.title}: pick`}
          value={hexOf(value as [number, number, number])}
          onChange={(e) => onColour(colourOfHex(e.target.value))}
          style={{
            width: 34,
            height: 24,
            padding: 0,
            border: `1px solid ${changed ? c.selected : c.line}`,
            borderRadius: 4,
            background: c.page,
          }}
        />
      )}
      {parts.map((part, n) => (
        <NumberField
          key={part}
          label={`${meta.title}${part}`}
          value={value[n] ?? 0}
          {...limits(meta, changed)}
          width="fill"
          onChange={(v) => onPart(n, v)}
        />
      ))}
    </Box>
  );
}

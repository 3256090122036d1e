import MenuItem from '@mui/material/MenuItem';
import Select from '@mui/material/Select';
import Slider from '@mui/material/Slider';
import type { ReactElement } from 'react';
import { CHANNEL_LOOK, KEPT_CHANNELS, type LookChannel, isTint } from '#core/look';
import { GROUNDS, type Ground, navigate, setGround, useGround } from '#web/state';
import type { SliceSetting } from '#web/viewport';

const quiet = { '& fieldset': { border: 'none' }, '& .MuiSelect-select': { py: 0.25, pl: 1, pr: '26px !important' } } as const;

/** What a slice can show instead of a channel: it is worked out from the sheet, not from a run. */
export const SHEET_SLICES = [
  ['solids', "Solids' distance"],
  ['forces', 'Forces as arrows'],
] as const;
export type SheetSlice = (typeof SHEET_SLICES)[number][0];

interface ChannelSelectProps<T extends string> {
  readonly label: string;
  readonly value: T | LookChannel;
  /** Channels that there are frames of; the others stand there and cannot be chosen. */
  readonly kept: readonly LookChannel[];
  /** Whether what colours the density can be chosen. */
  readonly tints?: boolean;
  /** What can be chosen besides. */
  readonly more?: readonly (readonly [T, string])[];
  readonly onChange: (channel: T | LookChannel) => void;
}

export function ChannelSelect<T extends string = LookChannel>({
  label,
  value,
  kept,
  tints = false,
  more,
  onChange,
}: ChannelSelectProps<T>): ReactElement {
  return (
    <Select value={value} sx={quiet} inputProps={{ 'aria-label': label }} onChange={(e) => onChange(e.target.value as T | LookChannel)}>
      {KEPT_CHANNELS.filter((k) => tints || !isTint(k)).map((k) => (
        <MenuItem key={k} value={k} disabled={!kept.includes(k)}>
          {CHANNEL_LOOK[k].title}
        </MenuItem>
      ))}
      {more?.map(([v, title]) => (
        <MenuItem key={v} value={v}>
          {title}
        </MenuItem>
      ))}
    </Select>
  );
}

/** What the viewport is drawn on. */
export function GroundSelect(): ReactElement {
  const ground = useGround();
  return (
    <Select value={ground} sx={quiet} inputProps={{ 'aria-label': 'Ground' }} onChange={(e) => setGround(e.target.value)}>
      {(Object.keys(GROUNDS) as Ground[]).map((g) => (
        <MenuItem key={g} value={g}>
          {GROUNDS[g]}
        </MenuItem>
      ))}
    </Select>
  );
}

/** The channel that is looked at is part of the address. */
export const lookAt = (channel: LookChannel): void => {
  navigate({ channel }, { replace: true });
};

type Axis = SliceSetting['axis'];

export function SliceSelect<T extends Axis | 'off'>({
  value,
  off,
  onChange,
}: {
  value: T;
  /** Whether there may be none. */
  off: boolean;
  onChange: (axis: T) => void;
}): ReactElement {
  return (
    <Select value={value} sx={quiet} inputProps={{ 'aria-label': 'Slice' }} onChange={(e) => onChange(e.target.value as T)}>
      {off && <MenuItem value="off">Slice off</MenuItem>}
      {(['x', 'y', 'z'] as const).map((axis) => (
        <MenuItem key={axis} value={axis}>
          Slice across {axis}
        </MenuItem>
      ))}
    </Select>
  );
}

export function SlicePlace({ at, onChange }: { at: number; onChange: (at: number) => void }): ReactElement {
  return (
    <Slider
      size="small"
      color="secondary"
      aria-label="Where the slice is"
      value={at}
      min={0}
      max={1}
      step={0.01}
      onChange={(_e, v) => onChange(v)}
      sx={{ width: 130 }}
    />
  );
}

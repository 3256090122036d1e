import MenuItem from '@mui/material/MenuItem';
import Select from '@mui/material/Select';
import Slider from '@mui/material/Slider';
import type { ReactElement } from 'react';
import { CHANNEL_LOOK, KEPT_CHANNELS, type LookChannel } from '#core/look';
import { navigate } from '#web/state';
import type { SliceSetting } from '#web/viewport';

const quiet = { '& fieldset': { border: 'none' }, '& .MuiSelect-select': { py: 0.25, pl: 1, pr: '26px !important' } } as const;

interface ChannelSelectProps {
  readonly label: string;
  readonly value: LookChannel;
  /** Channels that there are frames of; the others stand there and cannot be chosen. */
  readonly kept: readonly LookChannel[];
  readonly onChange: (channel: LookChannel) => void;
}

export function ChannelSelect({ label, value, kept, onChange }: ChannelSelectProps): ReactElement {
  return (
    <Select
      value={value}
      sx={quiet}
      inputProps={{ 'aria-label': label }}
      onChange={(e) => {
        onChange(e.target.value);
      }}
    >
      {KEPT_CHANNELS.map((k) => (
        <MenuItem key={k} value={k} disabled={!kept.includes(k)}>
          {CHANNEL_LOOK[k].title}
        </MenuItem>
      ))}
    </Select>
  );
}

/** The channel that is looked at is part of the address. */
export const lookAt = (channel: LookChannel): void => {
  navigate({ channel: channel === 'density' ? null : channel }, { replace: true });
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
    <Select
      value={value}
      sx={quiet}
      inputProps={{ 'aria-label': 'Slice' }}
      onChange={(e) => {
        onChange(e.target.value as T);
      }}
    >
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
      onChange={(_e, v) => {
        onChange(v);
      }}
      sx={{ width: 130 }}
    />
  );
}

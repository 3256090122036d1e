import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import MenuItem from '@mui/material/MenuItem';
import Select from '@mui/material/Select';
import Slider from '@mui/material/Slider';
import Tooltip from '@mui/material/Tooltip';
import type { ReactElement } from 'react';
import { CHANNEL_LOOK, type LookChannel, RAMPS } from '#core/look';
import { formatQuantity } from '#core/units';
import type { RunDto } from '#protocol';
import { navigate } from '#web/state';
import { Icon, useColours } from '#web/ui';
import type { SliceSetting, ViewportFrame } from '#web/viewport';

interface ViewBarProps {
  readonly run: RunDto | null;
  readonly channel: LookChannel;
  readonly slice: SliceSetting | null;
  readonly sliceChannel: LookChannel;
  readonly frame: ViewportFrame | null;
  readonly sliced: ViewportFrame | null;
  readonly onSlice: (slice: SliceSetting | null) => void;
  readonly onSliceChannel: (channel: LookChannel) => void;
  readonly onFrameAll: () => void;
}

/** What is looked at: channel, slice, framing; and what its colours mean. */
export function ViewBar({
  run,
  channel,
  slice,
  sliceChannel,
  frame,
  sliced,
  onSlice,
  onSliceChannel,
  onFrameAll,
}: ViewBarProps): ReactElement {
  const c = useColours();
  const kept: readonly LookChannel[] = run?.plan.keep.channels ?? ['density', 'temperature', 'vel'];
  const select = { '& fieldset': { border: 'none' }, '& .MuiSelect-select': { py: 0.25, pl: 1, pr: '26px !important' } } as const;
  const legend = slice ? sliced : channel === 'density' ? null : frame;
  return (
    <Box
      sx={{
        position: 'absolute',
        right: 12,
        top: 12,
        zIndex: 2,
        display: 'flex',
        flexDirection: 'column',
        alignItems: 'flex-end',
        gap: 0.75,
      }}
    >
      <Box sx={{ bgcolor: c.panel, border: `1px solid ${c.line}`, borderRadius: 1.5, display: 'flex', alignItems: 'center', pr: 0.5 }}>
        <Select
          value={channel}
          sx={select}
          inputProps={{ 'aria-label': 'Channel' }}
          onChange={(e) => {
            navigate({ channel: e.target.value === 'density' ? null : e.target.value }, { replace: true });
          }}
        >
          {(Object.keys(CHANNEL_LOOK) as LookChannel[]).map((k) => (
            <MenuItem key={k} value={k} disabled={!kept.includes(k)}>
              {CHANNEL_LOOK[k].title}
            </MenuItem>
          ))}
        </Select>
        <Select
          value={slice?.axis ?? 'off'}
          sx={select}
          inputProps={{ 'aria-label': 'Slice' }}
          onChange={(e) => {
            onSlice(e.target.value === 'off' ? null : { axis: e.target.value, at: slice?.at ?? 0.5 });
          }}
        >
          <MenuItem value="off">Slice off</MenuItem>
          <MenuItem value="x">Slice across x</MenuItem>
          <MenuItem value="y">Slice across y</MenuItem>
          <MenuItem value="z">Slice across z</MenuItem>
        </Select>
        <Tooltip title="Look at the whole limit box">
          <Button color="inherit" size="small" onClick={onFrameAll} startIcon={<Icon name="frame" size={14} />} sx={{ fontWeight: 500 }}>
            Frame all
          </Button>
        </Tooltip>
      </Box>
      {slice && (
        <Box
          sx={{
            bgcolor: c.panel,
            border: `1px solid ${c.line}`,
            borderRadius: 1.5,
            display: 'flex',
            alignItems: 'center',
            gap: 1.5,
            pr: 2,
          }}
        >
          <Select
            value={sliceChannel}
            sx={select}
            inputProps={{ 'aria-label': 'Channel of the slice' }}
            onChange={(e) => {
              onSliceChannel(e.target.value);
            }}
          >
            {(Object.keys(CHANNEL_LOOK) as LookChannel[]).map((k) => (
              <MenuItem key={k} value={k} disabled={!kept.includes(k)}>
                {CHANNEL_LOOK[k].title}
              </MenuItem>
            ))}
          </Select>
          <Slider
            size="small"
            color="secondary"
            aria-label="Where the slice is"
            value={slice.at}
            min={0}
            max={1}
            step={0.01}
            onChange={(_e, v) => {
              onSlice({ axis: slice.axis, at: v });
            }}
            sx={{ width: 130 }}
          />
        </Box>
      )}
      {legend && <Legend frame={legend} sliced={slice !== null} />}
    </Box>
  );
}

function Legend({ frame, sliced }: { frame: ViewportFrame; sliced: boolean }): ReactElement {
  const c = useColours();
  const look = CHANNEL_LOOK[frame.channel];
  const stops: readonly (readonly [number, string])[] = RAMPS[sliced && frame.channel === 'density' ? 'patina' : look.ramp];
  const gradient = stops.map(([at, colour]) => `${colour} ${String(at * 100)}%`).join(', ');
  return (
    <Box sx={{ bgcolor: c.panel, border: `1px solid ${c.line}`, borderRadius: 1.5, px: 1, py: 0.5, fontSize: 11.5, width: 210 }}>
      <Box sx={{ height: 8, borderRadius: 1, background: `linear-gradient(90deg, ${gradient})` }} />
      <Box className="mono" sx={{ display: 'flex', justifyContent: 'space-between', mt: 0.25 }}>
        <span>{formatQuantity(frame.preview.low, look.unit, { digits: 3 })}</span>
        <span style={{ color: c.dim }}>{look.title}</span>
        <span>{formatQuantity(frame.preview.high, look.unit, { digits: 3 })}</span>
      </Box>
    </Box>
  );
}

import { useSolve } from '#web/state';
import { PointsMenu } from '../liquid/points-menu';
import { type PointsPreview } from '#core/formats';
import { isLiquid } from '#core/shot';
import { channelsKept } from '../frames/channels-kept';
import Box from '@mui/material/Box';
import ToggleButton from '@mui/material/ToggleButton';
import ToggleButtonGroup from '@mui/material/ToggleButtonGroup';
import type { ReactElement } from 'react';
import { type ContactSlice, type ForceArrows } from '#core/flow';
import { CHANNEL_LOOK, type LookChannel, RAMPS, isTint } from '#core/look';
import { formatQuantity } from '#core/units';
import { useColours } from '#web/ui';
import type { HandleMode, SliceSetting, ViewportFrame } from '#web/viewport';
import { CameraMenu } from './camera-menu';
import type { CameraControls } from './cameras';
import type { ShownRun } from '../runs/shown-run';
import { ChannelSelect, GroundSelect, SHEET_SLICES, type SheetSlice, SlicePlace, SliceSelect, lookAt } from './view-controls';

interface ViewBarProps {
  readonly run: ShownRun | null;
  readonly channel: LookChannel;
  readonly slice: SliceSetting | null;
  readonly sliceChannel: LookChannel;
  readonly frame: ViewportFrame | null;
  readonly sliced: ViewportFrame | null;
  readonly onSlice: (slice: SliceSetting | null) => void;
  readonly onSliceChannel: (channel: LookChannel) => void;
  /** The slice shows something of the sheet instead. */
  readonly ofSheet: SheetSlice | null;
  readonly onOfSheet: (of: SheetSlice | null) => void;
  readonly contact: ContactSlice | null;
  readonly arrows: ForceArrows | null;
  /** Of a liquid. */
  readonly points: PointsPreview | null;
  readonly cameras: CameraControls;
  /** The selected item's handles; null when nothing is selected. */
  readonly mode: HandleMode | null;
  readonly onMode: (mode: HandleMode) => void;
  /** Whether it has a direction that can be turned. */
  readonly aims: boolean;
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
  ofSheet,
  onOfSheet,
  contact,
  arrows,
  cameras,
  mode,
  onMode,
  aims,
  points,
}: ViewBarProps): ReactElement {
  const c = useColours();
  const liquid = useSolve(isLiquid);
  const kept: readonly LookChannel[] = run ? channelsKept(run.plan) : ['density', 'temperature', 'vel'];
  const legend = slice ? (ofSheet ? null : sliced) : channel === 'density' || isTint(channel) ? null : frame;
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
        {liquid ? <PointsMenu points={points} /> : <ChannelSelect label="Channel" value={channel} kept={kept} tints onChange={lookAt} />}
        <SliceSelect
          value={slice?.axis ?? 'off'}
          off
          onChange={(axis) => onSlice(axis === 'off' ? null : { axis, at: slice?.at ?? 0.5 })}
        />
        <GroundSelect />
        <CameraMenu controls={cameras} />
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
          {liquid ? (
            <Box sx={{ pl: 1.5, fontSize: 13 }}>A slab of particles</Box>
          ) : (
            <ChannelSelect
              label="Channel of the slice"
              value={ofSheet ?? sliceChannel}
              kept={kept}
              more={SHEET_SLICES}
              onChange={(v) => {
                const sheet = SHEET_SLICES.find(([s]) => s === v)?.[0] ?? null;
                onOfSheet(sheet);
                if (!sheet) onSliceChannel(v as LookChannel);
              }}
            />
          )}
          <SlicePlace at={slice.at} onChange={(at) => onSlice({ axis: slice.axis, at })} />
        </Box>
      )}
      {mode !== null && (
        <ToggleButtonGroup
          size="small"
          exclusive
          value={mode}
          aria-label="Handles"
          onChange={(_e, v: HandleMode | null) => {
            if (v) onMode(v);
          }}
          sx={{ bgcolor: c.panel, '& button': { py: 0.2, px: 1.25, textTransform: 'none', color: c.text } }}
        >
          <ToggleButton value="move">Move</ToggleButton>
          <ToggleButton value="turn">Turn</ToggleButton>
          <ToggleButton value="size">Size</ToggleButton>
          {aims && <ToggleButton value="aim">Aim</ToggleButton>}
        </ToggleButtonGroup>
      )}
      {channel === 'uvw' && !slice && <CoordinateLegend />}
      {legend && <Legend frame={legend} sliced={slice !== null} />}
      {contact && <ContactLegend voxelSize={contact.voxelSize} />}
      {arrows && (
        <Box sx={{ bgcolor: c.panel, border: `1px solid ${c.line}`, borderRadius: 1.5, px: 1, py: 0.5, fontSize: 11.5, width: 210 }}>
          push on still air of density 1; the longest arrow is{' '}
          <b className="mono">{formatQuantity(arrows.most, 'acceleration', { digits: 3 })}</b>
        </Box>
      )}
    </Box>
  );
}

/** What the colours of texture coordinates mean. */
function CoordinateLegend(): ReactElement {
  const c = useColours();
  return (
    <Box sx={{ bgcolor: c.panel, border: `1px solid ${c.line}`, borderRadius: 1.5, px: 1, py: 0.5, fontSize: 11.5, width: 210 }}>
      where in its source's box it came from: red across, green up, blue towards the front
    </Box>
  );
}

/** What the slice of the solids' distance shows. */
function ContactLegend({ voxelSize }: { voxelSize: number }): ReactElement {
  const c = useColours();
  const entry = (colour: string, text: string): ReactElement => (
    <Box sx={{ display: 'flex', alignItems: 'center', gap: 0.75 }}>
      <Box sx={{ width: 12, height: 8, bgcolor: colour, borderRadius: 0.5 }} />
      {text}
    </Box>
  );
  return (
    <Box sx={{ bgcolor: c.panel, border: `1px solid ${c.line}`, borderRadius: 1.5, px: 1, py: 0.5, fontSize: 11.5, width: 210 }}>
      {entry(c.dim, 'inside a solid')}
      {entry(c.warning, `contact: a voxel of ${formatQuantity(voxelSize, 'metre', { digits: 3 })}`)}
      {entry(c.line, 'a line a voxel further out')}
    </Box>
  );
}

export function Legend({ frame, sliced }: { frame: ViewportFrame; sliced: boolean }): ReactElement {
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

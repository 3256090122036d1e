import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Popover from '@mui/material/Popover';
import Slider from '@mui/material/Slider';
import ToggleButton from '@mui/material/ToggleButton';
import ToggleButtonGroup from '@mui/material/ToggleButtonGroup';
import { type ReactElement, useMemo, useState } from 'react';
import type { PointsPreview } from '#core/formats';
import { RAMPS } from '#core/look';
import { formatCount, formatQuantity } from '#core/units';
import { setPointsLook, usePointsLook } from '#web/state';
import { Icon, useColours } from '#web/ui';

const BARS = 32;

/** How many particles have which speed: parts of the tallest bar. */
export function speedHistogram(speeds: Uint8Array): number[] {
  const bars = new Array<number>(BARS).fill(0);
  for (const s of speeds) bars[(s * BARS) >> 8] = (bars[(s * BARS) >> 8] ?? 0) + 1;
  const most = Math.max(1, ...bars);
  return bars.map((n) => n / most);
}

const gradient = (ramp: keyof typeof RAMPS): string =>
  `linear-gradient(90deg, ${RAMPS[ramp].map(([at, colour]) => `${colour} ${String(Math.round(at * 100))}%`).join(', ')})`;

/** How the particles are looked at: colour with its range and histogram, width, share. */
export function PointsMenu({ points }: { points: PointsPreview | null }): ReactElement {
  const c = useColours();
  const look = usePointsLook();
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const bars = useMemo(() => (points ? speedHistogram(points.speeds) : []), [points]);
  return (
    <>
      <Button
        color="inherit"
        size="small"
        aria-haspopup="dialog"
        endIcon={<Icon name="down" size={13} />}
        onClick={(e) => setAnchor(e.currentTarget)}
        sx={{ fontSize: 13, fontWeight: 400, textTransform: 'none', px: 1.25 }}
      >
        Particles
      </Button>
      <Popover
        open={anchor !== null}
        anchorEl={anchor}
        onClose={() => setAnchor(null)}
        anchorOrigin={{ vertical: 'bottom', horizontal: 'right' }}
        transformOrigin={{ vertical: 'top', horizontal: 'right' }}
        slotProps={{ paper: { role: 'dialog', 'aria-label': 'How particles are looked at', sx: { p: 1.5, width: 260, fontSize: 12.5 } } }}
      >
        <Box sx={{ mb: 0.5 }}>Drawn as</Box>
        <ToggleButtonGroup
          size="small"
          exclusive
          fullWidth
          value={look.as}
          aria-label="How particles are drawn"
          onChange={(_e, as: typeof look.as | null) => {
            if (as) setPointsLook({ as });
          }}
          sx={{ mb: 1, '& button': { py: 0.2, textTransform: 'none', color: c.text } }}
        >
          <ToggleButton value="balls">Balls</ToggleButton>
          <ToggleButton value="surface">Surface</ToggleButton>
          <ToggleButton value="lines">Velocity</ToggleButton>
        </ToggleButtonGroup>
        <Box sx={{ mb: 0.5 }}>Colour</Box>
        <ToggleButtonGroup
          size="small"
          exclusive
          fullWidth
          value={look.colour}
          aria-label="Colour of particles"
          onChange={(_e, colour: typeof look.colour | null) => {
            if (colour) setPointsLook({ colour });
          }}
          sx={{ '& button': { py: 0.2, textTransform: 'none', color: c.text } }}
        >
          <ToggleButton value="speed">By speed</ToggleButton>
          <ToggleButton value="slip">Red slip</ToggleButton>
        </ToggleButtonGroup>
        <Box sx={{ display: 'flex', alignItems: 'flex-end', height: 34, mt: 1, gap: '1px' }} role="img" aria-label="Particles by speed">
          {bars.map((part, n) => (
            <Box key={n} sx={{ flex: 1, height: `${String(Math.max(part > 0 ? 4 : 0, part * 100))}%`, bgcolor: c.fresh }} />
          ))}
        </Box>
        <Box sx={{ height: 8, borderRadius: 0.5, background: gradient(look.colour === 'speed' ? 'patina' : 'slip') }} />
        <Box className="mono" sx={{ display: 'flex', justifyContent: 'space-between', color: c.dim, fontSize: 11.5 }}>
          <span>0</span>
          <span>{points ? formatQuantity(points.fastest, 'speed', { digits: 3 }) : ''}</span>
        </Box>
        <LookSlider
          title="Width"
          value={look.size}
          min={0.3}
          max={2}
          show={(v) => `× ${v.toFixed(1)}`}
          onChange={(size) => setPointsLook({ size })}
        />
        <LookSlider
          title="Share"
          value={look.share}
          min={0.05}
          max={1}
          show={(v) => `${String(Math.round(100 * v))} %`}
          onChange={(share) => setPointsLook({ share })}
        />
        {points && (
          <Box sx={{ color: c.dim, mt: 0.5 }}>
            {points.count < points.of
              ? `${formatCount(points.count)} of ${formatCount(points.of)} are sent here; all are in the file.`
              : `${formatCount(points.of)} particles.`}
          </Box>
        )}
      </Popover>
    </>
  );
}

interface LookSliderProps {
  readonly title: string;
  readonly value: number;
  readonly min: number;
  readonly max: number;
  readonly show: (value: number) => string;
  readonly onChange: (value: number) => void;
}

function LookSlider({ title, value, min, max, show, onChange }: LookSliderProps): ReactElement {
  return (
    <Box sx={{ display: 'grid', gridTemplateColumns: '48px 1fr 44px', alignItems: 'center', columnGap: 1.25, mt: 0.75 }}>
      <span>{title}</span>
      <Slider size="small" value={value} min={min} max={max} step={0.05} aria-label={title} onChange={(_e, v) => onChange(v)} />
      <span className="mono" style={{ textAlign: 'right' }}>
        {show(value)}
      </span>
    </Box>
  );
}

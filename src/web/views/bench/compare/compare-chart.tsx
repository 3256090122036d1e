import Box from '@mui/material/Box';
import MenuItem from '@mui/material/MenuItem';
import Select from '@mui/material/Select';
import { type ReactElement, Suspense, useMemo, useState } from 'react';
import { CHANNEL_LOOK, type LookChannel } from '#core/look';
import { Chart } from '#web/plot';
import { Loading, useColours } from '#web/ui';
import { useSolve } from '#web/state';
import { solveKindOf } from '#core/shot';
import { figuresOf } from './figures';
import type { Compared } from './compare-table';
import { useDifferenceOverTime } from './difference-over-time';

interface CompareChartProps {
  readonly one: Compared;
  readonly two: Compared;
  readonly frame: number | null;
  readonly channel: LookChannel;
  readonly height: number;
}

const DIFFERENCE = 'difference';

/** Two runs' numbers over the frames, or how far their channel is apart. */
export function CompareChart({ one, two, frame, channel, height }: CompareChartProps): ReactElement {
  const c = useColours();
  const kind = solveKindOf(useSolve());
  const figures = figuresOf(kind);
  // Particles have no voxels to differ in.
  const [what, setWhat] = useState(kind === 'liquid' ? 'volume' : DIFFERENCE);
  const apart = useDifferenceOverTime(one.shown, two.shown, channel);
  const figure = figures.find((f) => f.id === what);
  const data = useMemo(() => {
    if (!figure) {
      return [
        {
          x: apart.map((p) => p.frame),
          y: apart.map((p) => p.relative * 100),
          mode: 'lines+markers',
          marker: { size: 5 },
          line: { color: c.selected },
          hovertemplate: 'frame %{x}: %{y:.1f} %<extra></extra>',
        },
      ];
    }
    const trace = (side: Compared, line: object): object => ({
      x: side.shown.frames.map((f) => f.frame),
      y: side.shown.frames.map((f) => figure.of(f.report)),
      text: side.shown.frames.map((f) => `${side.title}, frame ${String(f.frame)}: ${figure.show(figure.of(f.report))}`),
      hoverinfo: 'text',
      mode: 'lines',
      name: side.title,
      line,
    });
    return [trace(one, { color: c.fresh, width: 2 }), trace(two, { color: c.selected, width: 2, dash: 'dot' })];
  }, [figure, apart, one, two, c]);
  const layout = useMemo(
    () => ({
      xaxis: { title: { text: 'frame', standoff: 4 } },
      yaxis: { title: { text: figure ? figure.unit : '%', standoff: 4 }, rangemode: 'tozero' },
      margin: { l: 62, r: 10, t: 6, b: 34 },
      showlegend: figure !== undefined,
      legend: { orientation: 'h', x: 0, y: 1.02, yanchor: 'bottom', font: { size: 11.5 } },
      shapes:
        frame === null
          ? []
          : [{ type: 'line', x0: frame, x1: frame, yref: 'paper', y0: 0, y1: 1, line: { color: c.dim, width: 1, dash: 'dash' } }],
    }),
    [figure, frame, c],
  );
  return (
    <Box
      sx={{ minWidth: 0, minHeight: 0, borderLeft: `1px solid ${c.line}`, overflow: 'hidden' }}
      data-testid="compare-chart"
      data-points={apart.length}
    >
      <Select
        value={what}
        inputProps={{ 'aria-label': 'Number over time' }}
        onChange={(e) => setWhat(e.target.value)}
        sx={{ ml: 1, mt: 0.5, '& fieldset': { border: 'none' }, '& .MuiSelect-select': { py: 0.25, px: 1 } }}
      >
        {kind === 'gas' && <MenuItem value={DIFFERENCE}>Difference of {CHANNEL_LOOK[channel].title.toLowerCase()}</MenuItem>}
        {figures.map((f) => (
          <MenuItem key={f.id} value={f.id}>
            {f.title}
          </MenuItem>
        ))}
      </Select>
      {!figure && apart.length === 0 ? (
        <Box sx={{ color: c.dim, p: 2 }}>{one.shown.stored.size && two.shown.stored.size ? 'Working it out…' : 'No frame is in both.'}</Box>
      ) : (
        <Suspense fallback={<Loading what="Drawing" />}>
          <Chart data={data} layout={layout} height={height - 36} label={`${figure?.title ?? 'Difference'} over the frames`} />
        </Suspense>
      )}
    </Box>
  );
}

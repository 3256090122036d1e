import Box from '@mui/material/Box';
import MenuItem from '@mui/material/MenuItem';
import Select from '@mui/material/Select';
import { type ReactElement, Suspense, useMemo, useState } from 'react';
import type { PassFigure } from '#core/pass';
import { definitionOf } from '#core/passes';
import type { PassSettings } from '#core/shot';
import { UNITS } from '#core/units';
import type { PassFrameDto } from '#protocol';
import { type PassState, usePassRun, useRoute } from '#web/state';
import { Chart } from '#web/plot';
import { Loading, useColours } from '#web/ui';
import { useBench } from '../bench-context';
import { PassFindingItem } from '../findings/pass-finding-item';

const SPECTRUM = 'spectrum';
const HEIGHT = 190;

/** What a pass's run shows: findings, and its numbers over the frames; or the energy of one frame over wavenumber. */
export function PassResults({ pass, entry }: { pass: PassState; entry: PassSettings }): ReactElement | null {
  const route = useRoute();
  const run = pass.run;
  const frames = usePassRun(run?.id ?? null).data?.frames;
  const definition = definitionOf(entry.kind);
  const [what, setWhat] = useState<string>('');
  const sorted = useMemo(() => [...(frames ?? [])].sort((a, b) => a.frame - b.frame), [frames]);
  const findings = useBench().passFindings.find((f) => f.pass === pass.id)?.findings ?? [];
  const c = useColours();
  if (sorted.length === 0) return null;
  const figure = definition.figures.find((f) => f.id === what) ?? definition.figures[0];
  const spectrum = what === SPECTRUM && definition.spectra !== undefined;
  const shown = sorted.findLast((f) => route.frame === null || f.frame <= route.frame) ?? sorted[0];
  return (
    <Box sx={{ mt: 1.5, pt: 1, borderTop: `1px solid ${c.line}` }} data-testid="pass-results">
      {findings.map((f) => (
        <PassFindingItem key={f.id} finding={f} pass={pass.id} />
      ))}
      <Select
        value={spectrum ? SPECTRUM : (figure?.id ?? '')}
        inputProps={{ 'aria-label': 'Number over the frames' }}
        onChange={(e) => setWhat(e.target.value)}
        sx={{ ml: -1, '& fieldset': { border: 'none' }, '& .MuiSelect-select': { py: 0.25, px: 1, fontSize: 12.5, fontWeight: 600 } }}
      >
        {definition.figures.map((f) => (
          <MenuItem key={f.id} value={f.id}>
            {f.title}
          </MenuItem>
        ))}
        {definition.spectra && <MenuItem value={SPECTRUM}>Energy over wavenumber, this frame</MenuItem>}
      </Select>
      <Suspense fallback={<Loading what="Drawing" />}>
        {spectrum && shown ? (
          <SpectrumChart frame={shown} entry={entry} />
        ) : (
          figure && <FigureChart frames={sorted} figure={figure} at={shown?.frame ?? null} />
        )}
      </Suspense>
    </Box>
  );
}

interface FigureChartProps {
  readonly frames: readonly PassFrameDto[];
  readonly figure: PassFigure<PassFrameDto['report']>;
  readonly at: number | null;
}

function FigureChart({ frames, figure, at }: FigureChartProps): ReactElement {
  const c = useColours();
  const unit = figure.unit === 'percent' ? '%' : UNITS[figure.unit].symbol;
  const data = useMemo(
    () => [
      {
        x: frames.map((f) => f.frame),
        y: frames.map((f) => figure.of(f.report)),
        mode: 'lines',
        line: { color: c.fresh, width: 2 },
        hovertemplate: `frame %{x}: %{y:.3g} ${unit}<extra></extra>`,
      },
    ],
    [frames, figure, unit, c],
  );
  const layout = useMemo(
    () => ({
      xaxis: { title: { text: 'frame', standoff: 4 } },
      yaxis: { title: { text: unit, standoff: 4 }, rangemode: 'tozero' },
      margin: { l: 48, r: 6, t: 8, b: 36 },
      shapes:
        at === null ? [] : [{ type: 'line', x0: at, x1: at, yref: 'paper', y0: 0, y1: 1, line: { color: c.dim, width: 1, dash: 'dash' } }],
    }),
    [unit, at, c],
  );
  return <Chart data={data} layout={layout} height={HEIGHT} label={`${figure.title} over the frames`} />;
}

/** Both spectra on logarithmic axes: where the base falls off, and what was added there. */
function SpectrumChart({ frame, entry }: { frame: PassFrameDto; entry: PassSettings }): ReactElement {
  const c = useColours();
  const spectra = definitionOf(entry.kind).spectra?.(frame.report) ?? null;
  const data = useMemo(() => {
    if (!spectra) return [];
    const trace = (energy: readonly number[], name: string, line: object): object => ({
      x: energy.map((_e, n) => (n + 1) / spectra.length),
      y: energy,
      mode: 'lines',
      name,
      line,
      hovertemplate: `${name}: %{y:.2g} m²/s² at %{x:.2g} waves a metre<extra></extra>`,
    });
    return [
      trace(spectra.base, 'What it reads', { color: c.selected, width: 2, dash: 'dot' }),
      trace(spectra.fine, entry.name, { color: c.fresh, width: 2 }),
    ];
  }, [spectra, entry.name, c]);
  const layout = useMemo(
    () => ({
      xaxis: { title: { text: 'waves a metre', standoff: 4 }, type: 'log' },
      yaxis: { title: { text: 'm²/s²', standoff: 4 }, type: 'log', exponentformat: 'power' },
      margin: { l: 56, r: 6, t: 8, b: 36 },
      showlegend: true,
      legend: { orientation: 'h', x: 0, y: 1.02, yanchor: 'bottom', font: { size: 11 } },
    }),
    [],
  );
  if (!spectra)
    return (
      <Box sx={{ color: c.dim, fontSize: 12.5, py: 1 }}>
        This frame has no spectrum: its matter is fewer than 32 voxels of what it reads across the box.
      </Box>
    );
  return <Chart data={data} layout={layout} height={HEIGHT + 30} label="Energy over wavenumber" />;
}

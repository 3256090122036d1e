import Box from '@mui/material/Box';
import Dialog from '@mui/material/Dialog';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import IconButton from '@mui/material/IconButton';
import ToggleButton from '@mui/material/ToggleButton';
import ToggleButtonGroup from '@mui/material/ToggleButtonGroup';
import Tooltip from '@mui/material/Tooltip';
import { type ReactElement, Suspense, useMemo, useState } from 'react';
import { QUANTITIES, type Quantity, type RecordEntry, pairsOf, statisticsOf } from '#core/cost';
import { formatBytes, formatCount, formatSeconds } from '#core/units';
import { useCommands } from '#web/commands';
import { Chart } from '#web/plot';
import { useEvidence } from '#web/state';
import { type Colours, Empty, Icon, Loading, useColours } from '#web/ui';

const NAMES: Readonly<Record<Quantity, { title: string; show: (v: number) => string }>> = {
  time: { title: 'Time', show: formatSeconds },
  memory: { title: 'Memory', show: formatBytes },
  disk: { title: 'Disk', show: formatBytes },
  voxels: { title: 'Active voxels', show: formatCount },
};

/** Opens the prediction record. */
export function RecordButton({ slug }: { slug: string }): ReactElement {
  const [open, setOpen] = useState(false);
  useCommands([{ id: 'record', title: 'Prediction record', keys: null, run: () => setOpen(true) }]);
  return (
    <>
      <Tooltip title="How good were the predictions? The prediction record">
        <IconButton size="small" aria-label="Prediction record" onClick={() => setOpen(true)} sx={{ p: 0.5, flexShrink: 0 }}>
          <Icon name="record" size={16} />
        </IconButton>
      </Tooltip>
      {open && <RecordDialog slug={slug} onClose={() => setOpen(false)} />}
    </>
  );
}

const percent = (v: number): string => (Number.isFinite(v) ? `${(v * 100).toFixed(0)} %` : '–');

const ROUND_TIMES = [1, 3, 10, 30, 60, 180, 600, 1800, 3600, 10_800, 36_000, 86_400, 259_200];

/** Ticks at round values of the quantity, on logarithmic axes. */
function ticks(quantity: Quantity, values: readonly number[], show: (v: number) => string): { tickvals: number[]; ticktext: string[] } {
  const [least, most] = [Math.min(...values), Math.max(...values)];
  const low = Math.floor(Math.log10(least));
  const high = Math.ceil(Math.log10(most));
  const steps = high - low > 2 ? [1] : [1, 3];
  const decades = Array.from({ length: high - low + 1 }, (_v, n) => steps.map((s) => s * 10 ** (low + n))).flat();
  const tickvals = quantity === 'time' ? ROUND_TIMES.filter((t) => t > least / 4 && t < most * 4) : decades;
  return { tickvals, ticktext: tickvals.map(show) };
}

function chartOf(record: readonly RecordEntry[], quantity: Quantity, c: Colours): { data: object[]; layout: Record<string, unknown> } {
  const pairs = pairsOf(record, quantity);
  const { show, title } = NAMES[quantity];
  const all = pairs.flatMap((p) => [p.measured, p.range.low, p.range.high]);
  const [low, high] = [Math.min(...all) / 1.3, Math.max(...all) * 1.3];
  const axis = { type: 'log', range: [Math.log10(low), Math.log10(high)], ...ticks(quantity, all, show) };
  return {
    data: [
      { x: [low, high], y: [low, high], mode: 'lines', line: { color: c.dim, width: 1, dash: 'dot' }, hoverinfo: 'skip' },
      {
        x: pairs.map((p) => p.range.likely),
        y: pairs.map((p) => p.measured),
        text: pairs.map(
          (p) =>
            `${p.entry.title}<br>predicted ${show(p.range.likely)} (${show(p.range.low)} to ${show(p.range.high)})<br>measured ${show(p.measured)}<br>from ${p.entry.prediction.from}`,
        ),
        hoverinfo: 'text',
        mode: 'markers',
        marker: { color: pairs.map((p) => (p.measured >= p.range.low && p.measured <= p.range.high ? c.fresh : c.warning)), size: 9 },
        error_x: {
          type: 'data',
          symmetric: false,
          array: pairs.map((p) => p.range.high - p.range.likely),
          arrayminus: pairs.map((p) => p.range.likely - p.range.low),
          color: c.line,
          thickness: 1.5,
        },
      },
    ],
    layout: {
      xaxis: { ...axis, title: { text: `${title}, predicted` } },
      yaxis: { ...axis, title: { text: 'measured' } },
      margin: { l: 74, r: 16, t: 8, b: 44 },
    },
  };
}

/** Predicted against measured, of every run that ended by itself. */
function RecordDialog({ slug, onClose }: { slug: string; onClose: () => void }): ReactElement {
  const c = useColours();
  const evidence = useEvidence(slug).data;
  const [quantity, setQuantity] = useState<Quantity>('time');
  const record = useMemo(() => evidence?.knowledge.record ?? [], [evidence]);
  const usable = useMemo(() => pairsOf(record, quantity), [record, quantity]);
  const chart = useMemo(() => chartOf(record, quantity, c), [record, quantity, c]);
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="md">
      <DialogTitle sx={{ fontSize: 16, pb: 0.5 }}>Prediction record</DialogTitle>
      <DialogContent>
        <Box sx={{ color: c.dim, fontSize: 12.5, mb: 1.5 }}>
          What was said before each run, beside what came. Time in calibrated seconds: those of this machine in its usual state. The range
          is meant to hold nine of ten.
        </Box>
        <Box sx={{ display: 'grid', gridTemplateColumns: '1fr repeat(3, auto)', columnGap: 3, rowGap: 0.4, mb: 1.5, maxWidth: 560 }}>
          {['', 'runs', 'median error', 'inside the range'].map((t) => (
            <span key={t} style={{ color: c.dim, textAlign: t ? 'right' : 'left' }}>
              {t}
            </span>
          ))}
          {QUANTITIES.map((q) => {
            const s = statisticsOf(record, q);
            return [
              <span key={q}>{NAMES[q].title}</span>,
              <span key={`${q}n`} className="mono" style={{ textAlign: 'right' }}>
                {s.count}
              </span>,
              <span key={`${q}e`} className="mono" style={{ textAlign: 'right' }}>
                {percent(s.medianError)}
              </span>,
              <span key={`${q}i`} className="mono" style={{ textAlign: 'right' }}>
                {s.count === 0 ? '–' : percent(s.inside)}
              </span>,
            ];
          })}
        </Box>
        <ToggleButtonGroup
          size="small"
          exclusive
          value={quantity}
          aria-label="Quantity"
          onChange={(_e, v: Quantity | null) => {
            if (v) setQuantity(v);
          }}
          sx={{ '& button': { py: 0.25, px: 1.25, textTransform: 'none' } }}
        >
          {QUANTITIES.map((q) => (
            <ToggleButton key={q} value={q}>
              {NAMES[q].title}
            </ToggleButton>
          ))}
        </ToggleButtonGroup>
        <Box sx={{ height: 330 }}>
          {usable.length === 0 ? (
            <Empty title="No run to hold it against yet">A run that ends by itself adds a point here.</Empty>
          ) : (
            <Suspense fallback={<Loading what="Drawing" />}>
              <Chart data={chart.data} layout={chart.layout} height={330} label={`${NAMES[quantity].title}: predicted against measured`} />
            </Suspense>
          )}
        </Box>
      </DialogContent>
    </Dialog>
  );
}

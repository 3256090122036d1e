import Box from '@mui/material/Box';
import { type ReactElement, useMemo } from 'react';
import { withValue, type Rung, rungTitle } from '#core/shot';
import { formatBytes, formatSeconds } from '#core/units';
import { useSolve } from '#web/state';
import { useColours } from '#web/ui';
import { useBench } from '../bench-context';

const MODES = [
  ['adaptive', 'Adaptive'],
  ['fixed', 'Fixed'],
  ['dense', 'Dense'],
] as const;

/** Time and memory of each kind of bounds: measured where this shot has a run of it, predicted for the sheet where not. */
export function BoundsCosts(): ReactElement {
  const c = useColours();
  const { shot, shown, predictor } = useBench();
  const settings = useSolve();
  const rung: Rung = shown.run && shown.run.rung !== 'sketch' ? shown.run.rung : 'test';
  const rows = useMemo(
    () =>
      MODES.map(([mode, title]) => {
        const run = shot.runs.findLast((r) => r.state === 'done' && r.rung === rung && r.plan.options.bounds.mode === mode);
        if (run) return { mode, title, seconds: run.seconds, bytes: run.memoryBytes, from: `run ${String(run.number)}` };
        const p = predictor.of(withValue(settings, ['bounds', 'mode'], mode), rung === 'test' ? 'test' : 'final');
        return { mode, title, seconds: p?.time?.likely ?? null, bytes: p?.memory.likely ?? null, from: 'predicted' };
      }),
    [shot.runs, rung, predictor, settings],
  );
  return (
    <Box sx={{ mt: 1.25, fontSize: 12.5 }} role="group" aria-label="What bounds cost">
      <Box sx={{ display: 'grid', gridTemplateColumns: '1fr auto auto auto', columnGap: 1.5, rowGap: 0.35 }}>
        <span style={{ color: c.dim }}>{rungTitle[rung]}, all frames</span>
        <span style={{ color: c.dim, textAlign: 'right' }}>time</span>
        <span style={{ color: c.dim, textAlign: 'right' }}>memory</span>
        <span />
        {rows.flatMap((r) => [
          <span key={r.mode} style={{ fontWeight: r.mode === settings.bounds.mode ? 650 : 400 }}>
            {r.title}
          </span>,
          <span key={`${r.mode} time`} className="mono" style={{ textAlign: 'right' }}>
            {r.seconds === null ? '–' : formatSeconds(r.seconds)}
          </span>,
          <span key={`${r.mode} memory`} className="mono" style={{ textAlign: 'right' }}>
            {r.bytes === null ? '–' : formatBytes(r.bytes)}
          </span>,
          <span key={`${r.mode} from`} style={{ color: r.from === 'predicted' ? c.warning : c.dim }}>
            {r.from}
          </span>,
        ])}
      </Box>
    </Box>
  );
}

import Box from '@mui/material/Box';
import type { ReactElement } from 'react';
import { type DetailedPrediction, type Range, notMeasured } from '#core/cost';
import { isLiquidReport } from '#core/passes';
import { type Rung, RUNGS, rungTitle } from '#core/shot';
import { formatBytes, formatCount, formatQuantity, formatRange, formatSeconds } from '#core/units';
import { useSolve } from '#web/state';
import { useColours } from '#web/ui';
import { useBench } from '../bench-context';

const rangeText = (r: Range, show: (v: number) => string): string => formatRange(r.low, r.high, show);

/** What was measured beside what the sheet is predicted to take. */
export function CostTable(): ReactElement {
  const c = useColours();
  const { shown, predicted } = useBench();
  const settings = useSolve();
  const { run, frames } = shown;
  const rung: Rung = run && run.rung !== 'sketch' ? run.rung : 'final';
  const p: DetailedPrediction | null = predicted[rung === 'test' ? 'test' : 'final'];
  const measured = run && run.framesDone > 0 ? run : null;
  const most = frames.reduce((n, f) => Math.max(n, f.report.activeVoxels), 0);
  const mostParticles = frames.reduce((n, f) => Math.max(n, isLiquidReport(f.report) ? f.report.particles : 0), 0);
  const cell = (text: string, colour: string = c.text): ReactElement => (
    <span className="mono" style={{ textAlign: 'right', color: colour, whiteSpace: 'nowrap' }}>
      {text}
    </span>
  );
  const row = (name: string, was: string | null, will: string | null): ReactElement[] => [
    <span key={name}>{name}</span>,
    <span key={`${name} was`} style={{ textAlign: 'right' }}>
      {cell(was ?? '–')}
    </span>,
    <span key={`${name} will`} style={{ textAlign: 'right' }}>
      {cell(will ?? '–', c.warning)}
    </span>,
  ];
  const size = settings.detail.voxelSize;
  const last = frames[frames.length - 1]?.report;
  return (
    <>
      <Box
        sx={{ display: 'grid', gridTemplateColumns: '1fr auto auto', columnGap: 1.5, rowGap: 0.35, mt: 1.25, fontSize: 12.5 }}
        data-testid="cost-table"
      >
        <span style={{ color: c.dim }}>{rungTitle[rung]}, all frames</span>
        <span style={{ color: c.dim, textAlign: 'right' }}>
          {measured
            ? measured.rung === 'sketch'
              ? 'Sketch'
              : `${measured.rung === rung ? '' : `${rungTitle[measured.rung]} `}run ${String(measured.number)}`
            : ''}
        </span>
        <span style={{ color: c.dim, textAlign: 'right' }}>sheet</span>
        {row(
          'Voxel size',
          run ? formatQuantity(run.plan.options.voxelSize, 'metre', { digits: 3 }) : null,
          formatQuantity(size * RUNGS[rung], 'metre', { digits: 3 }),
        )}
        {p?.particles && row('Particles, most', measured ? formatCount(mostParticles) : null, rangeText(p.particles, formatCount))}
        {row('Active voxels, most', measured ? formatCount(most) : null, p && rangeText(p.voxels, formatCount))}
        {row('Time', measured ? formatSeconds(measured.seconds) : null, p?.time ? rangeText(p.time, formatSeconds) : null)}
        {row('Memory', measured ? formatBytes(measured.memoryBytes) : null, p && rangeText(p.memory, formatBytes))}
        {row('Disk', measured ? formatBytes(measured.bytes) : null, p && rangeText(p.disk, formatBytes))}
      </Box>
      <Box sx={{ color: c.dim, fontSize: 12, mt: 0.75 }}>
        {p
          ? `Predicted from ${p.from}; the ranges hold nine of ten.${notMeasured(p)}`
          : 'Nothing to predict from yet: start a Sketch or a Test.'}
        {last && !isLiquidReport(last) && Math.abs(last.mass.advection) > 0 && (
          <>
            {' '}
            Numerical change of mass:{' '}
            {((last.mass.advection / Math.max(last.mass.start, 1e-12)) * 100).toFixed(2).replace(/^-(?=0\.00$)/, '')} % in frame{' '}
            {last.frame}.
          </>
        )}
      </Box>
    </>
  );
}

import Box from '@mui/material/Box';
import type { ReactElement } from 'react';
import { type GasReport, type LiquidReport, isLiquidReport } from '#core/passes';
import { useRoute } from '#web/state';
import { useColours } from '#web/ui';
import { useBench } from '../bench-context';
import { frameOf } from '../runs/shown-run';

type Row = [string, number | undefined, string];

const gasRows = ({ energy }: GasReport): Row[] => [
  ['In the motion', energy.kinetic, 'J'],
  ['Lift and weight give', energy.buoyancy, 'W'],
  ['Forces give', energy.forces, 'W'],
  ['Confinement gives', energy.confinement, 'W'],
  // Runs of older versions do not know it.
  ['Smoothing takes', energy.smoothing, 'W'],
  ['Transport and pressure take', energy.loss, 'W'],
];

const liquidRows = ({ energy }: LiquidReport): Row[] => [
  ['In the motion', energy.kinetic, 'J'],
  ['In its height', energy.potential, 'J'],
  ['The volume correction gives, in the frame', energy.correction, 'J'],
  ['The motion pays for it, in the frame', -(energy.paid ?? 0), 'J'],
];

/** Where the motion's energy came from and went in the shown frame: what smoothing, forces and the scheme do to it. */
export function EnergyTable(): ReactElement | null {
  const c = useColours();
  const { shown } = useBench();
  const frame = frameOf(shown, useRoute().frame);
  const report = shown.frames.find((f) => f.frame === frame)?.report;
  if (!report) return null;
  const rows: Row[] = isLiquidReport(report) ? liquidRows(report) : gasRows(report);
  const shownRows = rows.filter(([, v]) => v !== undefined && v !== 0);
  const sign = (name: string, v: number): number => (name.endsWith('take') || name.endsWith('takes') ? -v : v);
  return (
    <Box sx={{ mt: 1.25, pt: 1, borderTop: `1px solid ${c.line}`, fontSize: 12.5 }} role="group" aria-label="Energy">
      <Box sx={{ fontWeight: 600, mb: 0.5 }}>Energy at frame {frame}</Box>
      <Box sx={{ display: 'grid', gridTemplateColumns: '1fr auto', rowGap: 0.25 }}>
        {shownRows.flatMap(([name, v, unit]) => [
          <span key={name} style={{ color: c.dim }}>
            {name}
          </span>,
          <span key={`${name} value`} className="mono" style={{ textAlign: 'right' }}>
            {Number(sign(name, v ?? 0).toPrecision(3))} {unit}
          </span>,
        ])}
      </Box>
    </Box>
  );
}

import type { GasReport as FrameReport, SolveReport } from '#core/passes';
import { type Unit, formatBytes, formatCount, formatQuantity, formatSeconds } from '#core/units';

/** A number of a frame's report that two runs are compared by. */
export interface Figure<Report = SolveReport> {
  readonly id: string;
  readonly title: string;
  readonly of: (report: Report) => number;
  readonly show: (value: number) => string;
  /** For an axis. */
  readonly unit: string;
}

const quantity =
  (unit: Unit) =>
  (v: number): string =>
    formatQuantity(v, unit, { digits: 3 });

export const GAS_FIGURES: readonly Figure<FrameReport>[] = [
  { id: 'time', title: 'Computing time', of: (r) => r.totalSeconds, show: formatSeconds, unit: 's a frame' },
  { id: 'voxels', title: 'Active voxels', of: (r) => r.activeVoxels, show: formatCount, unit: '' },
  { id: 'memory', title: 'Memory', of: (r) => r.memoryBytes, show: formatBytes, unit: 'bytes' },
  { id: 'substeps', title: 'Substeps', of: (r) => r.substepsUsed, show: (v) => String(v), unit: '' },
  { id: 'fastest', title: 'Fastest', of: (r) => r.fastest, show: quantity('speed'), unit: 'm/s' },
  { id: 'matter', title: 'Matter', of: (r) => r.mass.end, show: (v) => v.toPrecision(3), unit: 'density × m³' },
  {
    id: 'numerical',
    title: 'Numerical change',
    of: (r) => (r.mass.advection / Math.max(r.mass.start, 1e-12)) * 100,
    show: (v) => `${v.toFixed(2)} %`,
    unit: '% of matter a frame',
  },
  { id: 'residual', title: 'Pressure residual', of: (r) => r.residual, show: (v) => v.toExponential(1), unit: '' },
  { id: 'kinetic', title: 'Kinetic energy', of: (r) => r.energy.kinetic, show: (v) => `${v.toPrecision(3)} J`, unit: 'J' },
];

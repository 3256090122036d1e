import type { LiquidReport } from '#core/passes';
import { formatBytes, formatCount, formatLitres, formatQuantity, formatSeconds } from '#core/units';
import type { Figure } from '../gas/compare-figures';

/** A number of a liquid's report that two runs are compared by. */
export const LIQUID_FIGURES: readonly Figure<LiquidReport>[] = [
  { id: 'time', title: 'Computing time', of: (r) => r.totalSeconds, show: formatSeconds, unit: 's a frame' },
  { id: 'particles', title: 'Particles', of: (r) => r.particles, show: formatCount, unit: '' },
  { id: 'voxels', title: 'Active voxels', of: (r) => r.activeVoxels, show: formatCount, unit: '' },
  { id: 'memory', title: 'Memory', of: (r) => r.memoryBytes, show: formatBytes, unit: 'bytes' },
  { id: 'substeps', title: 'Substeps', of: (r) => r.substepsUsed, show: (v) => String(v), unit: '' },
  { id: 'fastest', title: 'Fastest', of: (r) => r.fastest, show: (v) => formatQuantity(v, 'speed', { digits: 3 }), unit: 'm/s' },
  { id: 'volume', title: 'Volume by its surface', of: (r) => r.surfaceVolume, show: formatLitres, unit: 'm³' },
  {
    id: 'drift',
    title: 'Volume drift',
    of: (r) => (r.expectedVolume > 0 ? (r.surfaceVolume / r.expectedVolume - 1) * 100 : 0),
    show: (v) => `${v.toFixed(1)} %`,
    unit: '%',
  },
  {
    id: 'gap',
    title: 'Gap at walls',
    of: (r) => r.lie?.gap?.mean ?? 0,
    show: (v) => `${v.toFixed(2)} voxels`,
    unit: 'voxels on average',
  },
  {
    id: 'holes',
    title: 'Bulk without particles',
    of: (r) => (r.lie && r.lie.bulk > 0 ? (100 * r.lie.empty) / r.lie.bulk : 0),
    show: (v) => `${v.toFixed(1)} %`,
    unit: '%',
  },
  { id: 'clumps', title: 'Clumped voxels', of: (r) => r.lie?.clumps ?? 0, show: formatCount, unit: '' },
  { id: 'residual', title: 'Pressure residual', of: (r) => r.residual, show: (v) => v.toExponential(1), unit: '' },
  { id: 'kinetic', title: 'Kinetic energy', of: (r) => r.energy.kinetic, show: (v) => `${v.toPrecision(3)} J`, unit: 'J' },
];

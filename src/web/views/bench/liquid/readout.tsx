import type { ReactElement } from 'react';
import type { LiquidReport } from '#core/passes';
import { formatBytes, formatCount, formatQuantity } from '#core/units';
import type { PointsPreview } from '#core/formats';
import { ReadoutBox, readoutItem } from '../gas/readout';
import { useColours } from '#web/ui';

/** What a liquid's frame took and holds. */
export function LiquidReadout({
  report,
  points,
  voxelSize,
}: {
  report: LiquidReport;
  points: PointsPreview | null;
  voxelSize: number;
}): ReactElement {
  const c = useColours();
  const drift = report.expectedVolume > 0 ? 100 * (report.surfaceVolume / report.expectedVolume - 1) : 0;
  return (
    <ReadoutBox>
      {readoutItem(c.dim, 'particles', formatCount(report.particles))}
      {readoutItem(c.dim, 'memory', formatBytes(report.memoryBytes))}
      {readoutItem(
        c.dim,
        'substeps',
        report.substepsWanted > report.substepsUsed ? (
          <span style={{ color: c.warning }}>
            {report.substepsUsed} of {report.substepsWanted} wanted
          </span>
        ) : (
          report.substepsUsed
        ),
      )}
      {readoutItem(c.dim, 'fastest', formatQuantity(report.fastest, 'speed', { digits: 3 }))}
      {report.lie?.gap ? readoutItem(c.dim, 'gap at walls', `${report.lie.gap.mean.toFixed(2)} vx`) : null}
      {readoutItem(c.dim, 'voxel', formatQuantity(voxelSize, 'metre', { digits: 3 }))}
      {readoutItem(
        c.dim,
        points && points.count < points.of ? 'shown' : 'volume',
        points && points.count < points.of
          ? `${((100 * points.count) / points.of).toFixed(0)} %`
          : `${Math.abs(drift) < 0.05 ? '±' : drift > 0 ? '+' : '−'}${Math.abs(drift).toFixed(1)} %`,
      )}
    </ReadoutBox>
  );
}

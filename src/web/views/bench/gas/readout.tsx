import Box from '@mui/material/Box';
import type { ReactElement, ReactNode } from 'react';
import type { GasReport as FrameReport } from '#core/passes';
import { formatBytes, formatCount, formatQuantity } from '#core/units';
import { useColours } from '#web/ui';
import type { ShownRun } from '../runs/shown-run';

/** A figure with its name. */
export const readoutItem = (dim: string, name: string, value: ReactNode): ReactElement => (
  <span key={name} style={{ whiteSpace: 'nowrap' }}>
    <span style={{ color: dim }}>{name}</span> {value}
  </span>
);

/** Over the picture, at its lower left. */
export function ReadoutBox({ children }: { children: ReactNode }): ReactElement {
  const c = useColours();
  return (
    <Box
      className="mono"
      data-testid="readout"
      sx={{
        position: 'absolute',
        left: 12,
        bottom: 12,
        zIndex: 2,
        bgcolor: c.panel,
        border: `1px solid ${c.line}`,
        borderRadius: 1.5,
        px: 1.25,
        py: 0.75,
        fontSize: 12,
        display: 'grid',
        gridTemplateColumns: 'auto auto auto',
        columnGap: 2,
        pointerEvents: 'none',
      }}
    >
      {children}
    </Box>
  );
}

/** What the shown frame took and holds. */
export function Readout({
  report,
  run,
  waiting,
}: {
  report: FrameReport | null;
  run: ShownRun | null;
  waiting: boolean;
}): ReactElement | null {
  const c = useColours();
  if (!run || (!report && !waiting)) return null;
  const item = (name: string, value: ReactNode): ReactElement => readoutItem(c.dim, name, value);
  return (
    <ReadoutBox>
      {report ? (
        <>
          {item('voxels', formatCount(report.activeVoxels))}
          {item('memory', formatBytes(report.memoryBytes))}
          {item(
            'substeps',
            report.substepsWanted > report.substepsUsed ? (
              <span style={{ color: c.warning }}>
                {report.substepsUsed} of {report.substepsWanted} wanted
              </span>
            ) : (
              report.substepsUsed
            ),
          )}
          {item('fastest', formatQuantity(report.fastest, 'speed', { digits: 3 }))}
          {item('voxel', formatQuantity(run.plan.options.voxelSize, 'metre', { digits: 3 }))}
          {item('residual', report.residual.toExponential(1))}
        </>
      ) : (
        <span style={{ color: c.dim }}>fetching the frame</span>
      )}
    </ReadoutBox>
  );
}

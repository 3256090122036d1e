import Button from '@mui/material/Button';
import type { ReactElement } from 'react';
import { shapeBounds } from '#core/geometry';
import type { SolveSettings } from '#core/shot';
import { withValue } from '#core/shot';
import { formatQuantity } from '#core/units';
import { useSheet, useSolveBase, useSolve } from '#web/state';
import { useColours } from '#web/ui';

/** A change by less than this part is not worth a word. */
const FELT = 0.1;

/** Metres of a source's shortest side. */
function shortest({ sources }: SolveSettings, index: number): number | null {
  const source = sources[index];
  if (!source) return null;
  const { min, max } = shapeBounds(source.shape);
  return Math.min(...([0, 1, 2] as const).map((a) => max[a] - min[a]));
}

/** A source that was made smaller has fewer voxels: offers the voxel size that gives it as many as it had. */
export function SmallerNote({ index }: { index: number }): ReactElement | null {
  const c = useColours();
  const settings = useSolve();
  const base = useSolveBase();
  const edit = useSheet((s) => s.editSolve);
  const [was, is] = [shortest(base, index), shortest(settings, index)];
  if (was === null || is === null || base.sources[index]?.name !== settings.sources[index]?.name) return null;
  const before = was / base.detail.voxelSize;
  const now = is / settings.detail.voxelSize;
  if (!(now < before * (1 - FELT)) || is >= was) return null;
  const size = Number((is / before).toPrecision(2));
  const shown = (n: number): string => String(Math.round(n * 10) / 10);
  return (
    <div role="status" aria-label="Voxels across the source" style={{ color: c.dim, fontSize: 12.5, padding: '2px 0 4px' }}>
      It is <span className="mono">{shown(now)}</span> voxels across, and was <span className="mono">{shown(before)}</span>.{' '}
      <Button
        size="small"
        color="inherit"
        variant="outlined"
        onClick={() => edit((s) => withValue(s, ['detail', 'voxelSize'], size))}
        sx={{ py: 0, fontSize: 12, borderColor: c.line }}
      >
        Voxel size {formatQuantity(size, 'metre')}
      </Button>
    </div>
  );
}

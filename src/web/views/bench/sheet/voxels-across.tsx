import type { ReactElement } from 'react';
import { withValue, defaultLimit } from '#core/shot';
import { useSheet, useSolve } from '#web/state';
import { NumberField } from '#web/ui';
import { PlainRow } from './plain-row';
import { CONTROL } from './sheet-layout';

/** The voxel size said another way: voxels across the limit box's longest side. Linked: one follows the other. */
export function VoxelsAcross(): ReactElement {
  const settings = useSolve();
  const edit = useSheet((s) => s.editSolve);
  const limit = settings.bounds.limit ?? defaultLimit(settings);
  const longest = Math.max(...([0, 1, 2] as const).map((a) => limit.max[a] - limit.min[a]));
  return (
    <PlainRow title="Voxels, longest side" help="Across the longest side of the limit box; follows the voxel size, and sets it.">
      <NumberField
        label="Voxels, longest side"
        value={Math.round(longest / settings.detail.voxelSize)}
        unit="none"
        min={4}
        max={4096}
        step={1.05}
        ratio
        integer
        width={CONTROL}
        onChange={(n) => edit((s) => withValue(s, ['detail', 'voxelSize'], Number((longest / n).toPrecision(4))))}
      />
    </PlainRow>
  );
}

import Box from '@mui/material/Box';
import Tooltip from '@mui/material/Tooltip';
import type { ReactElement } from 'react';
import { defaultLimit } from '#core/shot';
import { useSheet } from '#web/state';
import { NumberField, useColours } from '#web/ui';
import { CLEAR_SLOT, CONTROL } from './sheet-layout';

/** The voxel size said another way: voxels across the limit box's longest side. Linked: one follows the other. */
export function VoxelsAcross(): ReactElement {
  const c = useColours();
  const settings = useSheet((s) => s.settings);
  const edit = useSheet((s) => s.edit);
  const limit = settings.bounds.limit ?? defaultLimit(settings);
  const longest = Math.max(...([0, 1, 2] as const).map((a) => limit.max[a] - limit.min[a]));
  return (
    <Box sx={{ display: 'flex', alignItems: 'center', justifyContent: 'space-between', minHeight: 30, pr: `${String(CLEAR_SLOT + 4)}px` }}>
      <Tooltip title="Across the longest side of the limit box; follows the voxel size, and sets it." placement="right">
        <span tabIndex={0} style={{ cursor: 'help', borderBottom: `1px dotted ${c.line}` }}>
          Voxels, longest side
        </span>
      </Tooltip>
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
        onChange={(n) => {
          edit((s) => ({ ...s, detail: { ...s.detail, voxelSize: Number((longest / n).toPrecision(4)) } }));
        }}
      />
    </Box>
  );
}

import Box from '@mui/material/Box';
import type { ReactElement } from 'react';
import * as z from 'zod';
import { liquidSolveSchema, isLiquid, GROUPS, type Group, RUNGS, defaultLimit, inner, solveSchema } from '#core/shot';
import { formatCount, formatQuantity } from '#core/units';
import { useSolve } from '#web/state';
import { useColours } from '#web/ui';
import { useBench } from '../bench-context';
import { BesideBounds } from './beside-bounds';
import { BoundsCosts } from './bounds-costs';
import { CostCurve } from '../costs/cost-curve';
import { CostTable } from '../costs/cost-table';
import { EnergyTable } from './energy-table';
import { Fields } from './fields';
import { FindingItem } from '../findings/findings-drawer';
import { ItemList } from './item-list';
import { LimitFrom } from './limit-from';
import { RealSizeCalculator } from './real-size-calculator';
import { VoxelsAcross } from './voxels-across';

/** One line under the question. */
const LINES: Readonly<Record<Group, string>> = {
  scale: 'Everything inside is metres; files are written in the units of the scene.',
  detail: 'Half the voxel size is 8 times the voxels, and shorter steps.',
  stepping: 'Substeps follow the fastest matter, between two limits.',
  bounds: 'Computing happens inside; matter that leaves them is gone, and counted.',
  sources: 'Each emits into the voxels that it covers.',
  solids: 'Matter cannot enter them.',
  forces: 'What acts on the air, with or without matter in it.',
  matter: 'How the gas rises, cools, thins and is carried.',
  keep: 'What each frame leaves on the disk.',
};

/** Of a liquid, where it is another. */
const LIQUID_LINES: Readonly<Partial<Record<Group, string>>> = {
  detail: 'Half the voxel size is 8 times the particles, and shorter steps.',
  stepping: 'Substeps follow the fastest particle, between two limits.',
  bounds: 'The container: closed sides hold, what leaves through open ones is gone, and counted.',
  sources: 'Bodies of liquid that are there at once, streams, and drains.',
  solids: 'Liquid cannot enter them.',
  forces: 'What acts on the liquid, and on its drops in the air.',
  matter: 'How the liquid holds together, and how its particles are carried.',
};

export function GroupSheet({ group }: { group: Group }): ReactElement {
  const c = useColours();
  const { findings } = useBench();
  const settings = useSolve();
  const liquid = isLiquid(settings);
  const schema = inner((liquid ? liquidSolveSchema : solveSchema).shape[group]);
  const own = findings.filter((f) => f.group === group);
  return (
    <Box
      role="tabpanel"
      aria-label={GROUPS[group].title}
      tabIndex={0}
      sx={{ borderTop: `1px solid ${c.line}`, p: 1.5, pt: 1.25, overflow: 'auto', flex: 1, minHeight: 0 }}
    >
      <Box component="h2" sx={{ m: 0, fontSize: 15, fontWeight: 650 }}>
        {GROUPS[group].question}
      </Box>
      <Box sx={{ color: c.dim, fontSize: 12.5, mb: 1 }}>{(liquid ? LIQUID_LINES[group] : undefined) ?? LINES[group]}</Box>
      {schema instanceof z.ZodArray ? (
        <ItemList group={group as 'sources' | 'solids'} />
      ) : (
        <Fields schema={schema as z.ZodObject} path={[group]} />
      )}
      {group === 'matter' && <EnergyTable />}
      {group === 'forces' && (
        <Box sx={{ mt: 1, pt: 1, borderTop: `1px solid ${c.line}` }}>
          <ItemList group="fields" />
        </Box>
      )}
      {group === 'detail' && (
        <>
          <VoxelsAcross />
          <CostCurve title="Voxel size" path={['detail', 'voxelSize']} unit="metre" span={[2.2, 0.5]} />
          <CostTable />
        </>
      )}
      {group === 'stepping' && <CostCurve title="CFL number" path={['stepping', 'cfl']} unit="none" span={[2.5, 0.4]} />}
      {group === 'bounds' && <LimitFrom />}
      {group === 'bounds' && !liquid && <BesideBounds />}
      {group === 'bounds' && <BoundsCosts />}
      {group === 'bounds' && !liquid && (
        <CostCurve
          title="Reach"
          path={['bounds', 'reach']}
          unit="metre"
          span={[0.3, 3]}
          fallback={(s) => Math.max(0.5, 8 * s.detail.voxelSize)}
        />
      )}
      {group === 'scale' && <RealSizeCalculator />}

      {group === 'bounds' && settings.bounds.limit === null && <LimitNote />}
      {own.length > 0 && (
        <Box sx={{ mt: 2 }}>
          {own.map((f) => (
            <FindingItem key={f.id} finding={f} plain />
          ))}
        </Box>
      )}
    </Box>
  );
}

function LimitNote(): ReactElement {
  const c = useColours();
  const settings = useSolve();
  const limit = defaultLimit(settings);
  const h = settings.detail.voxelSize;
  const size = ([0, 1, 2] as const).map((a) => formatQuantity(limit.max[a] - limit.min[a], 'metre', { bare: true }));
  const longest = Math.max(...([0, 1, 2] as const).map((a) => limit.max[a] - limit.min[a]));
  return (
    <Box sx={{ mt: 1, fontSize: 12.5, color: c.dim }}>
      The limit box is derived: {size.join(' × ')} m, {formatCount(Math.round(longest / h / RUNGS.final))} voxels at its longest.
    </Box>
  );
}

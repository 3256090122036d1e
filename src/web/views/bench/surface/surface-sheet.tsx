import Box from '@mui/material/Box';
import { type ReactElement, type ReactNode, useState } from 'react';
import type * as z from 'zod';
import { surfaceNote } from '#core/passes';
import { type PassSettings, SURFACE_SECTIONS, type SurfaceSettings } from '#core/shot';
import { formatQuantity } from '#core/units';
import type { PassState } from '#web/state';
import { Icon, useColours } from '#web/ui';
import { Fields } from '../sheet/fields';
import { FilterStack } from './filter-stack';

type SurfaceEntry = Extract<PassSettings, { kind: 'surface' }>;
type Section = keyof typeof SURFACE_SECTIONS;

const TITLE = {
  distance: 'Distance',
  walls: 'Walls',
  polygons: 'Polygons',
  waves: 'Small waves',
  files: 'Files',
} as const satisfies Record<Section, string>;

/** Settings that mean nothing with the others as they are. */
export function idleOf({ distance: d, walls, polygons, waves, files }: SurfaceSettings): Readonly<Record<Section, readonly string[]>> {
  return {
    distance: [
      ...(d.voxelSize === null ? [] : ['voxelFactor']),
      ...(d.radius === 'metres' ? ['radiusFactor'] : ['radiusMetres']),
      ...(d.radius === 'own' ? [] : ['radiusFrom']),
      ...(d.method === 'balls' ? ['reach'] : []),
      ...(d.method === 'kernels' ? ['joining'] : ['fewest']),
    ],
    walls: walls.meeting === 'inside' ? [] : ['depth'],
    polygons: [...(polygons.simplify === 'share' ? [] : ['share']), ...(polygons.simplify === 'error' ? [] : ['error'])],
    waves: waves.height > 0 ? [] : ['longest', 'shortest', 'wind', 'towards', 'depth', 'churn', 'seed'],
    files: files.mesh === 'glb' ? [] : ['compressed'],
  };
}

/** The sheet of a skin: distance, filters, walls, polygons, waves, files; sizes that follow the spacing in metres. */
export function SurfaceSheet({ entry, index, pass }: { entry: SurfaceEntry; index: number; pass: PassState }): ReactElement {
  const c = useColours();
  const idle = idleOf(entry.settings);
  const { distance: d } = entry.settings;
  const spacings = (['test', 'final'] as const).flatMap((rung) => {
    const spacing = d.spacing ?? pass.spacing[rung];
    return spacing === null ? [] : [{ rung, spacing }];
  });
  // Its number and its unit stay on one line.
  const metres = (v: number): string => formatQuantity(v, 'metre', { digits: 2 }).replace(' ', '\u00a0');
  const note = surfaceNote(entry.settings, spacings[0]?.spacing ?? null);
  const fields = (section: Section): ReactElement => (
    <Fields schema={SURFACE_SECTIONS[section] as z.ZodObject} path={['passes', index, 'settings', section]} skip={idle[section]} />
  );
  return (
    <>
      <Part title={TITLE.distance} open first>
        {spacings.length > 0 && (
          <Box role="note" aria-label="Sizes" sx={{ color: c.dim, fontSize: 12.5, pb: 0.5 }}>
            {spacings.map(({ rung, spacing }) => (
              <div key={rung}>
                {rung === 'test' ? 'Test' : 'Final'}: spacing {metres(spacing)}, voxels {metres(d.voxelSize ?? d.voxelFactor * spacing)}
                {d.radius === 'factor' && `, radius ${metres(d.radiusFactor * spacing)}`}
              </div>
            ))}
          </Box>
        )}
        {note !== null && (
          <Box role="alert" sx={{ border: `1px solid ${c.warning}`, borderRadius: 1.5, p: 1, mb: 0.75, fontSize: 12.5 }}>
            {note}
          </Box>
        )}
        {fields('distance')}
      </Part>
      <FilterStack entry={entry} />
      {(['walls', 'polygons', 'waves', 'files'] as const).map((section) => (
        <Part key={section} title={TITLE[section]} open={section === 'walls' || section === 'polygons'}>
          {fields(section)}
        </Part>
      ))}
    </>
  );
}

function Part({
  title,
  open,
  first = false,
  children,
}: {
  title: string;
  open: boolean;
  first?: boolean;
  children: ReactNode;
}): ReactElement {
  const c = useColours();
  const [shown, setShown] = useState(open);
  return (
    <Box component="section" aria-label={title} sx={first ? {} : { mt: 1, pt: 1, borderTop: `1px solid ${c.line}` }}>
      <Box
        component="button"
        type="button"
        aria-expanded={shown}
        onClick={() => setShown(!shown)}
        sx={{
          all: 'unset',
          cursor: 'pointer',
          display: 'flex',
          alignItems: 'center',
          gap: 0.5,
          fontSize: 13,
          fontWeight: 650,
          pb: 0.25,
          width: '100%',
          '&:focus-visible': { outline: `2px solid ${c.selected}` },
        }}
      >
        {title} <Icon name={shown ? 'up' : 'down'} size={13} />
      </Box>
      {shown && children}
    </Box>
  );
}

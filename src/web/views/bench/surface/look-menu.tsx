import Box from '@mui/material/Box';
import MenuItem from '@mui/material/MenuItem';
import Select from '@mui/material/Select';
import type { ReactElement } from 'react';
import type { MeshPreview } from '#core/formats';
import { RAMPS } from '#core/look';
import { type SkinLook, setSkinLook, useSkinLook } from '#web/state';
import { useColours } from '#web/ui';

const LOOKS = { clay: 'Clay', glossy: 'Glossy', glass: 'Glass', wire: 'Wireframe', facing: 'Facing' } as const;
const PARTICLES = { none: 'No particles', outside: 'Those outside', all: 'All particles' } as const satisfies Record<
  SkinLook['particles'],
  string
>;
/** What columns are measured in, as shown. */
const UNIT: Readonly<Record<string, string>> = { speed: 'm/s', curvature: 'voxels', age: 's', viscosity: 'm²/s', radius: 'm' };

const gradient = `linear-gradient(90deg, ${RAMPS.patina.map(([at, colour]) => `${colour} ${String(Math.round(at * 100))}%`).join(', ')})`;
const digits = (v: number): string => String(Number(v.toPrecision(2)));

/** How the skin is looked at: its matter, or a number of its vertices as colour with its range; and particles beside it. */
export function LookMenu({ mesh }: { mesh: MeshPreview | null }): ReactElement {
  const c = useColours();
  const look = useSkinLook();
  const columns = mesh?.columns ?? [];
  const column = columns.find((k) => k.name === look.column);
  const value = look.as === 'column' ? `column:${look.column}` : look.as;
  const select = { bgcolor: c.panel, fontSize: 13, height: 30, '& fieldset': { borderColor: c.line } } as const;
  return (
    <Box
      sx={{
        position: 'absolute',
        right: 14,
        top: 12,
        zIndex: 2,
        display: 'flex',
        flexDirection: 'column',
        alignItems: 'flex-end',
        gap: 0.75,
      }}
    >
      <Box sx={{ display: 'flex', gap: 0.75 }}>
        <Select
          value={value}
          inputProps={{ 'aria-label': 'How the skin is drawn' }}
          onChange={({ target: { value: v } }) =>
            v.startsWith('column:') ? setSkinLook({ as: 'column', column: v.slice(7) }) : setSkinLook({ as: v as SkinLook['as'] })
          }
          sx={select}
        >
          {Object.entries(LOOKS).map(([k, title]) => (
            <MenuItem key={k} value={k}>
              {title}
            </MenuItem>
          ))}
          {columns.map(({ name }) => (
            <MenuItem key={name} value={`column:${name}`}>
              By {name}
            </MenuItem>
          ))}
          {look.as === 'column' && !column && <MenuItem value={value}>By {look.column}</MenuItem>}
        </Select>
        <Select
          value={look.particles}
          inputProps={{ 'aria-label': 'Particles beside the skin' }}
          onChange={(e) => setSkinLook({ particles: e.target.value })}
          sx={select}
        >
          {Object.entries(PARTICLES).map(([k, title]) => (
            <MenuItem key={k} value={k}>
              {title}
            </MenuItem>
          ))}
        </Select>
      </Box>
      {look.as === 'column' && column && (
        <Box
          className="mono"
          sx={{
            display: 'flex',
            gap: 0.75,
            alignItems: 'center',
            bgcolor: c.panel,
            border: `1px solid ${c.line}`,
            borderRadius: 1,
            px: 1,
            py: 0.4,
            fontSize: 11.5,
          }}
        >
          {digits(column.low)}
          <Box sx={{ width: 90, height: 8, borderRadius: 0.5, background: gradient }} />
          {digits(column.high)} {UNIT[column.name] ?? ''}
        </Box>
      )}
    </Box>
  );
}

import Box from '@mui/material/Box';
import Tooltip from '@mui/material/Tooltip';
import type { ReactElement } from 'react';
import { WALLS, type Wall } from '#core/grid';
import type { FieldMeta } from '#core/shot';
import { withValue } from '#core/shot';
import { useSheet, useSolveBase, useSolve } from '#web/state';
import { useColours } from '#web/ui';
import { CLEAR_SLOT } from './sheet-layout';

/** Where each wall lies on the unfolded box: column and row. */
const PLACES: Readonly<Record<Wall, { readonly title: string; readonly axis: string; readonly at: readonly [number, number] }>> = {
  left: { title: 'Left', axis: '-x', at: [1, 2] },
  right: { title: 'Right', axis: '+x', at: [3, 2] },
  floor: { title: 'Floor', axis: '-y', at: [2, 3] },
  ceiling: { title: 'Ceiling', axis: '+y', at: [2, 1] },
  back: { title: 'Back', axis: '-z', at: [2, 2] },
  front: { title: 'Front', axis: '+z', at: [4, 2] },
};

/** The six walls as the unfolded limit box: a wall is opened or closed by a click. */
export function WallsBox({ meta }: { meta: FieldMeta }): ReactElement {
  const c = useColours();
  const walls = useSolve((s) => s.bounds.walls);
  const base = useSolveBase((s) => s.bounds.walls);
  const edit = useSheet((s) => s.editSolve);
  const closed = WALLS.filter((w) => walls[w] === 'closed').length;
  return (
    <Box sx={{ mt: 0.75, pt: 0.75, borderTop: `1px solid ${c.line}` }}>
      <Box sx={{ display: 'flex', justifyContent: 'space-between', pr: `${String(CLEAR_SLOT + 4)}px`, fontSize: 12.5 }}>
        <Tooltip title={meta.help} placement="right">
          <span tabIndex={0} style={{ cursor: 'help', fontWeight: 600 }}>
            {meta.title}
          </span>
        </Tooltip>
        <span style={{ color: c.dim }}>{closed === 0 ? 'all open' : closed === 6 ? 'all closed' : `${String(closed)} closed`}</span>
      </Box>
      <Box
        role="group"
        aria-label={meta.title}
        sx={{ display: 'grid', gridTemplateColumns: 'repeat(4, 1fr)', gap: '3px', pt: 0.75, pr: `${String(CLEAR_SLOT + 4)}px` }}
      >
        {WALLS.map((wall) => {
          const { title, axis, at } = PLACES[wall];
          const shut = walls[wall] === 'closed';
          const changed = base[wall] !== walls[wall];
          return (
            <Box
              key={wall}
              component="button"
              aria-pressed={shut}
              title={`${title} (${axis}). ${shut ? 'Closed: a solid wall. Click to open it.' : 'Open: matter leaves there. Click to close it.'}`}
              onClick={() => edit((s) => withValue(s, ['bounds', 'walls', wall], shut ? 'open' : 'closed'))}
              sx={{
                all: 'unset',
                cursor: 'pointer',
                gridColumn: at[0],
                gridRow: at[1],
                textAlign: 'center',
                py: 0.5,
                borderRadius: 0.5,
                fontSize: 12,
                lineHeight: 1.25,
                color: shut ? c.text : c.dim,
                bgcolor: shut ? c.raised : 'transparent',
                border: `${shut ? '2px solid' : '1px dashed'} ${changed ? c.selected : shut ? c.dim : c.line}`,
                m: shut ? 0 : '1px',
                '&:hover': { borderColor: c.selected },
                '&:focus-visible': { outline: `2px solid ${c.selected}` },
              }}
            >
              {title}{' '}
              <Box component="span" className="mono" sx={{ display: 'block', fontSize: 10.5 }}>
                {shut ? 'closed' : 'open'}
              </Box>
            </Box>
          );
        })}
      </Box>
    </Box>
  );
}

import Box from '@mui/material/Box';
import IconButton from '@mui/material/IconButton';
import InputBase from '@mui/material/InputBase';
import Tooltip from '@mui/material/Tooltip';
import type { ReactElement } from 'react';
import type { Box3 } from '#core/geometry';
import { withValue, type BesideSettings, besideSchema, defaultLimit, settingsOfBounds } from '#core/shot';
import { say, useSheet, useSolve } from '#web/state';
import { Icon, useColours } from '#web/ui';
import { Fields } from './fields';
import { BoxFrom } from './limit-from';

const MOST = 7;

/** Free room beside the first bounds, for when nothing stands there yet. */
function roomBeside({ min, max }: Box3): Box3 {
  const wide = max[0] - min[0];
  return { min: [max[0] + wide / 4, min[1], min[2]], max: [max[0] + wide / 4 + wide, max[1], max[2]] };
}

/** A name that none of them has. */
function newName(title: string, taken: readonly string[]): string {
  let name = title.slice(0, 50);
  for (let n = 2; taken.includes(name); n++) name = `${title.slice(0, 46)} ${String(n)}`;
  return name;
}

/** Room above for what rises, and beside for what drifts; down to the shot's floor where that is closed. */
function roomAround({ min, max }: Box3, floor: number | null): BesideSettings['limit'] {
  const longest = Math.max(...([0, 1, 2] as const).map((a) => max[a] - min[a]));
  const round = (v: number): number => Math.round(v * 10) / 10;
  return {
    min: [round(min[0] - longest), floor !== null && floor < min[1] ? floor : round(min[1]), round(min[2] - longest)],
    max: [round(max[0] + longest), round(max[1] + 2 * longest), round(max[2] + longest)],
  };
}

/** More bounds in the same shot: what lies far apart is computed in boxes of its own instead of in one that holds all the air between. */
export function BesideBounds(): ReactElement {
  const c = useColours();
  const settings = useSolve();
  const fields = useSheet((s) => s.fields);
  const edit = useSheet((s) => s.editSolve);
  const { beside, limit, walls } = settings.bounds;
  const put = (next: readonly BesideSettings[]): boolean => edit((s) => withValue(s, ['bounds', 'beside'], [...next]));
  const add = (title: string, box: BesideSettings['limit']): void => {
    const name = newName(
      title,
      beside.map((b) => b.name),
    );
    if (put([...beside, { name, limit: box, voxelSize: null }])) say('info', `${name} has bounds of its own.`);
  };
  return (
    <Box component="section" aria-label="Bounds beside" sx={{ mt: 1.5, pt: 1, borderTop: `1px solid ${c.line}` }}>
      <Box sx={{ fontWeight: 600 }}>Bounds beside</Box>
      <Box sx={{ color: c.dim, fontSize: 12.5, mb: 0.75 }}>
        For what lies far apart: boxes of their own, side by side. Nothing passes between them.
      </Box>
      {beside.map((b, n) => {
        const own = settingsOfBounds(fields, settings, n + 1);
        const inside = [...own.sources, ...own.solids].filter((i) => !i.hidden).map((i) => i.name);
        return (
          <Box
            key={n}
            role="group"
            aria-label={b.name}
            sx={{ border: `1px solid ${c.line}`, borderRadius: 1.5, mb: 0.75, px: 1.25, py: 0.5 }}
          >
            <Box sx={{ display: 'flex', alignItems: 'center', gap: 1 }}>
              <InputBase
                key={b.name}
                defaultValue={b.name}
                inputProps={{ 'aria-label': `Name of bounds ${String(n + 2)}`, maxLength: 60 }}
                onBlur={(e) => {
                  const name = e.target.value.trim();
                  if (name !== '' && name !== b.name) put(beside.map((o) => (o === b ? { ...o, name } : o)));
                }}
                onKeyDown={(e) => {
                  if (e.key === 'Enter') (e.target as HTMLInputElement).blur();
                }}
                sx={{ flex: 1, fontWeight: 600, '& input': { p: '2px 0', fontSize: 13 } }}
              />
              <Tooltip title="Remove these bounds">
                <IconButton size="small" aria-label={`Remove the bounds ${b.name}`} onClick={() => put(beside.filter((o) => o !== b))}>
                  <Icon name="close" size={13} />
                </IconButton>
              </Tooltip>
            </Box>
            <Box sx={{ color: inside.length === 0 ? c.warning : c.dim, fontSize: 12 }}>
              {inside.length === 0 ? 'Nothing comes into it.' : `With ${inside.join(', ')}.`}
            </Box>
            <Fields schema={besideSchema} path={['bounds', 'beside', n]} skip={['name']} />
          </Box>
        );
      })}
      {beside.length < MOST && (
        <BoxFrom
          onTake={(title, box) => {
            const present = limit ?? defaultLimit(settings);
            add(title, roomAround(box, walls.floor === 'closed' ? present.min[1] : null));
          }}
          empty={{ title: 'An empty box beside', box: () => roomBeside(limit ?? defaultLimit(settings)) }}
        >
          Add bounds around…
        </BoxFrom>
      )}
    </Box>
  );
}

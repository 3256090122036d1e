import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import ButtonBase from '@mui/material/ButtonBase';
import IconButton from '@mui/material/IconButton';
import InputBase from '@mui/material/InputBase';
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import Tooltip from '@mui/material/Tooltip';
import { type ReactElement, useState } from 'react';
import type * as z from 'zod';
import {
  liquidSourceSchema,
  type LiquidSourceSettings,
  isLiquid,
  FIELD_KINDS,
  forceFieldSchema,
  inner,
  solidSchema,
  sourceSchema,
} from '#core/shot';
import { useSolve } from '#web/state';
import { Empty, Icon, useColours } from '#web/ui';
import { Fields } from './fields';
import { GapCheck } from './gap-check';
import { ImportButton } from './import-geometry';
import { type FieldKind, ITEM_KINDS, type Item, type ItemGroup, addForce, addItem, changeItem, itemsOf, removeItem } from './items';
import { PushNote } from '../gas/push-note';
import { useSelection } from '../view/selection';
import { CLEAR_SLOT } from './sheet-layout';
import { SmallerNote } from './smaller-note';
import { StreamNote } from './stream-note';

const EMPTY: Readonly<Record<ItemGroup, string>> = {
  sources: 'Without a source nothing will be seen.',
  solids: 'Matter meets nothing but the walls.',
  fields: 'What is above acts everywhere.',
};

const kindOf = (item: Item): string =>
  'kind' in item ? FIELD_KINDS[item.kind].toLowerCase() : item.shape.kind === 'mesh' ? item.shape.file : item.shape.kind;

const forceSchemas = (inner(forceFieldSchema) as unknown as { readonly options: readonly z.ZodObject[] }).options;
const schemaOf = (item: Item): z.ZodObject => {
  if (!('kind' in item)) return 'body' in item ? solidSchema : 'act' in item ? liquidSourceSchema : sourceSchema;
  return forceSchemas.find((o) => (o.shape as { kind?: z.ZodLiteral }).kind?.value === item.kind) as z.ZodObject;
};

/** Chooses what kind of force to add. */
function AddForce(): ReactElement {
  const c = useColours();
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  return (
    <>
      <Button
        color="inherit"
        variant="outlined"
        size="small"
        startIcon={<Icon name="add" size={14} />}
        aria-haspopup="menu"
        onClick={(e) => setAnchor(e.currentTarget)}
        sx={{ borderColor: c.line }}
      >
        Add a force
      </Button>
      <Menu anchorEl={anchor} open={anchor !== null} onClose={() => setAnchor(null)}>
        {Object.entries(FIELD_KINDS).map(([kind, title]) => (
          <MenuItem
            key={kind}
            dense
            onClick={() => {
              setAnchor(null);
              addForce(kind as FieldKind);
            }}
          >
            {title}
          </MenuItem>
        ))}
      </Menu>
    </>
  );
}

/** Settings that mean nothing for an item as it is. */
function idle(item: Item, carriesColour: boolean): string[] {
  if ('kind' in item) return item.shape === null ? ['soft'] : [];
  if ('act' in item) return idleOfLiquid(item);
  if (!('body' in item)) return [...(item.mode === 'blend' ? [] : ['blendTime']), ...(carriesColour ? [] : ['colour'])];
  return [...(item.body === 'filled' ? ['thickness'] : []), ...(item.shape.kind === 'mesh' ? [] : ['voxelSize'])];
}

function idleOfLiquid({ act, velocity, volumeRate }: LiquidSourceSettings): string[] {
  // The shape alone can be the opening unless rate and velocity are both given.
  if (act === 'emits') return volumeRate === null || Math.hypot(...velocity) === 0 ? ['opening'] : [];
  const rates = ['volumeRate', 'opening'];
  if (act === 'keeps') return rates;
  return act === 'fills' ? [...rates, 'to'] : [...rates, 'velocity', 'noise', 'viscosity', 'inherits'];
}

/** Sources or solids: a list, one of them open and with its handles in the viewport. */
export function ItemList({ group }: { group: ItemGroup }): ReactElement {
  const c = useColours();
  const items = useSolve((s) => itemsOf(s, group));
  const carriesColour = useSolve((s) => !isLiquid(s) && s.matter.colour);
  const { selection, select } = useSelection();
  const kind = ITEM_KINDS[group];
  const open = selection?.group === group ? selection.index : -1;
  return (
    <Box>
      {items.length === 0 && (
        <Box sx={{ height: 110 }}>
          <Empty title={`No ${kind.one} yet`}>{EMPTY[group]}</Empty>
        </Box>
      )}
      {items.map((item, n) => (
        <Box key={n} sx={{ border: `1px solid ${n === open ? c.selected : c.line}`, borderRadius: 1.5, mb: 0.75 }}>
          <Box sx={{ display: 'flex', alignItems: 'center', pr: 0.25 }}>
            <ButtonBase
              aria-expanded={n === open}
              onClick={() => select(n === open ? null : { group, index: n })}
              sx={{ flex: 1, justifyContent: 'flex-start', px: 1.25, py: 0.6, gap: 1, minWidth: 0 }}
            >
              <span
                style={{
                  fontWeight: 600,
                  whiteSpace: 'nowrap',
                  overflow: 'hidden',
                  textOverflow: 'ellipsis',
                  color: item.hidden ? c.dim : c.text,
                  textDecoration: item.hidden ? 'line-through' : 'none',
                }}
              >
                {item.name}
              </span>
              <span style={{ color: c.dim, fontSize: 12 }}>{item.hidden ? 'hidden' : kindOf(item)}</span>
            </ButtonBase>
            <Tooltip title={item.hidden ? 'Show it: it takes part again' : 'Hide it: it stays on the sheet and takes no part in runs'}>
              <IconButton
                size="small"
                aria-label={`${item.hidden ? 'Show' : 'Hide'} ${item.name}`}
                aria-pressed={item.hidden}
                onClick={() => changeItem(group, n, { hidden: !item.hidden })}
              >
                <Icon name={item.hidden ? 'hidden' : 'eye'} size={14} />
              </IconButton>
            </Tooltip>
            <Tooltip title={`Remove this ${kind.one}`}>
              <IconButton size="small" aria-label={`Remove ${item.name}`} onClick={() => removeItem(group, n)}>
                <Icon name="close" size={13} />
              </IconButton>
            </Tooltip>
          </Box>
          {n === open && (
            <Box sx={{ px: 1.25, pb: 1 }}>
              <Box sx={{ display: 'flex', alignItems: 'center', justifyContent: 'space-between', py: 0.4 }}>
                <span>Name</span>
                <InputBase
                  key={item.name}
                  defaultValue={item.name}
                  inputProps={{ 'aria-label': 'Name', maxLength: 60 }}
                  onBlur={(e) => {
                    const name = e.target.value.trim();
                    if (name !== '' && name !== item.name) changeItem(group, n, { name });
                  }}
                  onKeyDown={(e) => {
                    if (e.key === 'Enter') (e.target as HTMLInputElement).blur();
                  }}
                  sx={{
                    width: 150,
                    mr: `${String(CLEAR_SLOT + 4)}px`,
                    border: `1px solid ${c.line}`,
                    borderRadius: 1,
                    bgcolor: c.page,
                    px: 0.75,
                    '& input': { p: '2px 0', fontSize: 12.5 },
                  }}
                />
              </Box>
              {group === 'sources' && <PushNote index={n} />}
              {group === 'sources' && <SmallerNote index={n} />}
              {group === 'sources' && <StreamNote index={n} />}
              <Fields schema={schemaOf(item)} path={[...kind.list, n]} skip={['name', 'hidden', 'kind', ...idle(item, carriesColour)]} />
              {group === 'solids' && item.shape?.kind === 'mesh' && !item.hidden && <GapCheck index={n} />}
            </Box>
          )}
        </Box>
      ))}
      <Box sx={{ display: 'flex', gap: 1 }}>
        {group === 'fields' ? (
          <AddForce />
        ) : (
          <>
            <Button
              color="inherit"
              variant="outlined"
              size="small"
              startIcon={<Icon name="add" size={14} />}
              onClick={() => addItem(group)}
              sx={{ borderColor: c.line }}
            >
              Add a {kind.one}
            </Button>
            <ImportButton group={group} />
          </>
        )}
      </Box>
    </Box>
  );
}

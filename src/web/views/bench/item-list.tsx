import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import ButtonBase from '@mui/material/ButtonBase';
import IconButton from '@mui/material/IconButton';
import InputBase from '@mui/material/InputBase';
import Tooltip from '@mui/material/Tooltip';
import type { ReactElement } from 'react';
import { useSheet } from '#web/state';
import { Empty, Icon, useColours } from '#web/ui';
import { Fields } from './fields';
import { ITEM_KINDS, type ItemGroup, addItem, changeItem, removeItem } from './items';
import { useSelection } from './selection';

/** Sources or solids: a list, one of them open and with its handles in the viewport. */
export function ItemList({ group }: { group: ItemGroup }): ReactElement {
  const c = useColours();
  const items = useSheet((s) => s.settings[group]);
  const { selection, select } = useSelection();
  const kind = ITEM_KINDS[group];
  const open = selection?.group === group ? selection.index : -1;
  return (
    <Box>
      {items.length === 0 && (
        <Box sx={{ height: 110 }}>
          <Empty title={`No ${kind.one} yet`}>
            {group === 'sources' ? 'Without a source nothing will be seen.' : 'Matter meets nothing but the walls.'}
          </Empty>
        </Box>
      )}
      {items.map((item, n) => (
        <Box key={n} sx={{ border: `1px solid ${n === open ? c.selected : c.line}`, borderRadius: 1.5, mb: 0.75 }}>
          <Box sx={{ display: 'flex', alignItems: 'center', pr: 0.25 }}>
            <ButtonBase
              aria-expanded={n === open}
              onClick={() => {
                select(n === open ? null : { group, index: n });
              }}
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
              <span style={{ color: c.dim, fontSize: 12 }}>{item.hidden ? 'hidden' : item.shape.kind}</span>
            </ButtonBase>
            <Tooltip title={item.hidden ? 'Show it: it takes part again' : 'Hide it: it stays on the sheet and takes no part in runs'}>
              <IconButton
                size="small"
                aria-label={`${item.hidden ? 'Show' : 'Hide'} ${item.name}`}
                aria-pressed={item.hidden}
                onClick={() => {
                  changeItem(group, n, { hidden: !item.hidden });
                }}
              >
                <Icon name={item.hidden ? 'hidden' : 'eye'} size={14} />
              </IconButton>
            </Tooltip>
            <Tooltip title={`Remove this ${kind.one}`}>
              <IconButton
                size="small"
                aria-label={`Remove ${item.name}`}
                onClick={() => {
                  removeItem(group, n);
                }}
              >
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
                    border: `1px solid ${c.line}`,
                    borderRadius: 1,
                    bgcolor: c.page,
                    px: 0.75,
                    '& input': { p: '2px 0', fontSize: 12.5 },
                  }}
                />
              </Box>
              <Fields schema={kind.schema} path={[group, n]} skip={['name', 'hidden']} />
            </Box>
          )}
        </Box>
      ))}
      <Button
        color="inherit"
        variant="outlined"
        size="small"
        startIcon={<Icon name="add" size={14} />}
        onClick={() => {
          addItem(group);
        }}
        sx={{ borderColor: c.line }}
      >
        Add a {kind.one}
      </Button>
    </Box>
  );
}

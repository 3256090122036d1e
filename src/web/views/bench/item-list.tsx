import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import ButtonBase from '@mui/material/ButtonBase';
import IconButton from '@mui/material/IconButton';
import InputBase from '@mui/material/InputBase';
import Tooltip from '@mui/material/Tooltip';
import { type ReactElement, useState } from 'react';
import { solidSchema, sourceSchema } from '#core/shot';
import { useSheet } from '#web/state';
import { Empty, Icon, useColours } from '#web/ui';
import { Fields } from './fields';

const KINDS = {
  sources: { one: 'source', schema: sourceSchema, fresh: () => sourceSchema.parse({ shape: { kind: 'ball' } }) },
  solids: { one: 'solid', schema: solidSchema, fresh: () => solidSchema.parse({ shape: { kind: 'box' } }) },
} as const;

/** Sources or solids: a list, one of them open. */
export function ItemList({ group }: { group: 'sources' | 'solids' }): ReactElement {
  const c = useColours();
  const items = useSheet((s) => s.settings[group]);
  const edit = useSheet((s) => s.edit);
  const [open, setOpen] = useState(0);
  const kind = KINDS[group];
  const add = (): void => {
    if (
      edit((s) => ({
        ...s,
        [group]: [...s[group], { ...kind.fresh(), name: `${kind.one === 'source' ? 'Source' : 'Solid'} ${String(items.length + 1)}` }],
      }))
    )
      setOpen(items.length);
  };
  const remove = (n: number): void => {
    edit((s) => ({ ...s, [group]: s[group].filter((_item, m) => m !== n) }));
  };
  const rename = (n: number, name: string): void => {
    if (name.trim() !== '') edit((s) => ({ ...s, [group]: s[group].map((item, m) => (m === n ? { ...item, name: name.trim() } : item)) }));
  };
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
          <Box sx={{ display: 'flex', alignItems: 'center' }}>
            <ButtonBase
              aria-expanded={n === open}
              onClick={() => {
                setOpen(n === open ? -1 : n);
              }}
              sx={{ flex: 1, justifyContent: 'flex-start', px: 1.25, py: 0.6, gap: 1, minWidth: 0 }}
            >
              <span style={{ fontWeight: 600, whiteSpace: 'nowrap', overflow: 'hidden', textOverflow: 'ellipsis' }}>{item.name}</span>
              <span style={{ color: c.dim, fontSize: 12 }}>{item.shape.kind}</span>
            </ButtonBase>
            <Tooltip title={`Remove this ${kind.one}`}>
              <IconButton
                size="small"
                aria-label={`Remove ${item.name}`}
                onClick={() => {
                  remove(n);
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
                    rename(n, e.target.value);
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
              <Fields schema={kind.schema} path={[group, n]} skip={['name']} />
            </Box>
          )}
        </Box>
      ))}
      <Button
        color="inherit"
        variant="outlined"
        size="small"
        startIcon={<Icon name="add" size={14} />}
        onClick={add}
        sx={{ borderColor: c.line }}
      >
        Add a {kind.one}
      </Button>
    </Box>
  );
}

import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import { type ReactElement, useState } from 'react';
import { navigate } from '#web/state';
import { Icon, useColours } from '#web/ui';
import { useBench } from '../bench-context';
import { runTitle } from '../runs/shown-run';

/** Chooses the run to compare with; nothing when there is no other. */
export function CompareButton(): ReactElement | null {
  const c = useColours();
  const { shot, shown } = useBench();
  const [menu, setMenu] = useState<HTMLElement | null>(null);
  const others = shot.runs.filter((r) => r.id !== shown.run?.id && r.framesDone > 0 && !r.freed);
  if (!shown.run || others.length === 0) return null;
  return (
    <Box sx={{ position: 'absolute', right: 12, bottom: 44, zIndex: 2 }}>
      <Button
        color="inherit"
        size="small"
        aria-haspopup="menu"
        startIcon={<Icon name="compare" size={14} />}
        onClick={(e) => setMenu(e.currentTarget)}
        sx={{ bgcolor: c.panel, border: `1px solid ${c.line}`, fontWeight: 500 }}
      >
        Compare (C)
      </Button>
      <Menu open={menu !== null} anchorEl={menu} onClose={() => setMenu(null)}>
        {[...others].reverse().map((r) => (
          <MenuItem
            key={r.id}
            onClick={() => {
              setMenu(null);
              navigate({ with: r.id });
            }}
            sx={{ gap: 1 }}
          >
            {runTitle(r)}{' '}
            <span style={{ color: c.dim }}>{shot.variants.find((v) => v.id === r.variantId)?.name ?? 'a deleted variant'}</span>
          </MenuItem>
        ))}
      </Menu>
    </Box>
  );
}

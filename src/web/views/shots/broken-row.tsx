import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import type { ReactElement } from 'react';
import type { ShotRowDto } from '#protocol';
import { api } from '#web/state';
import { StateGlyph, useColours } from '#web/ui';
import { DeleteButton } from './delete-button';

/** A shot whose stored data cannot be read: why, and the data as it is, so that nothing is lost. */
export function BrokenRow({ row, onDelete }: { row: Extract<ShotRowDto, { readable: false }>; onDelete: () => void }): ReactElement {
  const c = useColours();
  return (
    <Box
      role="row"
      sx={{
        display: 'flex',
        gap: 2,
        px: 1.5,
        py: 1.25,
        alignItems: 'center',
        '&:not(:last-child)': { borderBottom: `1px solid ${c.line}` },
      }}
    >
      <Box role="cell" sx={{ width: 120, display: 'grid', placeItems: 'center' }}>
        <StateGlyph state="damaged" size={18} />
      </Box>
      <Box role="cell" sx={{ flex: 1, minWidth: 0 }}>
        <Box sx={{ fontWeight: 650, fontSize: 14.5 }}>{row.slug}</Box>
        <Box sx={{ color: c.failed, fontSize: 12.5, overflowWrap: 'anywhere' }}>Cannot be read: {row.reason}</Box>
        <Box sx={{ color: c.dim, fontSize: 12 }}>
          Its caches are unchanged. Export what is stored; its part shotFile can be mended and added again.
        </Box>
      </Box>
      <Box role="cell" sx={{ display: 'flex', alignItems: 'center', gap: 0.5 }}>
        <Button
          variant="outlined"
          color="inherit"
          href={api.rawUrl(row.slug)}
          download={`${row.slug}-raw.json`}
          sx={{ borderColor: c.line }}
        >
          Export raw data
        </Button>
        <DeleteButton name={row.slug} onDelete={onDelete} />
      </Box>
    </Box>
  );
}

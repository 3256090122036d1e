import Alert from '@mui/material/Alert';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { type ReactElement, useState } from 'react';
import type { ShotDto } from '#protocol';
import { api } from '#web/state';

/** What is stored of the shot and cannot be read: it is left out of the lists, and said here. */
export function BrokenRows({ shot }: { shot: ShotDto }): ReactElement | null {
  const [closed, setClosed] = useState(false);
  if (closed) return null;
  return (
    <Box
      sx={{
        position: 'absolute',
        left: 360,
        right: 16,
        bottom: 148,
        zIndex: 6,
        display: 'grid',
        placeItems: 'center',
        pointerEvents: 'none',
      }}
    >
      <Alert
        severity="error"
        variant="outlined"
        onClose={() => setClosed(true)}
        sx={{ bgcolor: 'background.paper', pointerEvents: 'auto', maxWidth: 640, maxHeight: 200, overflow: 'auto' }}
      >
        {shot.broken.map((b) => (
          <Box key={`${b.what}-${b.id}`} sx={{ overflowWrap: 'anywhere' }}>
            {b.name} cannot be read: {b.reason}.
          </Box>
        ))}
        <Button size="small" color="inherit" href={api.rawUrl(shot.slug)} download={`${shot.slug}-raw.json`}>
          Export raw data
        </Button>
      </Alert>
    </Box>
  );
}

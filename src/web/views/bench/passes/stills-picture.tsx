import Box from '@mui/material/Box';
import type { ReactElement } from 'react';
import { api } from '#web/state';
import { useColours } from '#web/ui';
import type { PictureProps } from './picture-props';

/** The picture as it is in the cache. */
export function StillsPicture({ run, frame, stored }: PictureProps): ReactElement {
  const c = useColours();
  const there = run !== null && frame !== null && stored.has(frame);
  return (
    <Box sx={{ position: 'absolute', inset: 0, bgcolor: c.page, display: 'grid', placeItems: 'center', p: 2, pt: 7 }}>
      {there && (
        <img
          src={api.stillUrl(run.id, frame)}
          alt={`Frame ${String(frame)}`}
          style={{ maxWidth: '100%', maxHeight: '100%', objectFit: 'contain', border: `1px solid ${c.line}` }}
        />
      )}
    </Box>
  );
}

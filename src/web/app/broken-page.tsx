import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import type { ReactElement } from 'react';
import type { FallbackProps } from 'react-error-boundary';
import { useColours } from '#web/ui';

/** Instead of an empty page, when drawing it failed: what happened, what is safe, and the way on. */
export function BrokenPage({ error }: FallbackProps): ReactElement {
  const c = useColours();
  return (
    <Box
      role="alert"
      sx={{ maxWidth: 560, mx: 'auto', mt: 12, p: 2, border: `1px solid ${c.failed}`, borderRadius: 1.5, bgcolor: c.panel }}
    >
      <Box component="h1" sx={{ m: 0, fontSize: 16 }}>
        This page could not be drawn
      </Box>
      <Box sx={{ my: 1.25, color: c.dim, fontSize: 13 }}>
        Runs go on, and changes are saved as they are made. If it happens again, what the error says helps to mend it.
      </Box>
      <Box className="mono" sx={{ fontSize: 12, mb: 1.5, overflowWrap: 'anywhere' }}>
        {error instanceof Error ? error.message : String(error)}
      </Box>
      <Button variant="contained" size="small" onClick={() => location.reload()}>
        Load the page again
      </Button>
    </Box>
  );
}

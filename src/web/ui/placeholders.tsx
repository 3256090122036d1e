import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import CircularProgress from '@mui/material/CircularProgress';
import type { ReactElement, ReactNode } from 'react';
import { useColours } from './use-colours';

const centred = {
  display: 'flex',
  flexDirection: 'column',
  alignItems: 'center',
  justifyContent: 'center',
  gap: 1.5,
  height: '100%',
  p: 3,
  textAlign: 'center',
} as const;

export const Loading = ({ what }: { what: string }): ReactElement => (
  <Box sx={centred} role="status">
    <CircularProgress size={22} color="secondary" />
    <span>{what}</span>
  </Box>
);

/** Something went wrong: what, and what to do next. */
export function Problem({ title, text, retry }: { title: string; text: string; retry?: () => void }): ReactElement {
  const c = useColours();
  return (
    <Box sx={centred} role="alert">
      <strong style={{ color: c.failed }}>{title}</strong>
      <span style={{ color: c.dim, whiteSpace: 'pre-wrap', maxWidth: 560 }}>{text}</span>
      {retry && (
        <Button variant="outlined" color="inherit" onClick={retry}>
          Try again
        </Button>
      )}
    </Box>
  );
}

export function Empty({ title, children }: { title: string; children: ReactNode }): ReactElement {
  const c = useColours();
  return (
    <Box sx={centred}>
      <strong>{title}</strong>
      <span style={{ color: c.dim, maxWidth: 460 }}>{children}</span>
    </Box>
  );
}

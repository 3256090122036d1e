import Box from '@mui/material/Box';
import type { MouseEvent, ReactElement, ReactNode } from 'react';
import { useColours } from './use-colours';

interface QuietButtonProps {
  readonly label: string;
  readonly strong?: boolean;
  readonly onClick: (event: MouseEvent<HTMLElement>) => void;
  readonly children: ReactNode;
}

/** Text that opens a menu: no frame, no fill. */
export function QuietButton({ label, strong = false, onClick, children }: QuietButtonProps): ReactElement {
  const c = useColours();
  return (
    <Box
      component="button"
      aria-haspopup="menu"
      aria-label={label}
      onClick={onClick}
      sx={{
        all: 'unset',
        cursor: 'pointer',
        display: 'flex',
        alignItems: 'center',
        gap: 0.5,
        maxWidth: '100%',
        whiteSpace: 'nowrap',
        fontWeight: strong ? 650 : 400,
        fontSize: strong ? 13 : 12,
        color: strong ? c.text : c.dim,
        '&:focus-visible': { outline: `2px solid ${c.selected}` },
      }}
    >
      {children}
    </Box>
  );
}

import Box from '@mui/material/Box';
import type { ReactElement, ReactNode } from 'react';
import { Explained } from '#web/ui';
import { CLEAR_SLOT } from './sheet-layout';

/** A row of a sheet whose value is derived, or belongs to the shot: its control ends where those of the fields do. */
export function PlainRow({ title, help, children }: { title: string; help: string; children: ReactNode }): ReactElement {
  return (
    <Box sx={{ display: 'flex', alignItems: 'center', justifyContent: 'space-between', minHeight: 30, pr: `${String(CLEAR_SLOT + 4)}px` }}>
      <Explained title={title} help={help} />
      {children}
    </Box>
  );
}

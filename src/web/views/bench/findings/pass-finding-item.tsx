import Box from '@mui/material/Box';
import type { ReactElement } from 'react';
import type { PassFinding } from '#core/pass';
import { Icon, useColours } from '#web/ui';

/** What was found in a pass's frames. */
export function PassFindingItem({ finding }: { finding: PassFinding }): ReactElement {
  const c = useColours();
  return (
    <Box role="note" aria-label={finding.title} sx={{ display: 'flex', gap: 1, mb: 1, fontSize: 12.5 }}>
      <Box sx={{ color: c.warning, pt: 0.25, flexShrink: 0 }}>
        <Icon name="note" size={14} />
      </Box>
      <Box>
        <b>{finding.title}</b>
        <Box sx={{ color: c.dim }}>{finding.text}</Box>
      </Box>
    </Box>
  );
}

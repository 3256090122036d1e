import Box from '@mui/material/Box';
import { type ReactElement, useEffect, useState } from 'react';
import { useColours } from '#web/ui';
import { useArrivals } from './arrivals';

/** A frame that comes within this time is not worth a word, milliseconds. */
const SOON = 250;

/** Says over the last picture that the wanted one is on its way, or why it cannot be shown. */
export function ArrivingNote(): ReactElement | null {
  const c = useColours();
  const all = useArrivals((s) => s);
  const waits = Object.values(all).filter((a) => a !== undefined);
  const wrong = waits.find((a) => a.problem !== null) ?? null;
  const [late, setLate] = useState(false);
  const any = waits.length > 0;
  useEffect(() => {
    if (!any) return undefined;
    const timer = setTimeout(() => {
      setLate(true);
    }, SOON);
    return () => {
      clearTimeout(timer);
      setLate(false);
    };
  }, [any]);
  // Not worth a word yet; whoever looks at the picture from outside can tell all the same.
  if (!wrong && !late) return any ? <span hidden data-testid="awaited" /> : null;
  return (
    <Box
      role={wrong ? 'alert' : 'status'}
      data-testid="arriving"
      sx={{
        position: 'absolute',
        top: 56,
        left: '50%',
        transform: 'translateX(-50%)',
        zIndex: 3,
        maxWidth: '70%',
        px: 1.25,
        py: 0.5,
        bgcolor: c.panel,
        border: `1px solid ${wrong ? c.failed : c.line}`,
        borderRadius: 1.5,
        fontSize: 12.5,
      }}
    >
      {wrong ? `Frame ${String(wrong.frame)} cannot be shown: ${wrong.problem ?? ''}` : `Loading frame ${String(waits[0]?.frame ?? '')} …`}
    </Box>
  );
}

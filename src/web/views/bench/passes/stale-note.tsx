import Box from '@mui/material/Box';
import type { ReactElement } from 'react';
import { rungTitle } from '#core/shot';
import { formatBytes, formatSeconds } from '#core/units';
import { useColours } from '#web/ui';
import { useWouldBeStale } from './use-input-costs';

/**
 * Said before anything is changed: which whole caches a change of these settings makes stale, and what computing them again costs. It stands under what
 * scrolls: it comes and goes with a change, and no field may move while somebody aims at it.
 */
export function StaleNote({ pass }: { pass: string }): ReactElement | null {
  const c = useColours();
  const { passes, seconds, bytes } = useWouldBeStale(pass);
  if (passes.length === 0) return null;
  const rungsOf = passes.map(({ rungs }) => ` (${rungs.map((r) => rungTitle[r]).join(' and ')})`);
  // Said once where it is the same of all.
  const alike = rungsOf.every((r) => r === rungsOf[0]);
  const names = passes.map(({ name }, n) => (alike ? name : `${name}${rungsOf[n] ?? ''}`));
  const listed = names.length === 1 ? names[0] : `${names.slice(0, -1).join(', ')} and ${names[names.length - 1] ?? ''}`;
  return (
    <Box
      role="note"
      aria-label="What a change makes stale"
      sx={{ fontSize: 12.5, color: c.dim, px: 1.5, py: 0.75, borderTop: `1px solid ${c.line}` }}
    >
      A change makes stale: {listed}
      {alike ? rungsOf[0] : ''}.
      {seconds >= 0.5 && (
        <>
          {' '}
          Again: <span style={{ whiteSpace: 'nowrap' }}>about {formatSeconds(seconds)},</span>{' '}
          <span style={{ whiteSpace: 'nowrap' }}>{formatBytes(bytes)}.</span>
        </>
      )}
    </Box>
  );
}

import Box from '@mui/material/Box';
import type { ReactElement } from 'react';
import type { PassFinding, PassRemedy } from '#core/pass';
import { followersOf, withSetting } from '#core/shot';
import { useSheet } from '#web/state';
import { Icon, useColours } from '#web/ui';

/** Puts a remedy on the draft: a setting of the pass. */
function apply(pass: string, { path, value }: PassRemedy): void {
  useSheet.getState().edit((s) => {
    const index = s.passes.findIndex((p) => p.id === pass);
    return index < 0 || !followersOf(s).some((p) => p.id === pass) ? s : withSetting(s, ['passes', index, 'settings', ...path], value);
  });
}

/** What was found in a pass's frames, and what would help. */
export function PassFindingItem({ finding, pass }: { finding: PassFinding; pass: string }): ReactElement {
  const c = useColours();
  return (
    <Box role="note" aria-label={finding.title} sx={{ display: 'flex', gap: 1, mb: 1, fontSize: 12.5 }}>
      <Box sx={{ color: c.warning, pt: 0.25, flexShrink: 0 }}>
        <Icon name="note" size={14} />
      </Box>
      <Box>
        <b>{finding.title}</b>
        <Box sx={{ color: c.dim }}>{finding.text}</Box>
        {finding.remedies?.map((remedy) => (
          <Box
            key={remedy.label}
            component="button"
            onClick={() => apply(pass, remedy)}
            sx={{
              all: 'unset',
              cursor: 'pointer',
              color: c.fresh,
              fontWeight: 600,
              display: 'block',
              '&:hover': { textDecoration: 'underline' },
              '&:focus-visible': { outline: `2px solid ${c.selected}` },
            }}
          >
            {remedy.label}
          </Box>
        ))}
      </Box>
    </Box>
  );
}

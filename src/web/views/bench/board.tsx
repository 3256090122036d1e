import Box from '@mui/material/Box';
import ButtonBase from '@mui/material/ButtonBase';
import type { ReactElement } from 'react';
import type { FrameReport } from '#core/gas';
import { GROUPS, type Group } from '#core/shot';
import type { RunDto, ShotDto } from '#protocol';
import { navigate, useEdits, useRoute, useSheet } from '#web/state';
import { useColours } from '#web/ui';
import { GroupSheet } from './group-sheet';
import { keyValue } from './key-values';

const NAMES = Object.keys(GROUPS) as Group[];

/** The board of nine, and the open group's sheet under it. */
export function Board({ shot, run, report }: { shot: ShotDto; run: RunDto | null; report: FrameReport | null }): ReactElement {
  const c = useColours();
  const route = useRoute();
  const settings = useSheet((s) => s.settings);
  const edits = useEdits();
  const open = NAMES.find((n) => n === route.group) ?? 'detail';
  return (
    <Box sx={{ borderRight: `1px solid ${c.line}`, bgcolor: c.panel, display: 'flex', flexDirection: 'column', minHeight: 0 }}>
      <Box
        role="tablist"
        aria-label="Groups of settings"
        sx={{ display: 'grid', gridTemplateColumns: 'repeat(3, 1fr)', gap: 0.75, p: 1.5 }}
      >
        {NAMES.map((name) => {
          const selected = name === open;
          const changed = edits.filter((e) => e.path.startsWith(name)).length;
          return (
            <ButtonBase
              key={name}
              role="tab"
              aria-selected={selected}
              onClick={() => {
                navigate({ group: name === 'detail' ? null : name }, { replace: true });
              }}
              sx={{
                flexDirection: 'column',
                alignItems: 'flex-start',
                px: 1.1,
                py: 0.7,
                borderRadius: 1.5,
                minWidth: 0,
                overflow: 'hidden',
                border: `1px solid ${selected ? c.selected : c.line}`,
                bgcolor: selected ? c.raised : 'transparent',
                '&:hover': { borderColor: selected ? c.selected : c.dim },
              }}
            >
              <span style={{ fontWeight: 600 }}>{GROUPS[name].title}</span>
              <span
                className="mono"
                style={{
                  fontSize: 11.5,
                  color: changed > 0 ? c.warning : c.dim,
                  whiteSpace: 'nowrap',
                  overflow: 'hidden',
                  textOverflow: 'ellipsis',
                  maxWidth: '100%',
                }}
              >
                {changed > 0 ? `${keyValue(name, settings, shot)} *` : keyValue(name, settings, shot)}
              </span>
            </ButtonBase>
          );
        })}
      </Box>
      <GroupSheet key={open} group={open} shot={shot} run={run} report={report} />
    </Box>
  );
}

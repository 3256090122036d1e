import Box from '@mui/material/Box';
import IconButton from '@mui/material/IconButton';
import { type ReactElement } from 'react';
import { type Finding, framesText } from '#core/checks';
import { GROUPS } from '#core/shot';
import { navigate } from '#web/state';
import { Empty, Icon, useColours } from '#web/ui';
import { useBench } from '../bench-context';
import { PassFindingItem } from './pass-finding-item';
import { RemedyButton } from './remedy-button';
import { runTitle } from '../runs/shown-run';

/** Warnings are triangles, notes are dots: never colour alone. */
export function FindingGlyph({ severity }: { severity: Finding['severity'] }): ReactElement {
  const c = useColours();
  return (
    <svg width={12} height={12} viewBox="0 0 12 12" role="img" aria-label={severity} style={{ flexShrink: 0, marginTop: 3 }}>
      {severity === 'warning' ? (
        <path d="M6 1l5.5 10h-11z" fill={c.warning} />
      ) : (
        <circle cx={6} cy={6} r={3.5} fill="none" stroke={c.dim} strokeWidth={1.6} />
      )}
    </svg>
  );
}

export function FindingItem({ finding, plain = false }: { finding: Finding; plain?: boolean }): ReactElement {
  const c = useColours();
  return (
    <Box
      data-testid={`finding-${finding.id}`}
      sx={{ borderLeft: `3px solid ${finding.severity === 'warning' ? c.warning : c.line}`, pl: 1.25, py: 0.25, mb: 1.5 }}
    >
      <Box sx={{ display: 'flex', gap: 0.75, fontWeight: 650 }}>
        {!plain && <FindingGlyph severity={finding.severity} />}
        {finding.title}
      </Box>
      <Box sx={{ fontSize: 12.5, color: c.dim, my: 0.4 }}>{finding.text}</Box>
      {!plain && (
        <Box sx={{ display: 'flex', gap: 1.5, fontSize: 12, mb: 0.4 }}>
          <Link onClick={() => navigate({ group: finding.group === 'detail' ? null : finding.group }, { replace: true })}>
            Open {GROUPS[finding.group].title}
          </Link>
          {finding.frames && (
            <Link onClick={() => navigate({ frame: finding.frames?.from ?? null }, { replace: true })}>
              Go to {framesText(finding.frames)}
            </Link>
          )}
        </Box>
      )}
      {finding.remedies.map((r) => (
        <RemedyButton key={r.title} remedy={r} />
      ))}
    </Box>
  );
}

function Link({ onClick, children }: { onClick: () => void; children: React.ReactNode }): ReactElement {
  const c = useColours();
  return (
    <Box
      component="button"
      onClick={onClick}
      sx={{
        all: 'unset',
        cursor: 'pointer',
        color: c.text,
        textDecoration: 'underline dotted',
        '&:focus-visible': { outline: `2px solid ${c.selected}` },
      }}
    >
      {children}
    </Box>
  );
}

/** Everything that was found, over the viewport's right side; the rest of the Bench stays in use. */
export function FindingsDrawer({ onClose }: { onClose: () => void }): ReactElement {
  const c = useColours();
  const { findings, passFindings, shown } = useBench();
  return (
    <Box
      role="complementary"
      aria-label="Findings"
      data-testid="findings"
      onKeyDown={(e) => {
        if (e.key === 'Escape') onClose();
      }}
      sx={{
        position: 'absolute',
        right: 0,
        top: 0,
        bottom: 0,
        width: 'min(360px, 70%)',
        zIndex: 5,
        bgcolor: c.panel,
        borderLeft: `1px solid ${c.line}`,
        display: 'flex',
        flexDirection: 'column',
      }}
    >
      <Box sx={{ display: 'flex', alignItems: 'center', px: 2, pt: 1.25, pb: 0.75 }}>
        <Box component="h2" sx={{ m: 0, fontSize: 15, fontWeight: 650, flex: 1 }}>
          Findings
        </Box>
        <IconButton size="small" aria-label="Close the findings" autoFocus onClick={onClose}>
          <Icon name="close" size={14} />
        </IconButton>
      </Box>
      <Box tabIndex={0} aria-label="List of findings" sx={{ overflow: 'auto', px: 2, pb: 2, flex: 1, minHeight: 0 }}>
        <Box sx={{ color: c.dim, fontSize: 12.5, mb: 1.5 }}>
          About the settings on the sheet{shown.run && shown.run.framesDone > 0 ? `, and what ${runTitle(shown.run)} went through` : ''}.
        </Box>
        {findings.length + passFindings.length === 0 && (
          <Box sx={{ height: 160 }}>
            <Empty title="Nothing found">The checks that can be made are all fine.</Empty>
          </Box>
        )}
        {findings.map((f) => (
          <FindingItem key={f.id} finding={f} />
        ))}
        {passFindings.map(({ pass, name, findings: own }) => (
          <Box key={pass} component="section" aria-label={name} sx={{ mb: 1.5 }}>
            <Box sx={{ display: 'flex', alignItems: 'baseline', gap: 1.5, mb: 0.75, fontSize: 12.5 }}>
              <b>{name}</b>
              <Link onClick={() => navigate({ pass, run: null, with: null })}>Open it</Link>
            </Box>
            {own.map((f) => (
              <PassFindingItem key={f.id} finding={f} pass={pass} />
            ))}
          </Box>
        ))}
      </Box>
    </Box>
  );
}

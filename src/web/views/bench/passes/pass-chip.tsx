import { useSortable } from '@dnd-kit/sortable';
import { CSS } from '@dnd-kit/utilities';
import ButtonBase from '@mui/material/ButtonBase';
import Tooltip from '@mui/material/Tooltip';
import type { KeyboardEvent, ReactElement } from 'react';
import { SOLVE, rungTitle } from '#core/shot';
import { formatBytes, formatSeconds } from '#core/units';
import type { PassState } from '#web/state';
import { StateGlyph, stateTitle, useColours } from '#web/ui';

/** What a chip says beside its name. */
function lineOf(p: PassState): string {
  const { run, state } = p;
  if (run?.state === 'queued') return 'queued';
  if (run?.state === 'running') return `${String(run.framesDone)} of ${String(run.frameCount)}`;
  if (run?.state === 'paused') return 'paused';
  if (run && state !== 'missing') return `${formatSeconds(run.seconds)} · ${formatBytes(run.bytes)}`;
  if (p.problem !== null) return 'cannot be computed';
  return p.final ? `~${formatSeconds(p.final.seconds)}` : stateTitle[state];
}

function helpOf(p: PassState): string {
  const run = p.run ? `${rungTitle[p.run.rung]} · run ${String(p.run.number)}: ${stateTitle[p.state]}` : 'Not computed yet';
  const because = p.because === null ? '' : `, because of ${p.because}`;
  const again =
    p.final && p.state !== 'fresh' ? `. A Final takes about ${formatSeconds(p.final.seconds)} and ${formatBytes(p.final.bytes)}` : '';
  return `${run}${because}${again}.${p.problem === null ? '' : ` ${p.problem}`}${p.enabled ? '' : ' Switched off.'}`;
}

interface PassChipProps {
  readonly pass: PassState;
  readonly chosen: boolean;
  readonly onSelect: (id: string) => void;
  readonly onKey: (event: KeyboardEvent, id: string) => void;
}

/** A pass in the row: how it stands, what it took or would take. The solve stays the first; the others can be dragged. */
export function PassChip({ pass: p, chosen, onSelect, onKey }: PassChipProps): ReactElement {
  const c = useColours();
  const { setNodeRef, listeners, transform, transition, isDragging } = useSortable({ id: p.id, disabled: p.id === SOLVE });
  return (
    <Tooltip title={isDragging ? '' : helpOf(p)} disableInteractive>
      <ButtonBase
        ref={setNodeRef}
        {...listeners}
        role="tab"
        aria-selected={chosen}
        tabIndex={chosen ? 0 : -1}
        data-pass={p.id}
        data-state={p.state}
        onClick={() => onSelect(p.id)}
        onKeyDown={(e) => onKey(e, p.id)}
        style={{ transform: CSS.Translate.toString(transform) ?? 'none', transition: transition ?? 'none' }}
        sx={{
          flexShrink: 0,
          gap: 0.75,
          px: 1.1,
          height: 28,
          borderRadius: 1.5,
          border: `1px solid ${chosen ? c.selected : c.line}`,
          bgcolor: chosen || isDragging ? c.raised : 'transparent',
          opacity: p.enabled ? 1 : 0.5,
          zIndex: isDragging ? 1 : 0,
          '&:hover': { borderColor: chosen ? c.selected : c.dim },
        }}
      >
        <StateGlyph state={p.problem !== null && p.state === 'missing' ? 'failed' : p.state} size={11} />
        <span style={{ fontWeight: 600, whiteSpace: 'nowrap', textDecoration: p.enabled ? 'none' : 'line-through' }}>{p.name}</span>
        <span className="mono" style={{ fontSize: 11.5, color: p.state === 'stale' ? c.warning : c.dim, whiteSpace: 'nowrap' }}>
          {lineOf(p)}
        </span>
      </ButtonBase>
    </Tooltip>
  );
}

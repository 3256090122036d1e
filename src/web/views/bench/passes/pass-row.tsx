import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import ButtonBase from '@mui/material/ButtonBase';
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import Tooltip from '@mui/material/Tooltip';
import { type KeyboardEvent, type ReactElement, useState } from 'react';
import { type PassKind, SOLVE, rungTitle } from '#core/shot';
import { formatBytes, formatSeconds } from '#core/units';
import { useCommands } from '#web/commands';
import { type PassState, mainSketch, navigate, passKinds, say, useSheet } from '#web/state';
import { Icon, StateGlyph, stateTitle, useColours } from '#web/ui';
import { useBench } from '../bench-context';
import { movedPass, withPass } from './pass-edits';

/** Looks at a pass, at the same frame. A Sketch is of the solve: it is not computed on unseen. */
function selectPass(id: string): void {
  if (id !== SOLVE) mainSketch().stop();
  navigate({ pass: id === SOLVE ? null : id, run: null, channel: null, with: null });
}

/** Adds a pass and looks at it. */
function addPass(kind: PassKind, reads: string): void {
  const made = withPass(useSheet.getState().settings.passes, kind, reads);
  if (useSheet.getState().edit((s) => ({ ...s, passes: made.passes }))) selectPass(made.id);
}

function movePass(id: string, by: number): void {
  const { settings, edit } = useSheet.getState();
  const from = settings.passes.findIndex((p) => p.id === id);
  const next = movedPass(settings.passes, from, from + by);
  if (next) edit((s) => ({ ...s, passes: next }));
  else say('info', 'It cannot stand there: a pass comes after what it reads.');
}

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

/** The passes of the sheet in order: how each stands, what it took or would take. Arrow keys go from one to the next, Alt with them moves it. */
export function PassRow(): ReactElement {
  const c = useColours();
  const { passes, pass } = useBench();
  const [adding, setAdding] = useState<HTMLElement | null>(null);
  const selected = pass?.id ?? SOLVE;
  const step = (by: number): void => {
    const at = passes.findIndex((p) => p.id === selected);
    const next = passes[(at + by + passes.length) % passes.length];
    if (next) selectPass(next.id);
  };
  useCommands([
    { id: 'pass-on', title: 'Next pass', keys: 'Shift+p', run: () => step(1) },
    ...passKinds.map(({ kind, title }) => ({
      id: `add-${kind}`,
      title: `Add a pass: ${title}`,
      keys: null,
      run: () => addPass(kind, SOLVE),
    })),
  ]);
  const onKey = (event: KeyboardEvent, id: string): void => {
    const by = event.key === 'ArrowRight' ? 1 : event.key === 'ArrowLeft' ? -1 : 0;
    if (by === 0) return;
    event.preventDefault();
    if (event.altKey && id !== SOLVE) movePass(id, by);
    else if (!event.altKey) step(by);
  };
  return (
    <Box
      sx={{
        display: 'flex',
        alignItems: 'center',
        gap: 0.75,
        px: 1.5,
        py: 0.6,
        borderBottom: `1px solid ${c.line}`,
        bgcolor: c.panel,
        overflowX: 'auto',
        minWidth: 0,
      }}
    >
      <Box role="tablist" aria-label="Passes" sx={{ display: 'flex', gap: 0.75 }}>
        {passes.map((p) => {
          const chosen = p.id === selected;
          return (
            <Tooltip key={p.id} title={helpOf(p)} disableInteractive>
              <ButtonBase
                role="tab"
                aria-selected={chosen}
                tabIndex={chosen ? 0 : -1}
                data-pass={p.id}
                data-state={p.state}
                onClick={() => selectPass(p.id)}
                onKeyDown={(e) => onKey(e, p.id)}
                sx={{
                  flexShrink: 0,
                  gap: 0.75,
                  px: 1.1,
                  height: 28,
                  borderRadius: 1.5,
                  border: `1px solid ${chosen ? c.selected : c.line}`,
                  bgcolor: chosen ? c.raised : 'transparent',
                  opacity: p.enabled ? 1 : 0.5,
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
        })}
      </Box>
      <Button
        size="small"
        color="inherit"
        onClick={(e) => setAdding(e.currentTarget)}
        sx={{ flexShrink: 0, minWidth: 0, height: 28, color: c.dim, gap: 0.5, px: 1 }}
      >
        <Icon name="add" size={13} /> Add a pass
      </Button>
      <Menu open={adding !== null} anchorEl={adding} onClose={() => setAdding(null)}>
        {passKinds.map(({ kind, title, about }) => (
          <MenuItem
            key={kind}
            onClick={() => {
              setAdding(null);
              addPass(kind, SOLVE);
            }}
            sx={{ display: 'block', maxWidth: 380, whiteSpace: 'normal' }}
          >
            <Box sx={{ fontWeight: 600 }}>{title}</Box>
            <Box sx={{ color: c.dim, fontSize: 12.5 }}>{about}</Box>
          </MenuItem>
        ))}
      </Menu>
    </Box>
  );
}

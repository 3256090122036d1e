import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import Tooltip from '@mui/material/Tooltip';
import { type ReactElement, useState } from 'react';
import { rungTitle } from '#core/shot';
import { formatSeconds } from '#core/units';
import type { CacheState, PassRunDto, ShotDto } from '#protocol';
import { useFreeing } from '#web/freeing';
import { type PassState, api, givesOf, navigate, sayError } from '#web/state';
import { Icon, QuietButton, StateGlyph, stateTitle, useColours } from '#web/ui';
import { useBench } from '../bench-context';
import { ExtendDialog } from '../runs/extend-dialog';
import { RunTools } from '../runs/run-tools';

const titleOf = (run: PassRunDto): string => `${rungTitle[run.rung]} · run ${String(run.number)}`;

/** The last frame that a run could have by now: the earliest end of its inputs. */
function reachOf(run: PassRunDto, shot: ShotDto): number | null {
  const read = [...shot.runs, ...shot.passRuns].filter((r) => run.inputs.includes(r.id));
  return read.length > 0 && read.length === run.inputs.length ? Math.min(...read.map((r) => givesOf(r).frames.last)) : null;
}

/** What can be done about frames that are not there; null: nothing is missing. */
function furtherOf(
  run: PassRunDto,
  shot: ShotDto,
  state: CacheState,
): { readonly title: string; readonly help: string; readonly longer?: true } | null {
  if (run.freed || run.state === 'queued' || run.state === 'running') return null;
  if (run.damagedFrames + run.missingFrames > 0)
    return { title: 'Repair', help: 'Computes the damaged and missing frames again; the others stay' };
  const reach = reachOf(run, shot);
  if (run.state === 'done' && state === 'fresh' && reach !== null && reach >= run.plan.frames.last + run.plan.frames.every)
    return { title: 'Extend …', help: 'Its input has more frames by now. Shows their price, then computes them', longer: true };
  if (run.state === 'done') return null;
  return run.framesDone > 0
    ? { title: 'Continue', help: 'Computes what is missing; what is there stays' }
    : { title: 'Try again', help: 'Begins with its first frame' };
}

function stateText(run: PassRunDto, pass: PassState, waitsFor: string): string {
  switch (run.state) {
    case 'queued':
      return waitsFor === '' ? 'queued' : `waits for ${waitsFor}`;
    case 'running':
      return `computing, ${String(run.framesDone)} of ${String(run.frameCount)}`;
    case 'done': {
      const lost = run.damagedFrames + run.missingFrames;
      if (lost > 0) return `${String(run.damagedFrames)} damaged, ${String(run.missingFrames)} missing`;
      return `${run.id === pass.run?.id ? stateTitle[pass.state] : 'of other settings'}, ${formatSeconds(run.seconds)}`;
    }
    case 'paused':
    case 'cancelled':
    case 'interrupted':
    case 'failed':
      return `${run.state}, ${String(run.framesDone)} of ${String(run.frameCount)}`;
  }
}

/** Which run of a pass is looked at, how it stands, and what can be done with it. */
export function PassBar({ pass, run }: { pass: PassState; run: PassRunDto | null }): ReactElement {
  const c = useColours();
  const { shot } = useBench();
  const [menu, setMenu] = useState<HTMLElement | null>(null);
  const [extending, setExtending] = useState(false);
  const freeing = useFreeing();
  const box = { position: 'absolute', left: 12, top: 12, maxWidth: 'calc(100% - 380px)', zIndex: 2 } as const;
  const panel = { bgcolor: c.panel, border: `1px solid ${c.line}`, borderRadius: 1.5, px: 1.25, py: 0.5 } as const;
  if (!run) {
    return (
      <Box sx={box}>
        <Box sx={{ ...panel, color: c.dim }}>
          <StateGlyph state={pass.problem === null ? 'missing' : 'failed'} />{' '}
          {pass.problem === null
            ? `${pass.name} is not computed yet. Start its Test or its Final above; what it reads is computed first.`
            : `${pass.name} cannot be computed. ${pass.problem}`}
        </Box>
      </Box>
    );
  }
  const runs = shot.passRuns.filter((r) => r.passId === pass.id);
  const active = run.state === 'running' || run.state === 'queued' || run.state === 'paused';
  const waits = [...shot.runs, ...shot.passRuns].filter((r) => run.inputs.includes(r.id) && r.state !== 'done');
  const state = run.id === pass.run?.id ? pass.state : run.framesDone === 0 ? 'missing' : 'stale';
  const further = furtherOf(run, shot, state);
  const free = !run.freed && run.framesDone > 0 && !active ? () => freeing.free([run]) : null;
  return (
    <Box sx={box}>
      <Box sx={{ ...panel, display: 'flex', flexWrap: 'wrap', alignItems: 'center', columnGap: 1, width: 'fit-content', maxWidth: '100%' }}>
        <StateGlyph state={state} />
        <QuietButton strong label="Choose a run" onClick={(e) => setMenu(e.currentTarget)}>
          {titleOf(run)} <Icon name="down" size={12} />
        </QuietButton>
        <span
          data-testid="run-state"
          className="mono"
          style={{
            color: active || state === 'fresh' ? c.fresh : state === 'stale' ? c.warning : run.state === 'failed' ? c.failed : c.dim,
          }}
        >
          {stateText(run, pass, waits.map((r) => `run ${String(r.number)}`).join(', '))}
        </span>
        {active && (
          <Tooltip title="Stop within a second; whole frames are kept">
            <Button size="small" color="inherit" onClick={() => void api.cancel(run.id).catch(sayError)}>
              Cancel
            </Button>
          </Tooltip>
        )}
        {further && (
          <Tooltip title={further.help}>
            <Button
              size="small"
              color="inherit"
              onClick={() => {
                if (further.longer) setExtending(true);
                else void api.goOn(run.id).catch(sayError);
              }}
            >
              {further.title}
            </Button>
          </Tooltip>
        )}
        {run.freed && run.restorable && (
          <Button size="small" color="inherit" onClick={() => void api.restore(run.id).catch(sayError)}>
            Bring back
          </Button>
        )}
        <RunTools run={run} free={free} />
      </Box>
      {run.error && (
        <Box
          role={run.state === 'queued' ? 'status' : 'alert'}
          sx={{
            ...panel,
            mt: 0.75,
            width: 'fit-content',
            maxWidth: 560,
            borderColor: run.state === 'queued' ? c.line : c.failed,
            fontSize: 12.5,
          }}
        >
          {run.error.message}
        </Box>
      )}
      <Menu open={menu !== null} anchorEl={menu} onClose={() => setMenu(null)}>
        {[...runs].reverse().map((r) => (
          <MenuItem
            key={r.id}
            selected={r.id === run.id}
            onClick={() => {
              setMenu(null);
              navigate({ run: r.id, frame: null });
            }}
          >
            {titleOf(r)}
            <Box component="span" className="mono" sx={{ ml: 1.5, color: c.dim }}>
              {r.state}
            </Box>
          </MenuItem>
        ))}
      </Menu>
      {freeing.dialog}
      {extending && <ExtendDialog runId={run.id} number={run.number} onClose={() => setExtending(false)} />}
    </Box>
  );
}

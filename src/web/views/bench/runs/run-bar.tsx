import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import Tooltip from '@mui/material/Tooltip';
import { type ReactElement, useState } from 'react';
import { type Difference, rungTitle, showDifference } from '#core/shot';
import { formatQuantity, formatSeconds } from '#core/units';
import type { CacheState } from '#protocol';
import { api, mainSketch, navigate, useMainSketch, useSheet, sayError } from '#web/state';
import { useFreeing } from '#web/freeing';
import { Icon, QuietButton, StateGlyph, stateTitle, useColours } from '#web/ui';
import { useBench } from '../bench-context';
import { clockTime, useMinute } from './clock';
import { ExtendDialog } from './extend-dialog';
import { RunTools } from './run-tools';
import { SKETCH, type ShownRun, runTitle } from './shown-run';

interface RunBarProps {
  readonly state: { readonly state: CacheState; readonly differences: readonly Difference[] };
  readonly secondsLeft: number | null;
}

/** Frames of a run that are not as they were written. */
const lostText = ({ damagedFrames, missingFrames }: ShownRun): string =>
  [damagedFrames > 0 ? `${String(damagedFrames)} damaged` : '', missingFrames > 0 ? `${String(missingFrames)} missing` : '']
    .filter((t) => t !== '')
    .join(', ');

/** What can be done about frames that are not there; null: nothing is missing, or computing them again would end the same way. */
function furtherOf(
  run: ShownRun,
  state: CacheState,
  lastFrame: number,
): { readonly title: string; readonly help: string; readonly longer?: true } | null {
  if (run.rung === 'sketch' || run.state === 'running' || run.state === 'queued' || run.freed) return null;
  if (run.damagedFrames + run.missingFrames > 0)
    return { title: 'Repair', help: 'Computes the damaged and missing frames again; the others stay' };
  if (run.state === 'done' && state === 'partial' && lastFrame > run.plan.options.lastFrame)
    return {
      title: `Extend to frame ${String(lastFrame)} …`,
      help: 'Shows the price, then computes the frames after its last one',
      longer: true,
    };
  if (run.state === 'done' || run.error?.tag === 'not-finite') return null;
  if (run.state === 'paused') return { title: 'Continue', help: 'Goes on now, as far as there is room' };
  if (run.framesDone === 0) return { title: 'Try again', help: 'Begins with its first frame' };
  return { title: 'Continue', help: 'Goes on after its last frame; what is there stays' };
}

/** Which run is looked at, how it stands against the sheet, and what can be done with it. */
export function RunBar({ state, secondsLeft }: RunBarProps): ReactElement {
  const c = useColours();
  const { shot, variant, shown } = useBench();
  const { run } = shown;
  const sketch = useMainSketch();
  const lastFrame = useSheet((s) => s.fields.lastFrame);
  const [menu, setMenu] = useState<HTMLElement | null>(null);
  const [extending, setExtending] = useState(false);
  const freeing = useFreeing();
  useMinute();
  const box = { position: 'absolute', left: 12, top: 12, maxWidth: 'calc(100% - 380px)', zIndex: 2 } as const;
  const panel = { bgcolor: c.panel, border: `1px solid ${c.line}`, borderRadius: 1.5, px: 1.25, py: 0.5 } as const;
  if (!run) {
    return (
      <Box sx={box}>
        <Box sx={{ ...panel, color: c.dim }}>
          <StateGlyph state="missing" /> Nothing computed for {variant.name}. Start the Sketch or the Test.
        </Box>
      </Box>
    );
  }
  const isSketch = run.rung === 'sketch';
  const active = run.state === 'running' || run.state === 'queued';
  const left = secondsLeft === null ? '' : isSketch ? '' : `, ${formatSeconds(secondsLeft)} left, done ${clockTime(secondsLeft)}`;
  const stateText =
    run.state === 'queued'
      ? 'queued'
      : run.state === 'running'
        ? `${isSketch ? formatQuantity(run.plan.options.voxelSize, 'metre', { digits: 3 }) : 'computing'}, ${String(run.framesDone)} of ${String(run.frameCount)}${left}`
        : isSketch
          ? `${formatQuantity(run.plan.options.voxelSize, 'metre', { digits: 3 })}, ${sketch.on ? 'follows every change' : 'ended'}`
          : state.state === 'damaged'
            ? lostText(run)
            : run.state === 'done'
              ? stateTitle[state.state]
              : `${run.state}, ${String(run.framesDone)} of ${String(run.frameCount)}`;
  const further = furtherOf(run, state.state, lastFrame);
  const coarser = isSketch && sketch.factor > 1.001;
  return (
    <Box sx={box}>
      <Box sx={{ ...panel, display: 'flex', flexWrap: 'wrap', alignItems: 'center', columnGap: 1, width: 'fit-content', maxWidth: '100%' }}>
        <StateGlyph state={isSketch ? (active ? 'partial' : 'fresh') : state.state} />
        <QuietButton strong label="Choose a run" onClick={(e) => setMenu(e.currentTarget)}>
          {runTitle(run)} <Icon name="down" size={12} />
        </QuietButton>
        <span
          data-testid="run-state"
          className="mono"
          style={{
            color:
              active || isSketch || state.state === 'fresh'
                ? c.fresh
                : state.state === 'stale'
                  ? c.warning
                  : run.state === 'failed' || state.state === 'damaged'
                    ? c.failed
                    : c.dim,
            whiteSpace: 'nowrap',
            overflow: 'hidden',
            textOverflow: 'ellipsis',
          }}
        >
          {stateText}
        </span>
        {(active || run.state === 'paused' || (isSketch && sketch.on)) && (
          <Tooltip title={isSketch ? 'Ends the Sketch; its frames stay' : 'Stop within a second; whole frames are kept'}>
            <Button
              size="small"
              color="inherit"
              onClick={() => {
                if (isSketch) mainSketch().stop();
                else void api.cancel(run.id).catch(sayError);
              }}
              sx={{ minWidth: 0, py: 0 }}
            >
              {isSketch ? 'End' : 'Cancel'}
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
              sx={{ minWidth: 0, py: 0 }}
            >
              {further.title}
            </Button>
          </Tooltip>
        )}
        {!active && run.restorable && (
          <Button size="small" color="inherit" onClick={() => void api.restore(run.id).catch(sayError)} sx={{ minWidth: 0, py: 0 }}>
            Bring back
          </Button>
        )}
        {!isSketch && (
          <RunTools
            run={run}
            free={active || run.state === 'paused' || run.freed || run.framesDone === 0 ? null : () => freeing.free([run])}
          />
        )}
        {freeing.dialog}
        {extending && <ExtendDialog runId={run.id} number={run.number} onClose={() => setExtending(false)} />}
        <Menu open={menu !== null} anchorEl={menu} onClose={() => setMenu(null)}>
          {sketch.frames.length > 0 && (
            <MenuItem
              selected={isSketch}
              onClick={() => {
                setMenu(null);
                navigate({ run: SKETCH });
              }}
            >
              Sketch
            </MenuItem>
          )}
          {[...shot.runs].reverse().map((r) => (
            <MenuItem
              key={r.id}
              selected={r.id === run.id}
              onClick={() => {
                setMenu(null);
                navigate({ run: r.id, ...(shot.variants.some((v) => v.id === r.variantId) ? { variant: r.variantId } : {}), frame: null });
              }}
              sx={{ gap: 1 }}
            >
              <span>
                {rungTitle[r.rung]} · run {r.number}
              </span>
              <span style={{ color: c.dim }}>{shot.variants.find((v) => v.id === r.variantId)?.name ?? 'a deleted variant'}</span>
              <span className="mono" style={{ color: c.dim, marginLeft: 'auto' }}>
                {r.freed ? 'freed' : `${String(r.framesDone)}/${String(r.frameCount)}`}
              </span>
            </MenuItem>
          ))}
        </Menu>
      </Box>
      {coarser && (
        <Box sx={{ ...panel, mt: 0.75, fontSize: 12, width: 'fit-content' }} data-testid="coarser">
          {sketch.factor.toFixed(1)} × the Final's voxel size: as fine as stays live.
        </Box>
      )}
      {run.notes !== '' && (
        <Box sx={{ ...panel, mt: 0.75, fontSize: 12, width: 'fit-content', maxWidth: 420, whiteSpace: 'pre-wrap' }}>{run.notes}</Box>
      )}
      {run.error && (
        <Box
          role={run.state === 'queued' ? 'status' : 'alert'}
          sx={{ ...panel, mt: 0.75, maxWidth: 560, borderColor: run.state === 'queued' ? c.line : c.failed, fontSize: 12.5 }}
        >
          {run.error.message} {run.framesDone > 0 && run.state === 'failed' && 'Frames before it are whole.'}
        </Box>
      )}
      {!isSketch && state.state === 'damaged' && (
        <Box
          data-testid="damaged"
          role="alert"
          sx={{ ...panel, mt: 0.75, borderColor: c.failed, fontSize: 12, width: 'fit-content', maxWidth: 460 }}
        >
          {lostText(run)} of {run.framesDone} frames: their files are not as they were written. Repair them, or put the files back and
          check.
        </Box>
      )}
      {!isSketch && state.state === 'stale' && (
        <Box data-testid="stale" sx={{ ...panel, mt: 0.75, fontSize: 12, color: c.text, width: 'fit-content' }}>
          <span style={{ color: c.warning }}>From other settings than those on the sheet.</span>
          {state.differences.slice(0, 4).map((d) => (
            <Box key={d.path} className="mono">
              {showDifference(d)}
            </Box>
          ))}
          {state.differences.length > 4 && <Box>and {state.differences.length - 4} more</Box>}
          {state.differences.length === 0 && <Box>The shot's frames or the solver changed since.</Box>}
        </Box>
      )}
    </Box>
  );
}

import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import IconButton from '@mui/material/IconButton';
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import Tooltip from '@mui/material/Tooltip';
import { type ReactElement, useState } from 'react';
import { type Difference, rungTitle, showDifference } from '#core/shot';
import { formatBytes, formatSeconds } from '#core/units';
import type { CacheState, RunDto, ShotDto, VariantDto } from '#protocol';
import { api, navigate, say, useProgress } from '#web/state';
import { Icon, QuietButton, StateGlyph, stateTitle, useColours } from '#web/ui';

interface RunBarProps {
  readonly shot: ShotDto;
  readonly run: RunDto | null;
  readonly variant: VariantDto;
  readonly state: { readonly state: CacheState; readonly differences: readonly Difference[] };
}

const failed = (error: unknown): void => {
  say('error', error instanceof Error ? error.message : String(error));
};

/** Which run is looked at, how it stands against the sheet, and what can be done with it. */
export function RunBar({ shot, run, variant, state }: RunBarProps): ReactElement {
  const c = useColours();
  const [menu, setMenu] = useState<HTMLElement | null>(null);
  const progress = useProgress((s) => (run ? s.runs[run.id] : undefined));
  const box = { position: 'absolute', left: 12, top: 12, maxWidth: 'calc(100% - 310px)', zIndex: 2 } as const;
  const panel = { bgcolor: c.panel, border: `1px solid ${c.line}`, borderRadius: 1.5, px: 1.25, py: 0.5 } as const;
  if (!run) {
    return (
      <Box sx={box}>
        <Box sx={{ ...panel, color: c.dim }}>
          <StateGlyph state="missing" /> Nothing computed for {variant.name}. Start the Test.
        </Box>
      </Box>
    );
  }
  const active = run.state === 'running' || run.state === 'queued';
  const done = run.framesDone + (progress && run.state === 'running' ? progress.part : 0);
  const left = run.framesDone > 2 ? (run.seconds / run.framesDone) * (run.frameCount - done) : null;
  const stateText =
    run.state === 'queued'
      ? 'waits for its turn'
      : run.state === 'running'
        ? `computing, ${String(run.framesDone)} of ${String(run.frameCount)}${left === null ? '' : `, ${formatSeconds(left)} left`}`
        : run.state === 'done'
          ? stateTitle[state.state]
          : `${run.state}, ${String(run.framesDone)} of ${String(run.frameCount)}`;
  const free = (): void => {
    api
      .free(run.id)
      .then(() => {
        say('info', `Run ${String(run.number)} is freed: ${formatBytes(run.bytes)}.`, {
          title: 'Undo',
          run: () => void api.restore(run.id).catch(failed),
        });
      })
      .catch(failed);
  };
  return (
    <Box sx={box}>
      <Box sx={{ ...panel, display: 'flex', alignItems: 'center', gap: 1, width: 'fit-content', maxWidth: '100%' }}>
        <StateGlyph state={state.state} />
        <QuietButton
          strong
          label="Choose a run"
          onClick={(e) => {
            setMenu(e.currentTarget);
          }}
        >
          {rungTitle[run.rung]} · run {run.number} <Icon name="down" size={12} />
        </QuietButton>
        <span
          data-testid="run-state"
          className="mono"
          style={{
            color:
              active || state.state === 'fresh' ? c.fresh : state.state === 'stale' ? c.warning : run.state === 'failed' ? c.failed : c.dim,
            whiteSpace: 'nowrap',
            overflow: 'hidden',
            textOverflow: 'ellipsis',
          }}
        >
          {stateText}
        </span>
        {active && (
          <Tooltip title="Stop within a second; whole frames are kept">
            <Button size="small" color="inherit" onClick={() => void api.cancel(run.id).catch(failed)} sx={{ minWidth: 0, py: 0 }}>
              Cancel
            </Button>
          </Tooltip>
        )}
        {!active && run.restorable && (
          <Button size="small" color="inherit" onClick={() => void api.restore(run.id).catch(failed)} sx={{ minWidth: 0, py: 0 }}>
            Bring back
          </Button>
        )}
        <Tooltip title={`Copy the cache's folder: ${run.folder}`}>
          <IconButton
            size="small"
            aria-label="Copy the cache's path"
            onClick={() =>
              void navigator.clipboard.writeText(run.folder).then(
                () => {
                  say('success', `Copied: ${run.folder}`);
                },
                () => {
                  say('warning', run.folder);
                },
              )
            }
          >
            <Icon name="copy" size={15} />
          </IconButton>
        </Tooltip>
        {!active && !run.freed && run.framesDone > 0 && (
          <Tooltip title={`Free its cache (${formatBytes(run.bytes)}); can be undone until the space is needed`}>
            <IconButton size="small" aria-label="Free this run's cache" onClick={free}>
              <Icon name="free" size={15} />
            </IconButton>
          </Tooltip>
        )}
        <Menu
          open={menu !== null}
          anchorEl={menu}
          onClose={() => {
            setMenu(null);
          }}
        >
          {[...shot.runs].reverse().map((r) => (
            <MenuItem
              key={r.id}
              selected={r.id === run.id}
              onClick={() => {
                setMenu(null);
                navigate({ run: r.id, variant: r.variantId, frame: null });
              }}
              sx={{ gap: 1 }}
            >
              <span>
                {rungTitle[r.rung]} · run {r.number}
              </span>
              <span style={{ color: c.dim }}>{shot.variants.find((v) => v.id === r.variantId)?.name}</span>
              <span className="mono" style={{ color: c.dim, marginLeft: 'auto' }}>
                {r.freed ? 'freed' : `${String(r.framesDone)}/${String(r.frameCount)}`}
              </span>
            </MenuItem>
          ))}
        </Menu>
      </Box>
      {run.error && (
        <Box role="alert" sx={{ ...panel, mt: 0.75, borderColor: c.failed, fontSize: 12.5 }}>
          {run.error.message} Frames before it are whole.
        </Box>
      )}
      {state.state === 'stale' && (
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

import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Tooltip from '@mui/material/Tooltip';
import type { ReactElement } from 'react';
import { listFrames } from '#core/pass';
import { rungTitle } from '#core/shot';
import { type PassSketchState, mainPassSketch } from '#web/state';
import { StateGlyph, useColours } from '#web/ui';
import { useSketchPass } from './use-sketch-pass';

/** How a pass's Sketch stands: which frames it shows, how far it is, and what it lacks of a run. */
export function SketchBar({ sketch, frame }: { sketch: PassSketchState; frame: number | null }): ReactElement {
  const c = useColours();
  const sketchPass = useSketchPass();
  const { job, computing, error, done } = sketch;
  const panel = {
    bgcolor: c.panel,
    border: `1px solid ${c.line}`,
    borderRadius: 1.5,
    px: 1.25,
    py: 0.5,
    width: 'fit-content',
    maxWidth: '100%',
  } as const;
  const { first, last } = job?.plan.frames ?? { first: 0, last: 0 };
  const one = job !== null && first === last;
  const outside = !one && job !== null && frame !== null && (frame < job.shown || frame > last);
  const lead =
    job && job.shown > first
      ? `approximate: begins at frame ${String(first)}, from the ${rungTitle[job.rung]} that it reads`
      : `from the ${rungTitle[job?.rung ?? 'test']} that it reads`;
  return (
    <Box data-testid="sketch-bar" sx={{ position: 'absolute', left: 12, top: 12, maxWidth: 'calc(100% - 380px)', zIndex: 2 }}>
      {job && (
        <Box sx={{ ...panel, display: 'flex', flexWrap: 'wrap', alignItems: 'center', columnGap: 1 }}>
          <StateGlyph state={error ? 'failed' : 'fresh'} />
          <b>{one ? `Try of frame ${String(last)}` : `Sketch, frames ${String(job.shown)} to ${String(last)}`}</b>
          <span data-testid="run-state" className="mono" style={{ color: computing ? c.fresh : c.dim }}>
            {computing
              ? one
                ? 'computing'
                : `${String(done)} of ${String(listFrames(job.plan.frames).length)}`
              : error
                ? 'failed'
                : 'follows every change'}
          </span>
          {outside && (
            <Tooltip title="Computes the frames around this one instead">
              <Button size="small" color="inherit" onClick={() => sketchPass(frame)}>
                Sketch frame {frame}
              </Button>
            </Tooltip>
          )}
          <Button size="small" color="inherit" onClick={() => mainPassSketch().stop()}>
            End
          </Button>
          <Box sx={{ width: '100%', color: c.dim, fontSize: 12 }}>{lead}</Box>
        </Box>
      )}
      {error && (
        <Box role="alert" sx={{ ...panel, mt: job ? 0.75 : 0, maxWidth: 560, borderColor: c.failed, fontSize: 12.5 }}>
          {error.message}
        </Box>
      )}
    </Box>
  );
}

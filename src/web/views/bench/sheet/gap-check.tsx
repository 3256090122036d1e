import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { type ReactElement, useEffect, useState } from 'react';
import { type Gap } from '#core/flow';
import { RUNGS, canonicalJson, resolvePlan, rungTitle } from '#core/shot';
import { formatQuantity } from '#core/units';
import { useRoute, useSheet, useSolve } from '#web/state';
import { useColours } from '#web/ui';
import { askShapes } from '#workers/browser';
import { useBench } from '../bench-context';

/** Measures how far matter's contact lies from the shape that is seen. */
export function GapCheck({ index }: { index: number }): ReactElement {
  const c = useColours();
  const { shown } = useBench();
  const settings = useSolve();
  const fields = useSheet((s) => s.fields);
  const frame = useRoute().frame ?? fields.firstFrame;
  const [state, setState] = useState<Gap | 'busy' | Error | null>(null);
  const rung = shown.run?.rung ?? 'test';
  const solid = canonicalJson([settings.solids[index], settings.detail, rung, frame]);
  // A figure is of the settings that it was measured with.
  useEffect(() => {
    setState(null);
  }, [solid]);
  const measure = (): void => {
    const plan = resolvePlan(fields, settings, rung, RUNGS[rung]);
    const at = settings.solids.slice(0, index).filter((s) => !s.hidden).length;
    setState('busy');
    askShapes({ kind: 'gap', plan, frame, solid: at }).then(setState, (error: unknown) => {
      setState(error instanceof Error ? error : new Error(String(error)));
    });
  };
  const length = (v: number): string => formatQuantity(v, 'metre', { digits: 2 });
  const voxels = (g: Gap, v: number): string => `${(v / g.voxelSize).toFixed(1)} voxels`;
  return (
    <Box sx={{ mt: 0.75, pt: 0.75, borderTop: `1px solid ${c.line}`, fontSize: 12.5 }}>
      <Button size="small" color="inherit" variant="outlined" disabled={state === 'busy'} onClick={measure} sx={{ borderColor: c.line }}>
        {state === 'busy' ? 'Measuring' : 'Measure the gap'}
      </Button>
      {state instanceof Error && (
        <Box role="alert" sx={{ color: c.failed, mt: 0.5 }}>
          {state.message}
        </Box>
      )}
      {state !== null && state !== 'busy' && !(state instanceof Error) && (
        <Box role="status" aria-label="Gap" sx={{ mt: 0.5 }}>
          In a {rungTitle[rung]} contact lies <b className="mono">{length(state.mean)}</b> from what is seen on average (
          {voxels(state, state.mean)}); at most <b className="mono">{length(state.outside)}</b> outside and{' '}
          <b className="mono">{length(state.inside)}</b> inside it ({voxels(state, state.outside)}, {voxels(state, state.inside)}).
        </Box>
      )}
    </Box>
  );
}

import Button from '@mui/material/Button';
import Box from '@mui/material/Box';
import { type ReactElement, useCallback, useEffect, useMemo, useRef } from 'react';
import type { SurfaceBody, SurfaceReport } from '#core/passes';
import { PASS_SKETCH, usePassRun, usePassSketch, useRoute, useSkinLook } from '#web/state';
import type { ShownMesh } from '#web/viewport';
import { useColours } from '#web/ui';
import { useBench } from '../bench-context';
import type { PictureProps } from '../passes/picture-props';
import { PassViewport } from '../passes/pass-viewport';
import { usePoints } from '../passes/points-store';
import { useSketchPass } from '../passes/use-sketch-pass';
import { heldOf, holdSkin, useHeldSkin, wipeSkins } from './held-skin';
import { LookMenu } from './look-menu';
import { type ShownSkin, useSkin } from './mesh-store';
import { TwoSkins } from './two-skins';

const NONE: ReadonlySet<number> = new Set();

/** A try of one frame follows the timeline: another frame is tried when it is gone to. */
function useFollowing(): void {
  const sketch = usePassSketch();
  const { frame } = useRoute();
  const sketchPass = useSketchPass();
  const at = sketch.job?.shown ?? null;
  const here = sketch.on && !sketch.computing && at !== null && frame !== null && frame !== at;
  const { whole } = sketch.job ?? { whole: null };
  const inside =
    whole !== null && frame !== null && frame >= whole.first && frame <= whole.last && (frame - whole.first) % whole.every === 0;
  const latest = useRef(sketchPass);
  latest.current = sketchPass;
  useEffect(() => {
    // Begun anew by another frame alone: a change of the sheet begins it by itself.
    if (here && inside) latest.current(frame);
  }, [here, inside, frame]);
}

/** A skin in its yard: shaded, as a wireframe or by a number of its vertices; with particles; held against another stack. */
export function SurfacePicture({ run, frame, stored, moving }: PictureProps): ReactElement {
  const c = useColours();
  const { shot, pass } = useBench();
  useFollowing();
  const skin = useSkin(run?.id ?? null, frame, stored);
  const look = useSkinLook();
  const { held, wipe } = useHeldSkin();
  const sketch = usePassSketch();
  const given = usePassRun(run && run.id !== PASS_SKETCH ? run.id : null).data?.frames;
  const frames = run?.id === PASS_SKETCH ? sketch.frames : given;
  const report = (frames?.find((f) => f.frame === frame && f.stored)?.report ?? null) as SurfaceReport | null;
  const [source = null] = run?.inputs ?? [];
  const all = usePoints(look.particles === 'all' ? source : null, frame, look.particles === 'all' ? stored : NONE);
  const shownOf = useCallback(
    (s: ShownSkin): ShownMesh => ({
      mesh: s.mesh,
      look: { as: look.as, column: look.column },
      outside: look.particles === 'outside' ? s.outside : null,
    }),
    [look.as, look.column, look.particles],
  );
  const mesh = useMemo(() => skin && shownOf(skin), [skin, shownOf]);
  // The trough that it stands in.
  const bounds = useMemo(() => (run?.plan ? [(run.plan.body as SurfaceBody).scene.bounds.limit] : []), [run]);
  const own = heldOf(held, shot.id, pass?.id);
  const button = { bgcolor: c.panel, borderColor: c.line, height: 30, fontSize: 13 } as const;
  return (
    <>
      {own ? (
        <TwoSkins held={own} now={mesh} report={report} frame={frame} shownOf={shownOf} moving={moving} />
      ) : (
        <PassViewport frame={frame} volume={null} beside={[]} points={all} mesh={mesh} bounds={bounds} moving={moving} run={run} />
      )}
      <LookMenu mesh={skin?.mesh ?? null} />
      <Box sx={{ position: 'absolute', right: 14, bottom: own ? 10 : 46, zIndex: 4, display: 'flex', gap: 0.75 }}>
        {own && (
          <Button variant="outlined" color="inherit" size="small" aria-pressed={wipe} onClick={() => wipeSkins(!wipe)} sx={button}>
            {wipe ? 'Side by side' : 'Wipe'}
          </Button>
        )}
        {own ? (
          <Button variant="outlined" color="inherit" size="small" onClick={() => holdSkin(null)} sx={button}>
            Let go
          </Button>
        ) : (
          skin &&
          report &&
          pass &&
          frame !== null && (
            <Button
              variant="outlined"
              color="inherit"
              size="small"
              onClick={() => holdSkin({ shot: shot.id, pass: pass.id, frame, skin, report })}
              sx={button}
            >
              Hold this skin
            </Button>
          )
        )}
      </Box>
    </>
  );
}

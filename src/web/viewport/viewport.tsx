import Box from '@mui/material/Box';
import { type ReactElement, useEffect, useRef, useState } from 'react';
import type { Box3 } from '#core/geometry';
import type { Preview } from '#core/formats';
import type { LookChannel } from '#core/look';
import type { ShapeSettings } from '#core/shot';
import { useColours } from '#web/ui';
import { type SliceSetting, Stage } from './stage';

export type { SliceSetting } from './stage';

export interface ViewportFrame {
  readonly preview: Preview;
  readonly channel: LookChannel;
  readonly voxelSize: number;
  /** Value that means "nothing here". */
  readonly background: number;
}

export interface ViewportScene {
  readonly solids: readonly ShapeSettings[];
  readonly sources: readonly ShapeSettings[];
  readonly limit: Box3;
}

interface ViewportProps {
  readonly scene: ViewportScene;
  readonly frame: ViewportFrame | null;
  readonly sliced: ViewportFrame | null;
  readonly slice: SliceSetting | null;
  readonly bounds: Box3 | null;
  /** Pictures follow each other: quick ones. */
  readonly moving: boolean;
  /** Another number frames the scene anew. */
  readonly framing: number;
}

/** Round length of about `metres`, and how it is written. */
function roundLength(metres: number): { metres: number; text: string } {
  const magnitude = 10 ** Math.floor(Math.log10(metres));
  const lead = [5, 2, 1].find((n) => n * magnitude <= metres) ?? 1;
  const value = lead * magnitude;
  return { metres: value, text: value >= 1 ? `${String(value)} m` : `${String(Math.round(value * 100))} cm` };
}

export function Viewport({ scene, frame, sliced, slice, bounds, moving, framing }: ViewportProps): ReactElement {
  const c = useColours();
  const canvas = useRef<HTMLCanvasElement>(null);
  const holder = useRef<HTMLDivElement>(null);
  const stage = useRef<Stage | null>(null);
  const [failed, setFailed] = useState<string | null>(null);
  const [metresPer100, setMetresPer100] = useState(1);
  const [drawn, setDrawn] = useState(0);

  useEffect(() => {
    const element = canvas.current;
    const outer = holder.current;
    if (!element || !outer) return undefined;
    let made: Stage;
    try {
      made = new Stage(element);
    } catch (error) {
      setFailed(error instanceof Error ? error.message : String(error));
      return undefined;
    }
    stage.current = made;
    made.onView = setMetresPer100;
    made.onDrawn = () => {
      setDrawn((n) => n + 1);
    };
    const observer = new ResizeObserver(() => {
      made.setSize(Math.max(2, outer.clientWidth), Math.max(2, outer.clientHeight));
    });
    observer.observe(outer);
    made.setSize(Math.max(2, outer.clientWidth), Math.max(2, outer.clientHeight));
    return () => {
      observer.disconnect();
      made.dispose();
      stage.current = null;
    };
  }, []);

  useEffect(() => {
    stage.current?.setYard(
      scene.solids,
      scene.sources,
      scene.limit,
      { line: c.line, solid: c.panel === '#162125' ? '#2c3a3e' : '#b9b2a3', edge: c.dim, source: c.selected, bracket: c.dim },
      c.page,
    );
  }, [scene, c]);
  useEffect(() => {
    stage.current?.frame(scene.limit);
    // Only when asked: edits of the scene must not move the camera.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [framing]);
  useEffect(() => {
    stage.current?.setBounds(bounds, c.text);
  }, [bounds, c]);
  useEffect(() => {
    stage.current?.setFrame(frame?.preview ?? null, frame?.channel ?? 'density', frame?.voxelSize ?? 1, frame?.background ?? 0);
  }, [frame]);
  useEffect(() => {
    stage.current?.setSlice(sliced?.preview ?? null, sliced?.channel ?? 'density', sliced?.voxelSize ?? 1, slice);
  }, [sliced, slice, scene]);
  useEffect(() => {
    stage.current?.setMoving(moving);
  }, [moving]);

  const scale = roundLength(metresPer100 * 1.4);
  return (
    <Box ref={holder} sx={{ position: 'absolute', inset: 0, overflow: 'hidden' }}>
      <canvas
        ref={canvas}
        style={{ width: '100%', height: '100%', display: 'block', touchAction: 'none' }}
        data-testid="viewport"
        data-drawn={drawn}
        role="img"
        aria-label="Viewport: drag to orbit, wheel to come nearer, right button to shift"
      />
      {failed !== null && (
        <Box sx={{ position: 'absolute', inset: 0, display: 'grid', placeItems: 'center', color: c.failed, p: 4 }} role="alert">
          This browser cannot draw the viewport (WebGL2 is needed): {failed}
        </Box>
      )}
      <Box sx={{ position: 'absolute', right: 18, bottom: 16, textAlign: 'right', pointerEvents: 'none', color: c.text }}>
        <span className="mono">{scale.text}</span>
        <Box
          sx={{
            width: `${String((scale.metres / metresPer100) * 100)}px`,
            height: 6,
            border: `1.5px solid ${c.text}`,
            borderTop: 'none',
            ml: 'auto',
          }}
        />
      </Box>
    </Box>
  );
}

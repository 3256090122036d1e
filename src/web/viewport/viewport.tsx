import { type DropsLook } from './drops';
import type { ShownMesh } from './mesh';
import Box from '@mui/material/Box';
import { type ReactElement, useLayoutEffect, useRef, useState } from 'react';
import type { Box3 } from '#core/geometry';
import type { PointsPreview } from '#core/formats';
import { type ContactSlice, type ForceArrows } from '#core/flow';
import type { ShapeSettings } from '#core/shot';
import { useGround } from '#web/state';
import { grounds, useColours } from '#web/ui';
import type { HandleMode } from './handles';
import { type ShownVolume as ViewportFrame } from './smoke';
import { type SliceSetting, Stage, extentOf, type StageScene, type View } from './stage';
import { moveByKey } from './camera-keys';
import { useContent } from './use-content';

export type { ShownVolume as ViewportFrame } from './smoke';
export type { SliceSetting, View } from './stage';
export type { HandleMode } from './handles';

export type ViewportScene = StageScene;

/** What can be asked of a viewport that is on the screen. */
export interface ViewportApi {
  readonly view: () => View;
  readonly setView: (view: View) => void;
  readonly frame: () => void;
  readonly still: (aspect: number | null) => Promise<Blob>;
}

/** What is placed by hand in the viewport. */
export type ViewportHandles =
  | {
      readonly kind: 'shape';
      readonly shape: ShapeSettings;
      readonly mode: HandleMode;
      /** What "aim" turns; null: nothing has a direction. */
      readonly velocity: readonly [number, number, number] | null;
      readonly onAim: (velocity: readonly [number, number, number], done: boolean) => void;
      readonly onChange: (shape: ShapeSettings) => void;
      readonly onDrag: (shape: ShapeSettings | null) => void;
    }
  | { readonly kind: 'box'; readonly box: Box3; readonly onChange: (box: Box3) => void; readonly onDrag: (box: Box3 | null) => void };

const NOTHING_BESIDE: readonly ViewportFrame[] = [];

interface ViewportProps {
  readonly scene: ViewportScene;
  readonly frame: ViewportFrame | null;
  readonly sliced: ViewportFrame | null;
  readonly slice: SliceSetting | null;
  /** A plane of the solids' distance, the band where matter meets them marked. */
  readonly contact?: ContactSlice | null;
  /** Forces on a plane. */
  readonly arrows?: ForceArrows | null;
  /** Particles. */
  readonly points?: PointsPreview | null;
  /** Of a liquid: as balls. */
  readonly drops?: DropsLook | null;
  /** A skin of triangles. */
  readonly mesh?: ShownMesh | null;
  /** Pictures of more bounds, elsewhere in the same scene. */
  readonly beside?: readonly ViewportFrame[];
  readonly bounds: readonly Box3[];
  /** Pictures follow each other: quick ones. */
  readonly moving: boolean;
  /** And something computes meanwhile. */
  readonly gentle?: boolean;
  readonly handles?: ViewportHandles | null;
  /** The content of all pictures that share a camera; without it, this one's. */
  readonly content?: Box3 | null;
  /** The first view; without it the content is framed, or the whole scene while there is none. */
  readonly initialView?: View | null;
  /** Given once the viewport is there, taken back when it goes. */
  readonly onReady?: (api: ViewportApi | null) => void;
  /** The user moved the camera. */
  readonly onCamera?: (view: View) => void;
  /** Width over height of a camera's picture: what lies outside is dimmed. */
  readonly aspect?: number | null;
  readonly label?: string;
}

/** Round length of about `metres`, and how it is written. */
function roundLength(metres: number): { metres: number; text: string } {
  const magnitude = 10 ** Math.floor(Math.log10(metres));
  const lead = [5, 2, 1].find((n) => n * magnitude <= metres) ?? 1;
  const value = lead * magnitude;
  return { metres: value, text: value >= 1 ? `${String(value)} m` : `${String(Math.round(value * 100))} cm` };
}

export function Viewport({
  scene,
  frame,
  sliced,
  slice,
  contact = null,
  arrows = null,
  points = null,
  drops = null,
  mesh = null,
  beside = NOTHING_BESIDE,
  bounds,
  moving,
  gentle = false,
  content: shared,
  handles = null,
  initialView = null,
  onReady,
  onCamera,
  aspect = null,
  label = 'Viewport',
}: ViewportProps): ReactElement {
  const c = useColours();
  const g = grounds[useGround()];
  const canvas = useRef<HTMLCanvasElement>(null);
  const holder = useRef<HTMLDivElement>(null);
  const stage = useRef<Stage | null>(null);
  const [failed, setFailed] = useState<string | null>(null);
  const [metresPer100, setMetresPer100] = useState(1);
  const [drawn, setDrawn] = useState(0);
  const [size, setSize] = useState<readonly [number, number]>([2, 2]);
  // Callbacks may change with every draw of the view that owns them.
  const latest = useRef({ handles, onCamera, onReady, extent: extentOf(scene), initialView });
  const own = useContent({ scene, frame, beside, points, mesh });
  const content = shared === undefined ? own : shared;
  latest.current = { handles, onCamera, onReady, extent: content ?? extentOf(scene), initialView };
  /** Nobody has chosen a view: the content is framed, again when it has grown. */
  const unchosen = useRef(initialView === null);

  useLayoutEffect(() => {
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
    made.onRest = (resting) => {
      element.dataset['rest'] = String(resting);
    };
    made.onCamera = (view) => {
      unchosen.current = false;
      latest.current.onCamera?.(view);
    };
    made.handles.onShape = (shape, done) => {
      const h = latest.current.handles;
      if (h?.kind !== 'shape') return;
      if (done) {
        h.onDrag(null);
        h.onChange(shape);
      } else h.onDrag(shape);
    };
    made.handles.onAim = (velocity, done) => {
      const h = latest.current.handles;
      if (h?.kind === 'shape') h.onAim(velocity, done);
    };
    made.handles.onBox = (box, done) => {
      const h = latest.current.handles;
      if (h?.kind !== 'box') return;
      if (done) {
        h.onDrag(null);
        h.onChange(box);
      } else h.onDrag(box);
    };
    const fit = (): void => {
      const [w, h] = [outer.clientWidth, outer.clientHeight];
      // Nothing of it is seen: what it shows stays for when it is seen again.
      if (w < 2 || h < 2) return;
      made.setSize(w, h);
      setSize([w, h]);
    };
    const observer = new ResizeObserver(fit);
    observer.observe(outer);
    fit();
    if (latest.current.initialView) made.setView(latest.current.initialView);
    else made.frame(latest.current.extent);
    latest.current.onReady?.({
      view: () => made.view(),
      setView: (view) => {
        unchosen.current = false;
        made.setView(view);
      },
      frame: () => {
        made.frame(latest.current.extent);
        latest.current.onCamera?.(made.view());
      },
      still: (wanted) => made.still(wanted),
    });
    return () => {
      latest.current.onReady?.(null);
      observer.disconnect();
      made.dispose();
      stage.current = null;
    };
  }, []);

  useLayoutEffect(() => {
    stage.current?.setYard(
      scene,
      { line: g.line, solid: g.solid, edge: g.edge, source: g.selected, region: g.fresh, bracket: g.edge },
      g.page,
    );
  }, [scene, g]);
  useLayoutEffect(() => {
    const on = stage.current?.handles;
    if (handles?.kind === 'shape') on?.setShape(handles.shape, handles.mode, handles.velocity);
    else on?.setShape(null, 'move', null);
    on?.setBox(handles?.kind === 'box' ? handles.box : null, g.selected);
  }, [handles, g]);
  useLayoutEffect(() => {
    stage.current?.setBounds(bounds, g.text);
  }, [bounds, g]);
  useLayoutEffect(() => {
    stage.current?.setFrames(frame ? [frame, ...beside] : beside);
  }, [frame, beside]);
  useLayoutEffect(() => {
    stage.current?.setContent(content);
    if (content && unchosen.current) stage.current?.frame(content);
  }, [content]);
  useLayoutEffect(() => {
    stage.current?.setSlice(sliced?.preview ?? null, sliced?.channel ?? 'density', sliced?.voxelSize ?? 1, slice);
  }, [sliced, slice, scene]);
  useLayoutEffect(() => {
    stage.current?.setContact(contact, { solid: g.edge, band: g.warning, line: g.line });
  }, [contact, g]);
  useLayoutEffect(() => {
    stage.current?.setArrows(arrows, g.fresh);
  }, [arrows, g]);
  useLayoutEffect(() => {
    stage.current?.setPoints(points, drops);
  }, [points, drops]);
  useLayoutEffect(() => {
    stage.current?.setMesh(mesh, g.text, c.selected);
  }, [mesh, g, c]);
  useLayoutEffect(() => {
    stage.current?.setMoving(moving, gentle);
  }, [moving, gentle]);

  useLayoutEffect(() => {
    // After all of the above, and before the page is painted: a canvas that comes is not seen empty.
    stage.current?.drawNow();
  }, []);

  const scale = roundLength(metresPer100 * 1.4);
  const [width, height] = size;
  const bars =
    aspect === null
      ? null
      : width / height > aspect
        ? { x: (width - height * aspect) / 2, y: 0 }
        : { x: 0, y: (height - width / aspect) / 2 };
  return (
    <Box ref={holder} sx={{ position: 'absolute', inset: 0, overflow: 'hidden' }}>
      <canvas
        ref={canvas}
        style={{ width: '100%', height: '100%', display: 'block', touchAction: 'none', outlineOffset: -2 }}
        data-testid="viewport"
        data-drawn={drawn}
        // Keys are its own while it has the focus: a reader must hand them through.
        role="application"
        tabIndex={0}
        aria-label={`${label}: drag or arrow keys to turn, wheel or plus and minus to come nearer, right button or Shift with arrow keys to shift, Home to see all`}
        onKeyDown={(event) => {
          if (event.ctrlKey || event.metaKey || event.altKey || !stage.current) return;
          const on = stage.current;
          const seeAll = (): void => {
            on.frame(latest.current.extent);
            latest.current.onCamera?.(on.view());
          };
          if (!moveByKey(on, event.key, event.shiftKey, seeAll)) return;
          event.preventDefault();
          event.stopPropagation();
        }}
      />
      {bars && (
        <Box
          sx={{
            position: 'absolute',
            left: bars.x,
            right: bars.x,
            top: bars.y,
            bottom: bars.y,
            boxShadow: '0 0 0 4000px rgba(0, 0, 0, 0.45)',
            outline: `1px solid ${g.edge}`,
            pointerEvents: 'none',
          }}
        />
      )}
      {failed !== null && (
        <Box sx={{ position: 'absolute', inset: 0, display: 'grid', placeItems: 'center', color: c.failed, p: 4 }} role="alert">
          This browser cannot draw the viewport (WebGL2 is needed): {failed}
        </Box>
      )}
      <Box sx={{ position: 'absolute', right: 18, bottom: 16, textAlign: 'right', pointerEvents: 'none', color: g.text }}>
        <span className="mono">{scale.text}</span>
        <Box
          sx={{
            width: `${String((scale.metres / metresPer100) * 100)}px`,
            height: 6,
            border: `1.5px solid ${g.text}`,
            borderTop: 'none',
            ml: 'auto',
          }}
        />
      </Box>
    </Box>
  );
}

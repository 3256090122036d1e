import { type PointsPreview } from '#core/formats';
import type { Box3 } from '#core/geometry';
import Box from '@mui/material/Box';
import { type KeyboardEvent, type PointerEvent, type ReactElement, useEffect, useMemo, useRef, useState } from 'react';
import { useColours } from '#web/ui';
import {
  type DropsLook,
  type ShownMesh,
  type SliceSetting,
  type View,
  Viewport,
  type ViewportApi,
  type ViewportFrame,
  type ViewportScene,
  useContentOfAll,
} from '#web/viewport';
import { keepView, keptView } from '../view/kept-view';

export interface Side {
  readonly id: string;
  readonly title: string;
  readonly detail: string;
  readonly scene: ViewportScene;
  readonly frame: ViewportFrame | null;
  readonly sliced?: ViewportFrame | null;
  /** Particles of a liquid, and how they are drawn. */
  readonly points?: PointsPreview | null;
  readonly drops?: DropsLook | null;
  /** A skin of triangles. */
  readonly mesh?: ShownMesh | null;
  /** Said over the picture when there is nothing to see. */
  readonly empty: string | null;
}

interface LinkedViewportsProps {
  readonly shotId: string;
  readonly sides: readonly Side[];
  /** The second lies over the first and is cut at a line that can be dragged. */
  readonly wipe: boolean;
  readonly slice?: SliceSetting | null;
  readonly moving: boolean;
  readonly gentle?: boolean;
}

/** Viewports that share one camera: turn one, and all turn. */
/** What is compared is seen without its bounds. */
const NO_BOUNDS: readonly Box3[] = [];

export function LinkedViewports({ shotId, sides, wipe, slice = null, moving, gentle = false }: LinkedViewportsProps): ReactElement {
  const c = useColours();
  const apis = useRef(new Map<string, ViewportApi>());
  const holder = useRef<HTMLDivElement>(null);
  const [at, setAt] = useState(0.5);
  const ids = sides.map((s) => s.id).join(' ');
  const content = useContentOfAll(sides);
  const links = useMemo(
    () =>
      ids.split(' ').map((id) => ({
        onReady: (api: ViewportApi | null) => {
          if (!api) {
            apis.current.delete(id);
            return;
          }
          // Without a kept camera each frames the content of all of them: the same box.
          const kept = keptView(shotId);
          if (kept) api.setView(kept);
          apis.current.set(id, api);
        },
        onCamera: (view: View) => {
          keepView(shotId, view);
          for (const [other, api] of apis.current) if (other !== id) api.setView(view);
        },
      })),
    [ids, shotId],
  );
  // A change of shape (side by side to wipe) changes each picture's width, not where the cameras stand.
  useEffect(() => {
    const view = keptView(shotId);
    if (view) for (const api of apis.current.values()) api.setView(view);
  }, [wipe, shotId]);
  const move = (event: PointerEvent): void => {
    const box = holder.current?.getBoundingClientRect();
    if (box) setAt(Math.min(0.97, Math.max(0.03, (event.clientX - box.left) / box.width)));
  };
  const onKeyDown = (event: KeyboardEvent): void => {
    const by = { ArrowLeft: -0.02, ArrowRight: 0.02 }[event.key];
    if (by === undefined) return;
    event.preventDefault();
    event.stopPropagation();
    setAt((v) => Math.min(0.97, Math.max(0.03, v + by)));
  };
  const percent = `${String(at * 100)}%`;
  return (
    <Box
      ref={holder}
      sx={{
        position: 'relative',
        minHeight: 0,
        minWidth: 0,
        display: 'grid',
        gap: wipe ? 0 : '1px',
        bgcolor: c.line,
        gridAutoRows: 'minmax(0, 1fr)',
      }}
      style={{ gridTemplateColumns: wipe ? '1fr' : `repeat(${String(sides.length > 3 ? 2 : sides.length)}, minmax(0, 1fr))` }}
    >
      {sides.map((side, n) => (
        <Box
          key={side.id}
          data-testid={`side-${String(n)}`}
          sx={{ position: 'relative', bgcolor: c.page, minWidth: 0, minHeight: 0, ...(wipe ? { gridArea: '1 / 1' } : {}) }}
          style={wipe && n === 1 ? { clipPath: `inset(0 0 0 ${percent})` } : {}}
        >
          <Viewport
            scene={side.scene}
            frame={side.frame}
            sliced={side.sliced ?? null}
            points={side.points ?? null}
            drops={side.drops ?? null}
            mesh={side.mesh ?? null}
            slice={side.sliced === undefined ? null : slice}
            bounds={NO_BOUNDS}
            moving={moving}
            gentle={gentle}
            content={content}
            initialView={keptView(shotId)}
            {...links[n]}
            label={side.title}
          />
          <Box
            sx={{
              position: 'absolute',
              top: 10,
              ...(wipe && n === 1 ? { right: 10 } : { left: 10 }),
              px: 1,
              py: 0.25,
              maxWidth: wipe ? '45%' : 'calc(100% - 20px)',
              bgcolor: c.panel,
              border: `1px solid ${c.line}`,
              borderRadius: 1.5,
              pointerEvents: 'none',
              whiteSpace: 'nowrap',
              overflow: 'hidden',
              textOverflow: 'ellipsis',
            }}
          >
            <b>{side.title}</b> <span style={{ color: c.dim }}>{side.detail}</span>
          </Box>
          {side.empty !== null && (
            <Box
              sx={{
                position: 'absolute',
                inset: 0,
                display: 'grid',
                placeItems: 'center',
                pointerEvents: 'none',
                color: c.dim,
                p: 2,
                textAlign: 'center',
              }}
            >
              {side.empty}
            </Box>
          )}
        </Box>
      ))}
      {wipe && (
        <Box
          role="slider"
          tabIndex={0}
          aria-label="Where the wipe is"
          aria-valuemin={0}
          aria-valuemax={100}
          aria-valuenow={Math.round(at * 100)}
          onPointerDown={(e) => e.currentTarget.setPointerCapture(e.pointerId)}
          onPointerMove={(e) => {
            if (e.buttons & 1) move(e);
          }}
          onKeyDown={onKeyDown}
          sx={{
            position: 'absolute',
            top: 0,
            bottom: 0,
            width: 15,
            ml: '-7px',
            cursor: 'ew-resize',
            touchAction: 'none',
            zIndex: 3,
            '&::before': { content: '""', position: 'absolute', left: 6, width: 2, top: 0, bottom: 0, bgcolor: c.selected },
            '&::after': {
              content: '""',
              position: 'absolute',
              left: 1,
              top: 'calc(50% - 14px)',
              width: 12,
              height: 28,
              borderRadius: 1,
              border: `2px solid ${c.selected}`,
              bgcolor: c.panel,
            },
            '&:focus-visible': { outline: `2px solid ${c.text}` },
          }}
          style={{ left: percent }}
        />
      )}
    </Box>
  );
}

import Box from '@mui/material/Box';
import type { ReactElement } from 'react';
import type { PointsPreview } from '#core/formats';
import type { Box3 } from '#core/geometry';
import type { PassRunDto } from '#protocol';
import { useColours } from '#web/ui';
import { type ShownMesh, Viewport, type ViewportFrame } from '#web/viewport';
import { useBench } from '../bench-context';
import { keepView, keptView } from '../view/kept-view';
import { useYard } from '../view/scene';

interface Props {
  readonly run: PassRunDto | null;
  readonly frame: number | null;
  readonly volume: ViewportFrame | null;
  readonly beside: readonly ViewportFrame[];
  readonly points: PointsPreview | null;
  readonly mesh?: ShownMesh | null;
  /** Boxes that are drawn as lines. */
  readonly bounds?: readonly Box3[];
  readonly moving: boolean;
}

const NO_BOUNDS: readonly Box3[] = [];

/** The yard with a pass's frame in it, from where the shot is looked at. */
export function PassViewport({ run, frame, volume, beside, points, mesh = null, bounds = NO_BOUNDS, moving }: Props): ReactElement {
  const c = useColours();
  const { shot, pass } = useBench();
  const yard = useYard(frame, null, null);
  return (
    <Box sx={{ position: 'absolute', inset: 0, bgcolor: c.page }}>
      <Viewport
        scene={yard}
        frame={volume}
        beside={beside}
        points={points}
        mesh={mesh}
        sliced={null}
        slice={null}
        bounds={bounds}
        moving={moving}
        gentle={run?.state === 'running'}
        initialView={keptView(shot.id)}
        onCamera={(view) => keepView(shot.id, view)}
        label={pass?.name ?? 'Viewport'}
      />
    </Box>
  );
}

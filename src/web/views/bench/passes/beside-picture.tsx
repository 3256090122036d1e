import Box from '@mui/material/Box';
import { type ReactElement, useEffect, useMemo, useState } from 'react';
import type { LookChannel } from '#core/look';
import { isLiquid, solveOf } from '#core/shot';
import { formatQuantity } from '#core/units';
import type { PassRunDto } from '#protocol';
import { useSheet, useSolve } from '#web/state';
import type { ViewportFrame } from '#web/viewport';
import { useBench } from '../bench-context';
import { LinkedViewports, type Side } from '../compare/linked-viewports';
import { fetchFrame } from '../frames/frame-store';
import { sceneOf } from '../view/scene';
import { type SideRun, sidesOf } from './sides';

export function useSides(run: PassRunDto | null): readonly SideRun[] {
  const { shot, passes } = useBench();
  return useMemo(
    () => sidesOf(run, shot.runs, shot.passRuns, (id) => passes.find((p) => p.id === id)?.name ?? id),
    [run, shot.runs, shot.passRuns, passes],
  );
}

/** The same frame of all of them, from one camera. */
export function BesidePicture({
  sides,
  frame,
  channel,
  moving,
}: {
  sides: readonly SideRun[];
  frame: number | null;
  channel: LookChannel;
  moving: boolean;
}): ReactElement {
  const { shot } = useBench();
  const sheet = useSheet((s) => s.settings);
  const fields = useSheet((s) => s.fields);
  const ambient = useSolve((s) => (isLiquid(s) ? 0 : s.matter.ambient));
  const [shown, setShown] = useState<ReadonlyMap<string, ViewportFrame | null>>(new Map());
  useEffect(() => {
    if (frame === null) return undefined;
    let current = true;
    for (const { id, voxelSize } of sides)
      fetchFrame(id, frame, channel)
        .catch(() => null)
        .then((preview) => {
          if (!current) return;
          const picture = preview && {
            preview,
            channel,
            flame: null,
            tint: null,
            voxelSize,
            background: channel === 'temperature' ? ambient : 0,
          };
          setShown((all) => new Map(all).set(id, picture));
        })
        .catch(() => undefined);
    return () => {
      current = false;
    };
  }, [sides, frame, channel, ambient]);
  const pictures: Side[] = useMemo(() => {
    const scene = sceneOf(solveOf(sheet), fields, frame);
    return sides.map(({ id, title, voxelSize }) => ({
      id,
      title,
      detail: formatQuantity(voxelSize, 'metre', { digits: 2 }),
      scene,
      frame: shown.get(id) ?? null,
      empty: shown.get(id) === null ? `Frame ${String(frame)} is not there` : null,
    }));
  }, [sides, shown, sheet, fields, frame]);
  return (
    <Box sx={{ position: 'absolute', inset: '56px 0 0 0', display: 'grid' }} data-testid="beside">
      <LinkedViewports shotId={shot.id} sides={pictures} wipe={false} moving={moving} />
    </Box>
  );
}

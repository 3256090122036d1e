import { isLiquid } from '#core/shot';
import { useEffect, useState } from 'react';
import type { LookChannel } from '#core/look';
import type { PassRunDto } from '#protocol';
import { useSolve } from '#web/state';
import type { ViewportFrame } from '#web/viewport';
import { fetchFrame } from '../frames/frame-store';

const NONE: readonly ViewportFrame[] = [];

/** The volumes of all parts of a pass's frame; the last ones stay until the new ones are there. */
export function usePassVolumes(
  run: PassRunDto | null,
  frame: number | null,
  stored: ReadonlySet<number>,
  channel: LookChannel,
): readonly ViewportFrame[] {
  const [shown, setShown] = useState<{ readonly run: string; readonly frames: readonly ViewportFrame[] } | null>(null);
  const ambient = useSolve((s) => (isLiquid(s) ? 0 : s.matter.ambient));
  const id = run?.id ?? null;
  const sizes = run?.plan.gives.voxelSizes;
  const flame = channel === 'density' && run?.plan.gives.channels.includes('flame') === true;
  useEffect(() => {
    if (id === null || frame === null || !sizes || !stored.has(frame)) return undefined;
    let current = true;
    const one = async (voxelSize: number, part: number): Promise<ViewportFrame | null> => {
      const [preview, burns] = await Promise.all([
        fetchFrame(id, frame, channel, part),
        flame ? fetchFrame(id, frame, 'flame', part) : null,
      ]);
      return preview && { preview, channel, flame: burns, tint: null, voxelSize, background: channel === 'temperature' ? ambient : 0 };
    };
    void Promise.all(sizes.map(one)).then((all) => {
      if (!current) return;
      setShown({ run: id, frames: all.filter((f) => f !== null) });
      if (stored.has(frame + 1)) void fetchFrame(id, frame + 1, channel);
    });
    return () => {
      current = false;
    };
  }, [id, sizes, frame, stored, channel, flame, ambient]);
  return shown?.run === id ? shown.frames : NONE;
}

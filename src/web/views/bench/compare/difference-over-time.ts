import { useEffect, useState } from 'react';
import { differenceOf } from '#core/formats';
import type { LookChannel } from '#core/look';
import { isLiquidPlan } from '#core/shot';
import { backgroundOf } from '../frames/as-frame';
import { fetchFrame } from '../frames/frame-store';
import { sharedFrames } from '../frames/shared-frames';
import type { Shown } from '../runs/shown-run';

/** Frames looked at: enough for a curve, few enough to be there in seconds. */
const SAMPLES = 25;

export interface DifferencePoint {
  readonly frame: number;
  /** 0 alike, 1 nothing in common. */
  readonly relative: number;
}

/** How far a channel of two runs is apart, frame by frame; grows while it is worked out. */
export function useDifferenceOverTime(a: Shown, b: Shown, channel: LookChannel): readonly DifferencePoint[] {
  const [points, setPoints] = useState<readonly DifferencePoint[]>([]);
  const [one, two] = [a.run, b.run];
  const frames = sharedFrames(a.stored, b.stored, SAMPLES).join(' ');
  useEffect(() => {
    setPoints([]);
    if (!one || !two || frames === '' || isLiquidPlan(one.plan)) return undefined;
    const abort = new AbortController();
    const work = async (): Promise<void> => {
      for (const frame of frames.split(' ').map(Number)) {
        const [first, second] = await Promise.all([fetchFrame(one.id, frame, channel), fetchFrame(two.id, frame, channel)]);
        if (abort.signal.aborted) return;
        if (!first || !second) continue;
        const { relative } = differenceOf(
          { preview: first, voxelSize: one.plan.options.voxelSize, background: backgroundOf(one.plan, channel) },
          { preview: second, voxelSize: two.plan.options.voxelSize, background: backgroundOf(two.plan, channel) },
        );
        setPoints((p) => [...p, { frame, relative }]);
        // The page goes on between two frames.
        await new Promise((resolve) => setTimeout(resolve, 8));
      }
    };
    void work();
    return () => {
      abort.abort();
    };
    // eslint-disable-next-line react-hooks/exhaustive-deps -- a run is the same as long as its id is
  }, [one?.id, two?.id, frames, channel]);
  return points;
}

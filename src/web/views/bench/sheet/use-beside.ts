import { useEffect, useState } from 'react';
import type { Preview } from '#core/formats';
import type { LookChannel } from '#core/look';
import { type Plan, optionsOf, planOfBounds } from '#core/shot';
import { liveById } from '#web/state';
import type { ViewportFrame } from '#web/viewport';
import { backgroundOf } from '../frames/as-frame';
import { fetchFrame } from '../frames/frame-store';

interface Wanted {
  readonly run: string | null;
  readonly plan: Plan | null;
  readonly frame: number | null;
  readonly stored: ReadonlySet<number>;
  readonly channel: LookChannel;
  /** What burns in it, what colours it. */
  readonly flame: LookChannel | null;
  readonly tint: LookChannel | null;
}

const NONE: readonly ViewportFrame[] = [];

/** Pictures of the bounds beside, of the frame that is shown; the last ones stay until the new ones are there. */
export function useBeside({ run, plan, frame, stored, channel, flame, tint }: Wanted): readonly ViewportFrame[] {
  const [shown, setShown] = useState<{ readonly of: Plan; readonly frames: readonly ViewportFrame[] } | null>(null);
  const count = plan ? optionsOf(plan).length : 1;
  // A Sketch's frames come while its plan stays: what is there now is part of what to look for.
  const sketching = run !== null && liveById(run) !== null;
  const there = frame !== null && (sketching || stored.has(frame));
  useEffect(() => {
    if (run === null || !plan || frame === null || count === 1 || !there) return undefined;
    let current = true;
    const one = async (n: number): Promise<ViewportFrame | null> => {
      const get = (name: LookChannel | null): Promise<Preview | null> =>
        name === null ? Promise.resolve(null) : fetchFrame(run, frame, name, n);
      const [preview, burns, coloured] = await Promise.all([get(channel), get(flame), get(tint)]);
      const own = planOfBounds(plan, n);
      return (
        preview && {
          preview,
          channel,
          flame: burns,
          tint: coloured,
          voxelSize: own.options.voxelSize,
          background: backgroundOf(own, channel),
        }
      );
    };
    void Promise.all(Array.from({ length: count - 1 }, (_v, n) => one(n + 1))).then((all) => {
      if (current) setShown({ of: plan, frames: all.filter((f) => f !== null) });
    });
    return () => {
      current = false;
    };
  }, [run, plan, frame, channel, flame, tint, count, there]);
  return shown !== null && shown.of === plan && count > 1 && there ? shown.frames : NONE;
}

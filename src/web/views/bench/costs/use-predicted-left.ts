import { useMemo } from 'react';
import type { DetailedPrediction } from '#core/cost';
import type { FrameDto } from '#protocol';
import { useProgress } from '#web/state';
import type { ShownRun } from '../runs/shown-run';

/**
 * Seconds until a running run is done: what is predicted for the frames that are left, scaled by how the frames so far came out. Late frames cost more
 * than early ones; a mean of what is behind would promise too much.
 */
export function useSecondsLeft(run: ShownRun | null, frames: readonly FrameDto[], predicted: DetailedPrediction | null): number | null {
  const progress = useProgress((s) => (run ? s.runs[run.id] : undefined));
  return useMemo(() => {
    if (run?.state !== 'running') return null;
    const done = new Map(frames.map((f) => [f.frame, f.report.totalSeconds]));
    const measured = [...done.values()].reduce((a, b) => a + b, 0);
    const list = predicted?.frames ?? [];
    if (!list.some((f) => f.seconds !== null)) {
      return done.size > 2 ? (measured / done.size) * (run.frameCount - done.size) : null;
    }
    let [behind, left] = [0, 0];
    for (const f of list) {
      if (done.has(f.frame)) behind += f.seconds ?? 0;
      else left += (f.seconds ?? 0) * (progress?.frame === f.frame ? 1 - progress.part : 1);
    }
    // A handful of frames says little: the prediction counts as ten seconds of work.
    const pace = (measured + 10) / (behind + 10);
    return left * pace;
  }, [run, frames, predicted, progress]);
}

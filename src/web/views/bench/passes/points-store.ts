import { LRUCache } from 'lru-cache';
import { useEffect, useState } from 'react';
import { type PointsPreview, readPointsPreview } from '#core/formats';
import { PASS_SKETCH, api, liveById, mainPassSketch } from '#web/state';
import { failureOf, noteFailure, useArrival } from '../frames/arrivals';

/** Frames of points kept in memory, bytes. */
const KEEP = 128e6;
/** Frames fetched ahead of the one that is shown. */
const AHEAD = 4;

const kept = new LRUCache<string, PointsPreview>({ maxSize: KEEP, sizeCalculation: (p) => Math.max(1, 8 * p.count) });
const asked = new Map<string, Promise<PointsPreview | null>>();
const keyOf = (run: string, frame: number): string => `${run}/${String(frame)}`;

function fetchPoints(run: string, frame: number): Promise<PointsPreview | null> {
  if (run === PASS_SKETCH) return Promise.resolve(mainPassSketch().points(frame));
  const sketch = liveById(run);
  if (sketch) return Promise.resolve(sketch.points(frame));
  const key = keyOf(run, frame);
  const known = kept.get(key);
  if (known) return Promise.resolve(known);
  const open = asked.get(key);
  if (open) return open;
  const promise = api
    .frame(run, frame, 'points')
    .then((bytes) => {
      const points = readPointsPreview(bytes);
      if (points) kept.set(key, points);
      noteFailure(key, null);
      return points;
    })
    .catch((error: unknown) => {
      noteFailure(key, error);
      return null;
    })
    .finally(() => asked.delete(key));
  asked.set(key, promise);
  return promise;
}

export const arePointsReady = (run: string, frame: number): boolean =>
  run === PASS_SKETCH
    ? mainPassSketch().points(frame) !== null
    : (liveById(run)?.points(frame) ?? kept.get(keyOf(run, frame)) ?? null) !== null;

/** A frame's particles; the last ones stay until the new ones are there. Fetches the following frames too. */
export function usePoints(run: string | null, frame: number | null, stored: ReadonlySet<number>): PointsPreview | null {
  const [shown, setShown] = useState<{ readonly run: string; readonly frame: number; readonly points: PointsPreview | null } | null>(null);
  useEffect(() => {
    if (run === null || frame === null || !stored.has(frame)) return undefined;
    let current = true;
    void fetchPoints(run, frame).then((points) => {
      if (!current) return;
      setShown({ run, frame, points });
      for (let n = 1; n <= AHEAD; n++) if (stored.has(frame + n)) void fetchPoints(run, frame + n);
    });
    return () => {
      current = false;
    };
  }, [run, frame, stored]);
  const wanted = run !== null && frame !== null && stored.has(frame);
  const here = wanted && shown?.run === run && shown.frame === frame;
  const problem = here && !shown.points ? failureOf(keyOf(run, frame)) : null;
  useArrival(wanted && (!here || problem !== null) ? { frame, problem } : null);
  // While the wanted one is on its way the last one stays, that of another run too.
  return wanted || shown?.run === run ? (shown?.points ?? null) : null;
}

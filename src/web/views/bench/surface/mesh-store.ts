import { LRUCache } from 'lru-cache';
import { useEffect, useState } from 'react';
import { type MeshPreview, type PointsPreview, readMeshPreview, readPointsPreview } from '#core/formats';
import { PASS_SKETCH, api, mainPassSketch } from '#web/state';
import { failureOf, noteFailure, useArrival } from '../frames/arrivals';

/** A frame's skin, and the particles that lie outside of it. */
export interface ShownSkin {
  readonly mesh: MeshPreview;
  readonly outside: PointsPreview | null;
}

/** Skins kept in memory, bytes. */
const KEEP = 256e6;
/** Frames fetched ahead of the one that is shown. */
const AHEAD = 3;

const sizeOf = ({ mesh, outside }: ShownSkin): number => 10 * mesh.vertices + 4 * mesh.triangles.length + 8 * (outside?.count ?? 0) + 1;
const kept = new LRUCache<string, ShownSkin>({ maxSize: KEEP, sizeCalculation: sizeOf });
const asked = new Map<string, Promise<ShownSkin | null>>();
const keyOf = (run: string, frame: number): string => `${run}/${String(frame)}`;

function fromSketch(frame: number): ShownSkin | null {
  const mesh = mainPassSketch().mesh(frame);
  return mesh && { mesh, outside: mainPassSketch().points(frame, 'outside') };
}

function fetchSkin(run: string, frame: number): Promise<ShownSkin | null> {
  if (run === PASS_SKETCH) return Promise.resolve(fromSketch(frame));
  const key = keyOf(run, frame);
  const known = kept.get(key);
  if (known) return Promise.resolve(known);
  const open = asked.get(key);
  if (open) return open;
  const promise = Promise.all([api.frame(run, frame, 'mesh'), api.frame(run, frame, 'outside')])
    .then(([bytes, points]) => {
      const mesh = readMeshPreview(bytes);
      const skin = mesh && { mesh, outside: readPointsPreview(points) };
      if (skin) kept.set(key, skin);
      noteFailure(key, null);
      return skin;
    })
    .catch((error: unknown) => {
      noteFailure(key, error);
      return null;
    })
    .finally(() => asked.delete(key));
  asked.set(key, promise);
  return promise;
}

export const isSkinReady = (run: string, frame: number): boolean =>
  run === PASS_SKETCH ? fromSketch(frame) !== null : kept.get(keyOf(run, frame)) !== undefined;

/** A frame's skin; the last one stays until the new one is there. Fetches the following frames too. */
export function useSkin(run: string | null, frame: number | null, stored: ReadonlySet<number>): ShownSkin | null {
  const [shown, setShown] = useState<{ readonly run: string; readonly frame: number; readonly skin: ShownSkin | null } | null>(null);
  useEffect(() => {
    if (run === null || frame === null || !stored.has(frame)) return undefined;
    let current = true;
    void fetchSkin(run, frame).then((skin) => {
      if (!current) return;
      setShown({ run, frame, skin });
      for (let n = 1; n <= AHEAD; n++) if (stored.has(frame + n)) void fetchSkin(run, frame + n);
    });
    return () => {
      current = false;
    };
  }, [run, frame, stored]);
  const wanted = run !== null && frame !== null && stored.has(frame);
  const here = wanted && shown?.run === run && shown.frame === frame;
  const problem = here && !shown.skin ? failureOf(keyOf(run, frame)) : null;
  useArrival(wanted && (!here || problem !== null) ? { frame, problem } : null);
  // While the wanted one is on its way the last one stays, that of another run too.
  return wanted || shown?.run === run ? (shown?.skin ?? null) : null;
}

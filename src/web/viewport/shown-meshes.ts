import type { Geometry, PointsGeometry } from '#core/mesh';
import { askShapes } from '#workers/browser';

/** Imported geometry that the page has, or that could not be had (null). */
const known = new Map<string, Geometry | PointsGeometry | null>();
const asked = new Map<string, Promise<void>>();

/** What is drawn of imported geometry; null while it is on its way. */
export const shownMesh = (hash: string): Geometry | PointsGeometry | null => known.get(hash) ?? null;

/** Fetches what is not known yet; resolves when something new can be drawn, false when nothing is new. */
export async function fetchMeshes(hashes: readonly string[]): Promise<boolean> {
  const missing = hashes.filter((h) => !known.has(h));
  if (missing.length === 0) return false;
  await Promise.all(
    missing.map((hash) => {
      const found = asked.get(hash);
      if (found) return found;
      const asking = askShapes({ kind: 'shown', hash }).then(
        (geometry) => {
          known.set(hash, geometry);
        },
        () => {
          // A box stands in its place; the run and the findings say what is missing.
          known.set(hash, null);
        },
      );
      asked.set(hash, asking);
      return asking;
    }),
  );
  return true;
}

import { type Geometry, type PointsGeometry, geometryBytes } from '#core/mesh';
import { askShapes } from '#workers/browser';

/** Imported geometry that is kept beyond what is drawn, bytes. */
const KEEP = 256e6;

/** Imported geometry that the page has, or that could not be had (null); drawn longest ago first. */
const known = new Map<string, Geometry | PointsGeometry | null>();
const asked = new Map<string, Promise<void>>();

/** What is drawn of imported geometry; null while it is on its way. */
export const shownMesh = (hash: string): Geometry | PointsGeometry | null => known.get(hash) ?? null;

/** Lets go of what is not among `drawn` and was not drawn for longest, until the rest is not too much. */
function letGo(drawn: readonly string[]): void {
  const bytes = (g: Geometry | PointsGeometry | null): number => (g ? geometryBytes(g) : 0);
  let total = [...known.values()].reduce((n, g) => n + bytes(g), 0);
  for (const [hash, geometry] of known) {
    if (total <= KEEP) return;
    if (drawn.includes(hash)) continue;
    known.delete(hash);
    total -= bytes(geometry);
  }
}

/** Fetches what is not known yet; resolves when something new can be drawn, false when nothing is new. */
export async function fetchMeshes(hashes: readonly string[]): Promise<boolean> {
  const missing = hashes.filter((h) => !known.has(h));
  for (const hash of hashes) {
    const found = known.get(hash);
    if (found === undefined) continue;
    known.delete(hash);
    known.set(hash, found);
  }
  if (missing.length === 0) return false;
  await Promise.all(
    missing.map((hash) => {
      const found = asked.get(hash);
      if (found) return found;
      const asking = askShapes({ kind: 'shown', hash })
        .then(
          (geometry) => {
            known.set(hash, geometry);
          },
          () => {
            // A box stands in its place; the run and the findings say what is missing.
            known.set(hash, null);
          },
        )
        .finally(() => asked.delete(hash));
      asked.set(hash, asking);
      return asking;
    }),
  );
  letGo(hashes);
  return true;
}

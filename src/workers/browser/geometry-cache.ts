import { LRUCache } from 'lru-cache';
import { type AnyGeometry, geometryBytes } from '#core/mesh';

/** Imported geometry that a worker keeps, bytes: a few large meshes. What was not asked for longest is let go. */
const KEEP = 384e6;

/** Imported geometry by fingerprint, asked for once each and let go of when it is too much. */
export function createGeometryCache(load: (hash: string) => Promise<AnyGeometry>, keep = KEEP) {
  const known = new LRUCache<string, AnyGeometry>({ maxSize: keep, sizeCalculation: (geometry) => Math.max(1, geometryBytes(geometry)) });
  return {
    async get(hash: string): Promise<AnyGeometry> {
      const found = known.get(hash) ?? (await load(hash));
      // Larger than all that is kept: used, and not kept.
      if (geometryBytes(found) <= keep) known.set(hash, found);
      return found;
    },
    /** All of a plan, held for as long as the map is: however much it is, it is needed together. */
    async all(hashes: readonly string[]): Promise<Map<string, AnyGeometry>> {
      const out = new Map<string, AnyGeometry>();
      for (const hash of hashes) out.set(hash, await this.get(hash));
      return out;
    },
  };
}

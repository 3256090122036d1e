import type { Box3 } from '#core/geometry';

/** Triangles. Positions x, y, z a vertex; three vertices a triangle, counter-clockwise seen from outside. */
export interface TriangleMesh {
  readonly positions: Float32Array;
  readonly triangles: Uint32Array;
}

/** Imported geometry as Ruddle keeps it: file units, the middle of its rest pose at the origin, y up or as the file had it. */
export interface Geometry {
  readonly kind: 'mesh';
  /** Rest pose. */
  readonly mesh: TriangleMesh;
  /** Vertex positions of every sample of its animation, one after the other; null: it has none. */
  readonly samples: Float32Array | null;
  /** Samples a second. */
  readonly rate: number;
  /** How many; 1 without animation. */
  readonly count: number;
}

/** A signed distance that was imported as volume: negative inside; file units, its middle at the origin. */
export interface DistanceGeometry {
  readonly kind: 'distance';
  readonly grid: DistanceGrid;
}

/**
 * Signed distance on a lattice, negative inside. Sample (i, j, k) lies at origin + (i, j, k) x spacing and is number (k ny + j) nx + i; units of
 * length are those of its owner.
 */
export interface DistanceGrid {
  readonly origin: readonly [number, number, number];
  readonly spacing: number;
  readonly size: readonly [number, number, number];
  readonly values: Float32Array;
}

export function boxOf(positions: Float32Array): Box3 {
  const min: [number, number, number] = [Infinity, Infinity, Infinity];
  const max: [number, number, number] = [-Infinity, -Infinity, -Infinity];
  for (let n = 0; n < positions.length; n += 3) {
    for (let a = 0; a < 3; a++) {
      const v = positions[n + a] ?? 0;
      if (v < (min[a] ?? 0)) min[a] = v;
      if (v > (max[a] ?? 0)) max[a] = v;
    }
  }
  return { min, max };
}

/** Vertex positions at a second of the animation, straight between its samples; it stands still before the first and after the last. */
export function positionsAt(geometry: Geometry, seconds: number, out?: Float32Array): Float32Array {
  const { samples, mesh, rate, count } = geometry;
  if (!samples) return mesh.positions;
  const at = Math.min(count - 1, Math.max(0, seconds * rate));
  const first = Math.min(count - 2, Math.floor(at));
  const part = at - first;
  const length = mesh.positions.length;
  const result = out ?? new Float32Array(length);
  const a = first * length;
  const b = a + length;
  for (let n = 0; n < length; n++) {
    const from = samples[a + n] ?? 0;
    result[n] = from + ((samples[b + n] ?? 0) - from) * part;
  }
  return result;
}

import type { Particles } from './particles';

/** Particles of a frame, as they lie in memory; metres and seconds. */
export interface LiquidCloud {
  readonly count: number;
  /** x, y, z, age each. */
  readonly places: Float32Array;
  /** vx, vy, vz, volume (cubic metres) each. */
  readonly motions: Float32Array;
  readonly ids: Int32Array;
  readonly sources: Int32Array;
  readonly viscosities: Float32Array;
}

/** What is there of the particles; what left in the last substep is still in their arrays. `motions`: velocities and volumes (voxels) to be taken over, 4 each. */
export function cloudOf(p: Particles, motions: Float32Array, voxelSize: number): LiquidCloud {
  const h = voxelSize;
  const places = p.placeFloats.slice();
  const words = p.markWords;
  const marks = p.markFloats;
  const kept: number[] = [];
  for (let n = 0; n < p.count; n++) if ((motions[4 * n + 3] ?? 0) > 0) kept.push(n);
  const count = kept.length;
  const ids = new Int32Array(count);
  const sources = new Int32Array(count);
  const viscosities = new Float32Array(count);
  kept.forEach((n, k) => {
    for (let a = 0; a < 4; a++) {
      places[4 * k + a] = a < 3 ? (places[4 * n + a] ?? 0) * h : (places[4 * n + 3] ?? 0);
      motions[4 * k + a] = a < 3 ? (motions[4 * n + a] ?? 0) : (motions[4 * n + 3] ?? 0) * h ** 3;
    }
    ids[k] = words[4 * n + 1] ?? 0;
    sources[k] = words[4 * n + 2] ?? 0;
    viscosities[k] = marks[4 * n] ?? 0;
  });
  return { count, places: places.subarray(0, 4 * count), motions: motions.subarray(0, 4 * count), ids, sources, viscosities };
}

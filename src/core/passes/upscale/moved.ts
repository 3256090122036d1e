import { type Lattice, pointsOf } from './lattice';

/** How far the matter of a fine frame lies from that of its base, seen at the base's voxels. */
export interface Moved {
  /** Relative L2 of the density. */
  readonly density: number;
  /** Between the centres of mass, metres. */
  readonly centre: number;
  /** Largest shift of a side of the box around the matter, metres: of its front, as a rule. */
  readonly extent: number;
}

/** Of the largest density, what still counts as matter for the extents. */
const SEEN = 0.02;

interface Place {
  readonly mass: number;
  readonly centre: readonly [number, number, number];
  readonly low: readonly number[];
  readonly high: readonly number[];
}

function placeOf(at: (n: number) => number, { low: from, size }: Lattice): Place {
  const [nx, ny, nz] = size;
  let most = 0;
  for (let n = 0; n < nx * ny * nz; n++) most = Math.max(most, at(n));
  const low = [Infinity, Infinity, Infinity];
  const high = [-Infinity, -Infinity, -Infinity];
  const sum = [0, 0, 0];
  let mass = 0;
  let n = 0;
  for (let k = 0; k < nz; k++) {
    for (let j = 0; j < ny; j++) {
      for (let i = 0; i < nx; i++, n++) {
        const d = at(n);
        if (d <= 0) continue;
        mass += d;
        const place = [from[0] + i + 0.5, from[1] + j + 0.5, from[2] + k + 0.5];
        for (let a = 0; a < 3; a++) {
          sum[a] = (sum[a] ?? 0) + d * (place[a] ?? 0);
          if (d < SEEN * most) continue;
          low[a] = Math.min(low[a] ?? 0, place[a] ?? 0);
          high[a] = Math.max(high[a] ?? 0, place[a] ?? 0);
        }
      }
    }
  }
  return { mass, centre: [(sum[0] ?? 0) / mass, (sum[1] ?? 0) / mass, (sum[2] ?? 0) / mass], low, high };
}

/** `means`: 4 floats a point, of which the first is the density's mean over the base voxel. null: one of the two has no matter. */
export function movedFrom(base: Float32Array, means: Float32Array, lattice: Lattice, voxelSize: number): Moved | null {
  const [was, is] = [placeOf((n) => base[n] ?? 0, lattice), placeOf((n) => means[4 * n] ?? 0, lattice)];
  if (!(was.mass > 0 && is.mass > 0)) return null;
  let [off, norm] = [0, 0];
  for (let n = 0; n < pointsOf(lattice); n++) {
    off += ((means[4 * n] as number) - (base[n] as number)) ** 2;
    norm += (base[n] as number) ** 2;
  }
  const shifts = [0, 1, 2].flatMap((a) => [(is.low[a] ?? 0) - (was.low[a] ?? 0), (is.high[a] ?? 0) - (was.high[a] ?? 0)]);
  return {
    density: Math.sqrt(off / norm),
    centre: voxelSize * Math.hypot(...[0, 1, 2].map((a) => (is.centre[a] ?? 0) - (was.centre[a] ?? 0))),
    extent: voxelSize * Math.max(...shifts.map(Math.abs)),
  };
}

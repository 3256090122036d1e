import { type Lattice, pointsOf } from './lattice';

/** Times that the binomial filter (1 2 1) / 4 is laid on along each axis: what it takes away are waves shorter than about 7 voxels. */
const TIMES = 4;

/** In place, along the three axes, `c` floats a point; what lies beyond the rim is as the rim. */
export function smoothed(field: Float32Array, { size }: Lattice, c: number, times = TIMES): void {
  const strides = [c, c * size[0], c * size[0] * size[1]] as const;
  const points = field.length / c;
  for (let axis = 0; axis < 3; axis++) {
    const n = size[axis as 0 | 1 | 2];
    const stride = strides[axis] ?? c;
    const line = new Float32Array(n);
    for (let start = 0; start < points / n; start++) {
      const inner = stride / c;
      const first = ((start % inner) + Math.floor(start / inner) * inner * n) * c;
      for (let m = 0; m < c; m++) {
        for (let i = 0, o = first + m; i < n; i++, o += stride) line[i] = field[o] as number;
        for (let t = 0; t < times; t++) {
          let before = line[0] as number;
          for (let i = 0; i < n; i++) {
            const here = line[i] as number;
            const after = (i + 1 < n ? line[i + 1] : here) as number;
            line[i] = 0.25 * before + 0.5 * here + 0.25 * after;
            before = here;
          }
        }
        for (let i = 0, o = first + m; i < n; i++, o += stride) field[o] = line[i] as number;
      }
    }
  }
}

/**
 * How strong the base's finest eddies are around each point, m/s (root mean square): its velocity less what is left of it by the filter, squared, and
 * smoothed by the same filter. `velocity`: 4 floats a point.
 */
export function fineStrength(velocity: Float32Array, lattice: Lattice): Float32Array {
  const points = pointsOf(lattice);
  const low = Float32Array.from(velocity);
  smoothed(low, lattice, 4);
  const out = new Float32Array(points);
  for (let n = 0, o = 0; n < points; n++, o += 4) {
    const x = (velocity[o] as number) - (low[o] as number);
    const y = (velocity[o + 1] as number) - (low[o + 1] as number);
    const z = (velocity[o + 2] as number) - (low[o + 2] as number);
    out[n] = x * x + y * y + z * z;
  }
  smoothed(out, lattice, 1);
  for (let n = 0; n < points; n++) out[n] = Math.sqrt(Math.max(0, out[n] as number));
  return out;
}

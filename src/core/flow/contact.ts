import { type Distance, type FormMaker, union } from '#core/geometry';
import type { SolverSeconds } from './clock';
import { Motion } from './moving';
import type { FlowOptions } from './options';

/** A plane through the solids: their distance on a lattice of points. */
export interface ContactSlice {
  readonly axis: 0 | 1 | 2;
  /** Along the axis, metres. */
  readonly at: number;
  /** Lowest corner and size of the plane along the two other axes (in the order of the axes), metres. */
  readonly low: readonly [number, number];
  readonly span: readonly [number, number];
  readonly size: readonly [number, number];
  /** Metres, negative inside; the first axis fastest. */
  readonly values: Float32Array;
  readonly voxelSize: number;
}

/** How far what matter meets lies from the surface that is seen, metres. */
export interface Gap {
  readonly points: number;
  /** Mean of the distance either way. */
  readonly mean: number;
  /** Farthest that contact stands out of the visible surface, and that it lies inside it. */
  readonly outside: number;
  readonly inside: number;
  readonly voxelSize: number;
}

const ACROSS = 480;

/** Distance of everything that matter meets, at a moment. */
export function contactDistance(options: FlowOptions, forms: FormMaker, time: SolverSeconds): Distance {
  const motion = new Motion(options, forms);
  return union([...motion.stillSolids(), ...motion.movedSolids(time)]);
}

/** The slice of the signed distance at `part` (0 to 1) of the limit box. */
export function contactSlice(options: FlowOptions, forms: FormMaker, time: SolverSeconds, axis: 0 | 1 | 2, part: number): ContactSlice {
  const distance = contactDistance(options, forms, time);
  const { min, max } = options.bounds.limit;
  const [b, c] = ([0, 1, 2] as const).filter((a) => a !== axis) as [0 | 1 | 2, 0 | 1 | 2];
  const span = [max[b] - min[b], max[c] - min[c]] as const;
  // A quarter of a voxel, or what fits.
  const step = Math.max(options.voxelSize / 4, Math.max(...span) / ACROSS);
  const size = [Math.max(2, Math.round(span[0] / step)), Math.max(2, Math.round(span[1] / step))] as const;
  const at = min[axis] + part * (max[axis] - min[axis]);
  const values = new Float32Array(size[0] * size[1]);
  const p: [number, number, number] = [0, 0, 0];
  p[axis] = at;
  for (let j = 0, n = 0; j < size[1]; j++) {
    p[c] = min[c] + ((j + 0.5) / size[1]) * span[1];
    for (let i = 0; i < size[0]; i++, n++) {
      p[b] = min[b] + ((i + 0.5) / size[0]) * span[0];
      values[n] = distance(p[0], p[1], p[2]);
    }
  }
  return { axis, at, low: [min[b], min[c]], span, size, values, voxelSize: options.voxelSize };
}

/**
 * How far contact lies from visible points of a solid, as the solver meets it: its distance on the corners of the bounds' voxels, straight between them.
 */
export function gapOf(options: FlowOptions, forms: FormMaker, time: SolverSeconds, solid: number, points: Float32Array): Gap {
  const one = options.solids[solid];
  const exact = contactDistance({ ...options, solids: one ? [one] : [] }, forms, time);
  const h = options.voxelSize;
  let [sum, outside, inside] = [0, 0, 0];
  for (let n = 0; n < points.length; n += 3) {
    const p = [(points[n] ?? 0) / h, (points[n + 1] ?? 0) / h, (points[n + 2] ?? 0) / h] as const;
    const o = p.map(Math.floor) as [number, number, number];
    let d = 0;
    for (let m = 0; m < 8; m++) {
      const corner = [o[0] + (m & 1), o[1] + ((m >> 1) & 1), o[2] + (m >> 2)] as const;
      const weight = (1 - Math.abs(p[0] - corner[0])) * (1 - Math.abs(p[1] - corner[1])) * (1 - Math.abs(p[2] - corner[2]));
      if (weight > 0) d += weight * exact(corner[0] * h, corner[1] * h, corner[2] * h);
    }
    sum += Math.abs(d);
    outside = Math.max(outside, -d);
    inside = Math.max(inside, d);
  }
  const count = points.length / 3;
  return { points: count, mean: count > 0 ? sum / count : 0, outside, inside, voxelSize: h };
}

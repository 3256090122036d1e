import { type Vec3, rotationFromDegrees, unrotate } from '#core/math';

/** Analytic shapes, metres; `rotation` in degrees about x, then y, then z. A cylinder stands along its local y axis. */
export type Shape =
  | { readonly kind: 'box'; readonly centre: Vec3; readonly size: Vec3; readonly rotation: Vec3 }
  | { readonly kind: 'ball'; readonly centre: Vec3; readonly radius: number }
  | {
      readonly kind: 'cylinder';
      readonly centre: Vec3;
      readonly radius: number;
      readonly height: number;
      readonly rotation: Vec3;
    };

/** Signed distance in metres at a world position, negative inside. */
export type Distance = (x: number, y: number, z: number) => number;

/** Axis-aligned box, metres. */
export interface Box3 {
  readonly min: Vec3;
  readonly max: Vec3;
}

/** Exact signed distance of a shape (closed forms; box and capped cylinder by their nearest feature). */
export function shapeDistance(shape: Shape): Distance {
  const [cx, cy, cz] = shape.centre;
  if (shape.kind === 'ball') {
    const { radius } = shape;
    return (x, y, z) => Math.hypot(x - cx, y - cy, z - cz) - radius;
  }
  const r = rotationFromDegrees(shape.rotation);
  if (shape.kind === 'box') {
    const [hx, hy, hz] = [shape.size[0] / 2, shape.size[1] / 2, shape.size[2] / 2];
    return (x, y, z) => {
      const p = unrotate(r, [x - cx, y - cy, z - cz]);
      const qx = Math.abs(p[0]) - hx;
      const qy = Math.abs(p[1]) - hy;
      const qz = Math.abs(p[2]) - hz;
      const outside = Math.hypot(Math.max(qx, 0), Math.max(qy, 0), Math.max(qz, 0));
      return outside + Math.min(Math.max(qx, qy, qz), 0);
    };
  }
  const { radius, height } = shape;
  return (x, y, z) => {
    const p = unrotate(r, [x - cx, y - cy, z - cz]);
    const side = Math.hypot(p[0], p[2]) - radius;
    const cap = Math.abs(p[1]) - height / 2;
    return Math.hypot(Math.max(side, 0), Math.max(cap, 0)) + Math.min(Math.max(side, cap), 0);
  };
}

/** Axis-aligned box around a shape. */
export function shapeBounds(shape: Shape): Box3 {
  const c = shape.centre;
  if (shape.kind === 'ball') {
    const r = shape.radius;
    return { min: [c[0] - r, c[1] - r, c[2] - r], max: [c[0] + r, c[1] + r, c[2] + r] };
  }
  const half: Vec3 =
    shape.kind === 'box' ? [shape.size[0] / 2, shape.size[1] / 2, shape.size[2] / 2] : [shape.radius, shape.height / 2, shape.radius];
  const r = rotationFromDegrees(shape.rotation);
  const extent = (a: number): number =>
    Math.abs(r[3 * a] ?? 0) * half[0] + Math.abs(r[3 * a + 1] ?? 0) * half[1] + Math.abs(r[3 * a + 2] ?? 0) * half[2];
  const e: Vec3 = [extent(0), extent(1), extent(2)];
  return { min: [c[0] - e[0], c[1] - e[1], c[2] - e[2]], max: [c[0] + e[0], c[1] + e[1], c[2] + e[2]] };
}

/** Smallest of several distances: exact outside, a lower bound inside where shapes overlap. +Infinity when there are none. */
export function union(distances: readonly Distance[]): Distance {
  return (x, y, z) => {
    let d = Infinity;
    for (const f of distances) d = Math.min(d, f(x, y, z));
    return d;
  };
}

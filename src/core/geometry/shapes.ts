import { type Rotation, type Vec3, rotate, rotationFromDegrees, unrotate } from '#core/math';

/** Analytic shapes, metres; `rotation` in degrees about x, then y, then z. A cylinder stands along its local y axis. */
export type PlainShape =
  | { readonly kind: 'box'; readonly centre: Vec3; readonly size: Vec3; readonly rotation: Vec3 }
  | { readonly kind: 'ball'; readonly centre: Vec3; readonly radius: number }
  | {
      readonly kind: 'cylinder';
      readonly centre: Vec3;
      readonly radius: number;
      readonly height: number;
      readonly rotation: Vec3;
    };

/** Geometry that was imported: its data lies elsewhere, under its fingerprint. */
export interface MeshShape {
  readonly kind: 'mesh';
  /** SHA-256 of its data. */
  readonly geometry: string;
  /** Of everything that it covers during its own animation: file units, from the middle of its rest pose. */
  readonly extent: Box3;
  /** Seconds of its own animation; 0: it has none. */
  readonly seconds: number;
  /** Where the middle of its rest pose is, metres. */
  readonly centre: Vec3;
  readonly rotation: Vec3;
  /** Metres a file unit. */
  readonly scale: number;
  /** Frame at which its animation begins; null: the first of the shot. */
  readonly starts: number | null;
  /** Seconds of animation in a second of the shot. */
  readonly pace: number;
  /** Of points: the radius of each, metres; null: as its file says, or one and a half voxels. */
  readonly pointRadius: number | null;
  /** Of points: only those whose attribute is above a value (SI). */
  readonly pick: 'all' | 'speed' | 'acceleration' | 'age';
  readonly above: number;
  /** Its inside is outside: the sign of its distance is turned. */
  readonly insideOut: boolean;
}

export type Shape = PlainShape | MeshShape;

/** Signed distance in metres at a world position, negative inside. */
export type Distance = (x: number, y: number, z: number) => number;

/** Axis-aligned box, metres. */
export interface Box3 {
  readonly min: Vec3;
  readonly max: Vec3;
}

/** Exact signed distance of a shape (closed forms; box and capped cylinder by their nearest feature). */
export function shapeDistance(shape: PlainShape): Distance {
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
  if (shape.kind === 'mesh') return turnedBox(shape.extent, shape);
  const half: Vec3 =
    shape.kind === 'box' ? [shape.size[0] / 2, shape.size[1] / 2, shape.size[2] / 2] : [shape.radius, shape.height / 2, shape.radius];
  return turnedBox({ min: [-half[0], -half[1], -half[2]], max: half }, { ...shape, scale: 1 });
}

/** Axis-aligned box around a box that is scaled, turned and moved. */
export function turnedBox({ min, max }: Box3, place: { readonly centre: Vec3; readonly rotation: Vec3; readonly scale: number }): Box3 {
  const r = rotationFromDegrees(place.rotation);
  const { scale } = place;
  const half: Vec3 = [(scale * (max[0] - min[0])) / 2, (scale * (max[1] - min[1])) / 2, (scale * (max[2] - min[2])) / 2];
  const middle = rotate(r, [(scale * (min[0] + max[0])) / 2, (scale * (min[1] + max[1])) / 2, (scale * (min[2] + max[2])) / 2]);
  const c: Vec3 = [place.centre[0] + middle[0], place.centre[1] + middle[1], place.centre[2] + middle[2]];
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

/** Rotation of a shape; a ball has none. */
const rotationOf = (shape: Shape): Rotation => rotationFromDegrees(shape.kind === 'ball' ? [0, 0, 0] : shape.rotation);

/**
 * A moved shape whose turn goes about a point of the shape at rest instead of its centre: a door about its hinge. `about` null: the centre. What moves
 * the centre moves the point too.
 */
export function pinned(rest: Shape, moved: Shape, about: Vec3 | null): Shape {
  if (!about || moved.kind === 'ball') return moved;
  const arm: Vec3 = [rest.centre[0] - about[0], rest.centre[1] - about[1], rest.centre[2] - about[2]];
  const turned = rotate(rotationOf(moved), unrotate(rotationOf(rest), arm));
  const c = moved.centre;
  return { ...moved, centre: [c[0] - arm[0] + turned[0], c[1] - arm[1] + turned[1], c[2] - arm[2] + turned[2]] };
}

/** How much a shape grew along its own axes from one placement to another. */
function growth(from: Shape, to: Shape): Vec3 {
  if (from.kind === 'box' && to.kind === 'box') return [to.size[0] / from.size[0], to.size[1] / from.size[1], to.size[2] / from.size[2]];
  if (from.kind === 'ball' && to.kind === 'ball') return [to.radius / from.radius, to.radius / from.radius, to.radius / from.radius];
  if (from.kind === 'cylinder' && to.kind === 'cylinder') {
    const wide = to.radius / from.radius;
    return [wide, to.height / from.height, wide];
  }
  return [1, 1, 1];
}

/** Velocity of a shape's material at a point, m/s, that carries it from one placement to the next in `dt`; where it grows, it stretches evenly. */
export function rigidVelocity(from: Shape, to: Shape, dt: number): (x: number, y: number, z: number) => Vec3 {
  const [a, b] = [rotationOf(from), rotationOf(to)];
  const [ca, cb] = [from.centre, to.centre];
  const g = growth(from, to);
  return (x, y, z) => {
    const q = unrotate(a, [x - ca[0], y - ca[1], z - ca[2]]);
    const p = rotate(b, [q[0] * g[0], q[1] * g[1], q[2] * g[2]]);
    return [(p[0] + cb[0] - x) / dt, (p[1] + cb[1] - y) / dt, (p[2] + cb[2] - z) / dt];
  };
}

/**
 * Where a point is in the box of a shape that is turned back, 0 to 1 on each axis inside it. `around`: the box of an imported one as it stands, for what is
 * turned by nothing and has an animation covers more than it is at a moment.
 */
export function unitPlace(shape: Shape, around: Box3): (x: number, y: number, z: number) => Vec3 {
  const upright = shape.kind === 'mesh' ? around : shapeBounds(shape.kind === 'ball' ? shape : { ...shape, rotation: [0, 0, 0] });
  const { min, max } = upright;
  const [cx, cy, cz] = shape.centre;
  const r = shape.kind === 'mesh' ? rotationFromDegrees([0, 0, 0]) : rotationOf(shape);
  const part = (v: number, a: 0 | 1 | 2): number => Math.min(1, Math.max(0, (v - min[a]) / (max[a] - min[a])));
  return (x, y, z) => {
    const p = unrotate(r, [x - cx, y - cy, z - cz]);
    return [part(p[0] + cx, 0), part(p[1] + cy, 1), part(p[2] + cz, 2)];
  };
}

/** Whether two placements of a shape are the same. */
export const sameShape = (a: Shape, b: Shape): boolean => JSON.stringify(a) === JSON.stringify(b);

/** Metres that the fastest corner of a shape's box goes between two placements. */
export function shapeTravel(from: Shape, to: Shape): number {
  if (sameShape(from, to)) return 0;
  const { min, max } = shapeBounds(from);
  const moved = rigidVelocity(from, to, 1);
  return Math.max(
    ...Array.from({ length: 8 }, (_v, n) =>
      Math.hypot(...moved(n & 1 ? max[0] : min[0], n & 2 ? max[1] : min[1], n & 4 ? max[2] : min[2])),
    ),
  );
}

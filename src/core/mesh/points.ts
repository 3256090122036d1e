import { RuddleError } from '#core/errors';
import { type Box3, type Form, type MeshShape, type Pose, turnedBox } from '#core/geometry';
import { type Rotation, type Vec3, rotate, rotationFromDegrees, unrotate } from '#core/math';

/** What points are picked by. */
export const POINT_ATTRIBUTES = ['speed', 'acceleration', 'age'] as const;
export type PointAttribute = (typeof POINT_ATTRIBUTES)[number];

/** A series of point clouds, one a file; file units and seconds, the middle of the first at the origin. */
export interface PointsGeometry {
  readonly kind: 'points';
  /** Of each file its number: a frame of the shot. Rising. */
  readonly numbers: Int32Array;
  /** Points before the first of each file, and all of them at the end. */
  readonly starts: Int32Array;
  /** x, y, z a point. */
  readonly positions: Float32Array;
  readonly velocities: Float32Array | null;
  readonly ids: Int32Array | null;
  readonly radii: Float32Array | null;
  readonly attributes: Readonly<Partial<Record<PointAttribute, Float32Array>>>;
}

/** Points at one moment, metres, turned by nothing. */
interface Cloud {
  readonly positions: Float32Array;
  /** Metres a second; null: not known. */
  readonly velocities: Float32Array | null;
  readonly radii: Float32Array;
  readonly box: Box3;
}

const EMPTY: Box3 = { min: [0, 0, 0], max: [0, 0, 0] };

/**
 * A cloud as the union of its balls. Between two files points go on with their velocity, or straight to where the point of the same number is next, or
 * stand. Before the first file and after the last there is nothing.
 */
export class PointsForm implements Form {
  readonly #next = new Map<number, Int32Array>();
  #held: { readonly key: string; readonly cloud: Cloud; readonly grid: PointGrid }[] = [];

  constructor(
    private readonly geometry: PointsGeometry,
    private readonly scale: number,
    private readonly spacing: number,
  ) {}

  #at(pose: Pose): { readonly cloud: Cloud; readonly grid: PointGrid } {
    const { shape } = pose;
    if (shape.kind !== 'mesh') throw new RuddleError('internal', 'A form was asked for another shape.', { where: 'points form' });
    const key = `${String(pose.animation)} ${shape.pick} ${String(shape.above)} ${String(shape.pointRadius)}`;
    const found = this.#held.find((h) => h.key === key);
    if (found) return found;
    const cloud = this.#cloud(pose.animation, shape);
    const held = { key, cloud, grid: new PointGrid(cloud) };
    this.#held = [held, ...this.#held].slice(0, 3);
    return held;
  }

  #cloud(animation: number, shape: MeshShape): Cloud {
    const { numbers, starts, positions, velocities, radii, attributes } = this.geometry;
    const first = numbers[0] ?? 0;
    const last = numbers[numbers.length - 1] ?? 0;
    const at = first + animation;
    // A series comes in during the frame before its first file: the step that ends there is to find it.
    if (at < first - 1 || at > last + 1e-6)
      return { positions: new Float32Array(0), velocities: null, radii: new Float32Array(0), box: EMPTY };
    let file = 0;
    while (file + 1 < numbers.length && (numbers[file + 1] ?? 0) <= at + 1e-6) file++;
    const [begin, end] = [starts[file] ?? 0, starts[file + 1] ?? 0];
    const ahead = at - (numbers[file] ?? 0);
    const seconds = shape.pace > 0 ? ahead / shape.pace : 0;
    const next = !velocities && ahead > 1e-6 ? this.#same(file) : null;
    const gap = (numbers[file + 1] ?? 0) - (numbers[file] ?? 0);
    const picked = shape.pick === 'all' ? null : (attributes[shape.pick] ?? null);
    const p: number[] = [];
    const v: number[] = [];
    const r: number[] = [];
    for (let n = begin; n < end; n++) {
      // Accelerations are kept as changes a file: so many files are a second.
      const unit = shape.pick === 'age' ? 1 : this.scale * (shape.pick === 'acceleration' ? shape.pace : 1);
      if (picked && (picked[n] ?? 0) * unit <= shape.above) continue;
      for (let a = 0; a < 3; a++) {
        let x = positions[3 * n + a] ?? 0;
        const speed = velocities?.[3 * n + a] ?? 0;
        if (velocities) x += speed * seconds;
        else if (next) {
          const other = next[n - begin] ?? -1;
          if (other >= 0) x += ((positions[3 * other + a] ?? 0) - x) * (ahead / gap);
        }
        p.push(x * this.scale);
        v.push(speed * this.scale);
      }
      r.push(shape.pointRadius ?? (radii ? (radii[n] ?? 0) * this.scale : 1.5 * this.spacing));
    }
    const box = {
      min: [Infinity, Infinity, Infinity] as [number, number, number],
      max: [-Infinity, -Infinity, -Infinity] as [number, number, number],
    };
    for (let n = 0; n < p.length; n++) {
      const a = n % 3;
      const radius = r[Math.floor(n / 3)] ?? 0;
      box.min[a] = Math.min(box.min[a] ?? 0, (p[n] ?? 0) - radius);
      box.max[a] = Math.max(box.max[a] ?? 0, (p[n] ?? 0) + radius);
    }
    return {
      positions: Float32Array.from(p),
      velocities: velocities ? Float32Array.from(v) : null,
      radii: Float32Array.from(r),
      box: p.length > 0 ? box : EMPTY,
    };
  }

  /** Of each point of a file the one with its number in the next file, -1: there is none. */
  #same(file: number): Int32Array | null {
    const { ids, starts } = this.geometry;
    if (!ids || file + 2 >= starts.length) return null;
    let found = this.#next.get(file);
    if (!found) {
      const [begin, end, stop] = [starts[file] ?? 0, starts[file + 1] ?? 0, starts[file + 2] ?? 0];
      const where = new Map<number, number>();
      for (let n = end; n < stop; n++) where.set(ids[n] ?? 0, n);
      found = Int32Array.from({ length: end - begin }, (_v, n) => where.get(ids[begin + n] ?? 0) ?? -1);
      this.#next.set(file, found);
    }
    return found;
  }

  distance(pose: Pose): (x: number, y: number, z: number) => number {
    const { grid } = this.#at(pose);
    const place = placed(pose);
    return (x, y, z) => {
      const q = unrotate(place.r, [x - place.c[0], y - place.c[1], z - place.c[2]]);
      return grid.distance(q[0], q[1], q[2]);
    };
  }

  balls(pose: Pose): { readonly middles: Float32Array; readonly radii: Float32Array } {
    const { cloud } = this.#at(pose);
    const place = placed(pose);
    const middles = new Float32Array(cloud.positions.length);
    for (let n = 0; n < middles.length; n += 3) {
      const p = rotate(place.r, [cloud.positions[n] ?? 0, cloud.positions[n + 1] ?? 0, cloud.positions[n + 2] ?? 0]);
      for (const a of [0, 1, 2] as const) middles[n + a] = p[a] + place.c[a];
    }
    return { middles, radii: cloud.radii };
  }

  bounds(pose: Pose): Box3 {
    const { cloud } = this.#at(pose);
    const { shape } = pose;
    return turnedBox(cloud.box, { centre: shape.centre, rotation: shape.kind === 'ball' ? [0, 0, 0] : shape.rotation, scale: 1 });
  }

  velocity(from: Pose, to: Pose, dt: number): (x: number, y: number, z: number) => Vec3 {
    const { cloud, grid } = this.#at(from);
    const place = placed(from);
    const after = placed(to);
    const shown = from.shape.kind === 'mesh' && from.shape.pace > 0 ? (to.animation - from.animation) / from.shape.pace : 0;
    const pace = shown === 0 ? 1 : Math.abs(shown) / dt;
    return (x, y, z) => {
      const q = unrotate(place.r, [x - place.c[0], y - place.c[1], z - place.c[2]]);
      const n = grid.nearest(q[0], q[1], q[2]);
      const v = cloud.velocities;
      const own: Vec3 = v && n >= 0 ? [v[3 * n] ?? 0, v[3 * n + 1] ?? 0, v[3 * n + 2] ?? 0] : [0, 0, 0];
      // The file's seconds are the shot's; `dt` may be others.
      const turned = rotate(after.r, [own[0] * pace, own[1] * pace, own[2] * pace]);
      const carried = rotate(after.r, q);
      return [0, 1, 2].map(
        (a) => turned[a as 0 | 1 | 2] + ((carried[a as 0 | 1 | 2] ?? 0) + (after.c[a as 0 | 1 | 2] ?? 0) - ([x, y, z][a] ?? 0)) / dt,
      ) as unknown as Vec3;
    };
  }

  travel(from: Pose, to: Pose): number {
    const { cloud } = this.#at(from);
    const seconds = from.shape.kind === 'mesh' && from.shape.pace > 0 ? (to.animation - from.animation) / from.shape.pace : 0;
    let most = 0;
    const v = cloud.velocities;
    if (v) for (let n = 0; n < v.length; n += 3) most = Math.max(most, Math.hypot(v[n] ?? 0, v[n + 1] ?? 0, v[n + 2] ?? 0));
    const [a, b] = [from.shape.centre, to.shape.centre];
    return most * seconds + Math.hypot(b[0] - a[0], b[1] - a[1], b[2] - a[2]);
  }
}

const placed = ({ shape }: Pose): { readonly c: Vec3; readonly r: Rotation } => ({
  c: shape.centre,
  r: rotationFromDegrees(shape.kind === 'ball' ? [0, 0, 0] : shape.rotation),
});

/** Points in cubic cells of twice the largest radius: what is near is in the 27 cells around. */
class PointGrid {
  readonly #cells = new Map<number, number[]>();
  readonly #edge: number;

  constructor(private readonly cloud: Cloud) {
    let largest = 1e-4;
    for (const r of cloud.radii) if (r > largest) largest = r;
    this.#edge = 2 * largest;
    for (let n = 0; n < cloud.radii.length; n++) {
      const key = this.#key(
        ...([0, 1, 2].map((a) => Math.floor((cloud.positions[3 * n + a] ?? 0) / this.#edge)) as [number, number, number]),
      );
      const cell = this.#cells.get(key);
      if (cell) cell.push(n);
      else this.#cells.set(key, [n]);
    }
  }

  #key(i: number, j: number, k: number): number {
    return ((i + 65536) * 131072 + (j + 65536)) * 131072 + (k + 65536);
  }

  /** Calls with every point of the cells around. */
  #around(x: number, y: number, z: number, visit: (n: number, distance: number) => void): void {
    const { positions } = this.cloud;
    const [i, j, k] = [Math.floor(x / this.#edge), Math.floor(y / this.#edge), Math.floor(z / this.#edge)];
    for (let m = 0; m < 27; m++) {
      const cell = this.#cells.get(this.#key(i + (m % 3) - 1, j + (Math.floor(m / 3) % 3) - 1, k + Math.floor(m / 9) - 1));
      if (!cell) continue;
      for (const n of cell) {
        const [dx, dy, dz] = [(positions[3 * n] ?? 0) - x, (positions[3 * n + 1] ?? 0) - y, (positions[3 * n + 2] ?? 0) - z];
        visit(n, Math.sqrt(dx * dx + dy * dy + dz * dz));
      }
    }
  }

  /** Distance of the nearest ball; further out than a cell only that it is at least as far. */
  distance(x: number, y: number, z: number): number {
    let least = this.#edge / 2;
    this.#around(x, y, z, (n, d) => {
      const v = d - (this.cloud.radii[n] ?? 0);
      if (v < least) least = v;
    });
    return least;
  }

  nearest(x: number, y: number, z: number): number {
    let found = -1;
    let least = Infinity;
    this.#around(x, y, z, (n, d) => {
      if (d < least) [least, found] = [d, n];
    });
    return found;
  }
}

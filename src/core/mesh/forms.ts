import { RuddleError } from '#core/errors';
import {
  type Box3,
  type Form,
  type FormMaker,
  type MeshShape,
  type Picture,
  type Pose,
  rigidVelocity,
  sameShape,
  shapeTravel,
  turnedBox,
} from '#core/geometry';
import { type Rotation, type Vec3, rotate, rotationFromDegrees, unrotate } from '#core/math';
import { type DistanceGeometry, type DistanceGrid, type Geometry, type TriangleMesh, boxOf, positionsAt } from './mesh';
import { PointsForm, type PointsGeometry } from './points';
import { sampler } from './sample';
import { type Voxelised, isClosed, voxelise } from './voxelise';
import { WindingTree } from './winding';

/** A picture is imported and kept like geometry; it masks emission. */
export interface PictureGeometry {
  readonly kind: 'picture';
  readonly picture: Picture;
}

export type AnyGeometry = Geometry | DistanceGeometry | PointsGeometry | PictureGeometry;
/** What geometry takes in memory. */
export function geometryBytes(geometry: AnyGeometry): number {
  switch (geometry.kind) {
    case 'mesh':
      return geometry.mesh.positions.byteLength + geometry.mesh.triangles.byteLength + (geometry.samples?.byteLength ?? 0);
    case 'distance':
      return geometry.grid.values.byteLength;
    case 'points':
      return geometry.positions.byteLength * (geometry.velocities ? 3 : 2);
    case 'picture':
      return geometry.picture.values.byteLength;
  }
}

/** Imported geometry by its fingerprint. */
export type Geometries = ReadonlyMap<string, AnyGeometry>;

/** A mesh at one moment of its animation: in metres, turned by nothing. */
interface Held {
  readonly seconds: number;
  readonly voxels: Voxelised;
  readonly positions: Float32Array;
  readonly box: Box3;
}

const placementOf = (shape: Pose['shape']): MeshShape => {
  if (shape.kind !== 'mesh') throw new RuddleError('internal', 'A form was asked for another shape.', { where: 'mesh form' });
  return shape;
};

const turned = (
  grid: DistanceGrid,
  box: Box3,
  { centre, rotation, insideOut }: MeshShape,
): ((x: number, y: number, z: number) => number) => {
  const sample = sampler(grid, box);
  const r = rotationFromDegrees(rotation);
  const [cx, cy, cz] = centre;
  const sign = insideOut ? -1 : 1;
  return (x, y, z) => {
    const px = x - cx;
    const py = y - cy;
    const pz = z - cz;
    return sign * sample(r[0] * px + r[3] * py + r[6] * pz, r[1] * px + r[4] * py + r[7] * pz, r[2] * px + r[5] * py + r[8] * pz);
  };
};

const scaledGrid = ({ origin, spacing, size, values }: DistanceGrid, by: number): DistanceGrid => ({
  origin: [origin[0] * by, origin[1] * by, origin[2] * by],
  spacing: spacing * by,
  size,
  values: by === 1 ? values : values.map((v) => v * by),
});

/** Sizes of placements of a mesh never change during a run: only its place and its turn do. */
class MeshForm implements Form {
  readonly #mesh: TriangleMesh;
  readonly #closed: boolean;
  #tree: WindingTree | null = null;
  /** Of the last two moments that were asked for: the solver goes back and forth between the ends of a substep. */
  #held: Held[] = [];
  #wound: Float32Array | null = null;

  constructor(
    private readonly geometry: Geometry,
    private readonly scale: number,
    private readonly spacing: number,
    private readonly band: number,
  ) {
    this.#mesh = { positions: geometry.mesh.positions.map((v) => v * scale), triangles: geometry.mesh.triangles };
    this.#closed = isClosed(geometry.mesh.triangles, geometry.mesh.positions.length / 3);
  }

  #positions(seconds: number): Float32Array {
    const { geometry, scale } = this;
    if (!geometry.samples) return this.#mesh.positions;
    const p = positionsAt(geometry, seconds, new Float32Array(this.#mesh.positions.length));
    for (let n = 0; n < p.length; n++) p[n] = (p[n] ?? 0) * scale;
    return p;
  }

  #moment(seconds: number): number {
    const { samples, rate, count } = this.geometry;
    return samples ? Math.min((count - 1) / rate, Math.max(0, seconds)) : 0;
  }

  #at(pose: Pose): Held {
    const seconds = this.#moment(pose.animation);
    const found = this.#held.find((h) => h.seconds === seconds);
    if (found) return found;
    const positions = this.#positions(seconds);
    const mesh = { positions, triangles: this.#mesh.triangles };
    const voxels = voxelise(mesh, this.#closed, () => this.#wind(mesh), { spacing: this.spacing, band: this.band });
    const held = { seconds, voxels, positions, box: boxOf(positions) };
    this.#held = [held, ...this.#held].slice(0, 2);
    return held;
  }

  #wind(mesh: TriangleMesh): WindingTree {
    this.#tree ??= new WindingTree(mesh);
    if (this.#wound !== mesh.positions) this.#tree.refit(mesh.positions);
    this.#wound = mesh.positions;
    return this.#tree;
  }

  distance(pose: Pose): (x: number, y: number, z: number) => number {
    const { voxels, box } = this.#at(pose);
    return turned(voxels.grid, box, placementOf(pose.shape));
  }

  bounds(pose: Pose): Box3 {
    const seconds = this.#moment(pose.animation);
    const held = this.#held.find((h) => h.seconds === seconds);
    const box = held?.box ?? boxOf(this.#positions(seconds));
    return turnedBox(box, { ...placementOf(pose.shape), scale: 1 });
  }

  velocity(from: Pose, to: Pose, dt: number): (x: number, y: number, z: number) => Vec3 {
    const rigid = rigidVelocity(from.shape, to.shape, dt);
    if (!this.geometry.samples || this.#moment(from.animation) === this.#moment(to.animation)) return rigid;
    const held = this.#at(from);
    const next = this.#positions(this.#moment(to.animation));
    const [a, b] = [placementOf(from.shape), placementOf(to.shape)];
    const [ra, rb]: [Rotation, Rotation] = [rotationFromDegrees(a.rotation), rotationFromDegrees(b.rotation)];
    const { grid, nearest } = held.voxels;
    const [nx, ny, nz] = grid.size;
    const t = this.#mesh.triangles;
    const p = held.positions;
    const near = (v: number, o: number, n: number): number => Math.min(n - 1, Math.max(0, Math.round((v - o) / grid.spacing)));
    return (x, y, z) => {
      const local = unrotate(ra, [x - a.centre[0], y - a.centre[1], z - a.centre[2]]);
      const [i, j, k] = [near(local[0], grid.origin[0], nx), near(local[1], grid.origin[1], ny), near(local[2], grid.origin[2], nz)];
      const triangle = nearest[(k * ny + j) * nx + i] ?? -1;
      if (triangle < 0) return rigid(x, y, z);
      // What the nearest place of the surface does, this point does too.
      const weights = barycentric(p, t, triangle, local);
      const shift = [0, 0, 0];
      for (let c = 0; c < 3; c++) {
        const v = 3 * (t[3 * triangle + c] ?? 0);
        for (let m = 0; m < 3; m++) shift[m] = (shift[m] ?? 0) + (weights[c] ?? 0) * ((next[v + m] ?? 0) - (p[v + m] ?? 0));
      }
      const moved = rotate(rb, [local[0] + (shift[0] ?? 0), local[1] + (shift[1] ?? 0), local[2] + (shift[2] ?? 0)]);
      return [(moved[0] + b.centre[0] - x) / dt, (moved[1] + b.centre[1] - y) / dt, (moved[2] + b.centre[2] - z) / dt];
    };
  }

  travel(from: Pose, to: Pose): number {
    const [s, e] = [this.#moment(from.animation), this.#moment(to.animation)];
    const rigid = sameShape(from.shape, to.shape) ? 0 : shapeTravel(from.shape, to.shape);
    if (!this.geometry.samples || s === e) return rigid;
    const [p, q] = [this.#positions(s), this.#positions(e)];
    let most = 0;
    for (let n = 0; n < p.length; n += 3) {
      const [x, y, z] = [(q[n] ?? 0) - (p[n] ?? 0), (q[n + 1] ?? 0) - (p[n + 1] ?? 0), (q[n + 2] ?? 0) - (p[n + 2] ?? 0)];
      most = Math.max(most, x * x + y * y + z * z);
    }
    return rigid + Math.sqrt(most);
  }
}

/** Weights of a triangle's corners for the point of its plane that is nearest, cut to the triangle. */
function barycentric(p: Float32Array, t: Uint32Array, triangle: number, at: Vec3): Vec3 {
  const [a, b, c] = [0, 1, 2].map((n) => 3 * (t[3 * triangle + n] ?? 0)) as [number, number, number];
  const edge = (from: number, to: number): Vec3 => [0, 1, 2].map((m) => (p[to + m] ?? 0) - (p[from + m] ?? 0)) as [number, number, number];
  const [u, v] = [edge(a, b), edge(a, c)];
  const w: Vec3 = [at[0] - (p[a] ?? 0), at[1] - (p[a + 1] ?? 0), at[2] - (p[a + 2] ?? 0)];
  const dot = (x: Vec3, y: Vec3): number => x[0] * y[0] + x[1] * y[1] + x[2] * y[2];
  const [uu, uv, vv, wu, wv] = [dot(u, u), dot(u, v), dot(v, v), dot(w, u), dot(w, v)];
  const d = uu * vv - uv * uv;
  if (!(d > 0)) return [1, 0, 0];
  const s = Math.min(1, Math.max(0, (vv * wu - uv * wv) / d));
  const r = Math.min(1 - s, Math.max(0, (uu * wv - uv * wu) / d));
  return [1 - s - r, s, r];
}

class DistanceForm implements Form {
  readonly #grid: DistanceGrid;
  readonly #box: Box3;
  constructor(geometry: DistanceGeometry, scale: number, extent: Box3) {
    this.#grid = scaledGrid(geometry.grid, scale);
    const by = (v: Vec3): Vec3 => [v[0] * scale, v[1] * scale, v[2] * scale];
    this.#box = { min: by(extent.min), max: by(extent.max) };
  }
  distance({ shape }: Pose): (x: number, y: number, z: number) => number {
    return turned(this.#grid, this.#box, placementOf(shape));
  }
  bounds({ shape }: Pose): Box3 {
    return turnedBox(this.#box, { ...placementOf(shape), scale: 1 });
  }
  velocity(from: Pose, to: Pose, dt: number): (x: number, y: number, z: number) => Vec3 {
    return rigidVelocity(from.shape, to.shape, dt);
  }
  travel(from: Pose, to: Pose): number {
    return shapeTravel(from.shape, to.shape);
  }
}

/** Imported pictures by their fingerprint. Throws `not-found` where the data is missing. */
export const picturesOf =
  (geometries: Geometries) =>
  (hash: string): Picture => {
    const found = geometries.get(hash);
    if (found?.kind === 'picture') return found.picture;
    throw new RuddleError('not-found', `The imported picture ${hash.slice(0, 12)} is missing. Import its file again.`, {
      what: `picture ${hash}`,
    });
  };

/** Forms of imported geometry, each made once for a spacing and a size. Throws `not-found` where the data is missing. */
export function formsOf(geometries: Geometries): FormMaker {
  const made = new Map<string, Form>();
  return (shape, spacing, band) => {
    const geometry = geometries.get(shape.geometry);
    if (!geometry || geometry.kind === 'picture') {
      throw new RuddleError('not-found', `The imported geometry ${shape.geometry.slice(0, 12)} is missing. Import its file again.`, {
        what: `geometry ${shape.geometry}`,
      });
    }
    const key = `${shape.geometry} ${String(shape.scale)} ${String(spacing)} ${String(band)}`;
    let form = made.get(key);
    if (!form) {
      form =
        geometry.kind === 'mesh'
          ? new MeshForm(geometry, shape.scale, spacing, band)
          : geometry.kind === 'points'
            ? new PointsForm(geometry, shape.scale, spacing)
            : new DistanceForm(geometry, shape.scale, shape.extent);
      made.set(key, form);
    }
    return form;
  };
}

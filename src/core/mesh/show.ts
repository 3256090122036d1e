import type { MeshShape, Pose } from '#core/geometry';
import { rotate, rotationFromDegrees } from '#core/math';
import type { PointsGeometry } from './points';
import { type DistanceGeometry, type DistanceGrid, type Geometry, type TriangleMesh, positionsAt } from './mesh';
import { isClosed, voxelise } from './voxelise';
import { WindingTree } from './winding';

/** More triangles than a page draws well in software. */
const MOST_SHOWN = 120_000;
/** Samples across the longest side of what is drawn instead. */
const ACROSS = 110;

/** Geometry as it is drawn: the mesh itself, or the surface of its distance when that is all there is or the mesh is too large for a page. */
export function shownGeometry(geometry: Geometry | DistanceGeometry | PointsGeometry): Geometry | PointsGeometry {
  if (geometry.kind === 'points') return geometry;
  if (geometry.kind === 'distance') return standing(surfaceOf(geometry.grid));
  const { mesh } = geometry;
  if (mesh.triangles.length / 3 <= MOST_SHOWN || geometry.samples) return geometry;
  let most = 0;
  for (const v of mesh.positions) most = Math.max(most, 2 * Math.abs(v));
  const tree = new WindingTree(mesh);
  const closed = isClosed(mesh.triangles, mesh.positions.length / 3);
  return standing(surfaceOf(voxelise(mesh, closed, () => tree, { spacing: most / ACROSS, band: 0 }).grid));
}

const standing = (mesh: TriangleMesh): Geometry => ({ kind: 'mesh', mesh, samples: null, rate: 0, count: 1 });

/** World positions of vertices and middles of triangles of a placed mesh, at most about `most`, x y z each. */
export function pointsOf(geometry: Geometry, { shape, animation }: Pose & { readonly shape: MeshShape }, most = 20_000): Float32Array {
  const p = positionsAt(geometry, animation);
  const t = geometry.mesh.triangles;
  const [vertices, faces] = [p.length / 3, t.length / 3];
  const step = Math.max(1, Math.ceil((vertices + faces) / most));
  const r = rotationFromDegrees(shape.rotation);
  const out: number[] = [];
  const put = (x: number, y: number, z: number): void => {
    const q = rotate(r, [x * shape.scale, y * shape.scale, z * shape.scale]);
    out.push(q[0] + shape.centre[0], q[1] + shape.centre[1], q[2] + shape.centre[2]);
  };
  for (let v = 0; v < vertices; v += step) put(p[3 * v] ?? 0, p[3 * v + 1] ?? 0, p[3 * v + 2] ?? 0);
  for (let f = 0; f < faces; f += step) {
    const mean = (a: number): number => [0, 1, 2].reduce((s, c) => s + (p[3 * (t[3 * f + c] ?? 0) + a] ?? 0) / 3, 0);
    put(mean(0), mean(1), mean(2));
  }
  return Float32Array.from(out);
}

/** Surface of a distance: one vertex in every cell that it crosses, at the mean of its crossings (surface nets, Gibson 1998). */
export function surfaceOf({ origin, spacing, size, values }: DistanceGrid): TriangleMesh {
  const [nx, ny, nz] = size;
  const [sy, sz] = [nx, nx * ny];
  const vertex = new Int32Array(values.length).fill(-1);
  const positions: number[] = [];
  const triangles: number[] = [];
  for (let k = 0; k < nz - 1; k++) {
    for (let j = 0; j < ny - 1; j++) {
      for (let i = 0; i < nx - 1; i++) {
        const n = k * sz + j * sy + i;
        const sum = [0, 0, 0];
        let crossings = 0;
        for (let e = 0; e < 12; e++) {
          // Edge e runs along axis e >> 2 from one of the four corners of the other two axes.
          const a = e >> 2;
          const [b, c] = [(a + 1) % 3, (a + 2) % 3];
          const at = [0, 0, 0];
          at[b] = e & 1;
          at[c] = (e >> 1) & 1;
          const m = n + (at[0] ?? 0) + (at[1] ?? 0) * sy + (at[2] ?? 0) * sz;
          const [v, w] = [values[m] ?? 0, values[m + ([1, sy, sz][a] ?? 1)] ?? 0];
          if (v < 0 === w < 0) continue;
          at[a] = v / (v - w);
          for (let x = 0; x < 3; x++) sum[x] = (sum[x] ?? 0) + (at[x] ?? 0);
          crossings++;
        }
        if (crossings === 0) continue;
        vertex[n] = positions.length / 3;
        [i, j, k].forEach((v, x) => positions.push(origin[x as 0 | 1 | 2] + (v + (sum[x] ?? 0) / crossings) * spacing));
      }
    }
  }
  for (let k = 1; k < nz - 1; k++) {
    for (let j = 1; j < ny - 1; j++) {
      for (let i = 1; i < nx - 1; i++) {
        const n = k * sz + j * sy + i;
        for (let a = 0; a < 3; a++) {
          const [along, b, c] = [[1, sy, sz][a] ?? 1, [1, sy, sz][(a + 1) % 3] ?? 1, [1, sy, sz][(a + 2) % 3] ?? 1];
          const [v, w] = [values[n] ?? 0, values[n + along] ?? 0];
          if (v < 0 === w < 0) continue;
          // The four cells around this edge.
          const quad = [n - b - c, n - c, n, n - b].map((m) => vertex[m] ?? -1) as [number, number, number, number];
          if (quad.some((q) => q < 0)) continue;
          const [p, q, r, s] = v < 0 ? quad : (quad.reverse() as [number, number, number, number]);
          triangles.push(p, q, r, p, r, s);
        }
      }
    }
  }
  return { positions: Float32Array.from(positions), triangles: Uint32Array.from(triangles) };
}

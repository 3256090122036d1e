import type { Distance } from '#core/geometry';
import type { SurfaceMesh } from './polygons';

/** A mesh without the triangles that lie on open walls of the limit box, and without the vertices that only they had. */
export function openAt(mesh: SurfaceMesh, wall: Distance, within: number): SurfaceMesh {
  const on = new Uint8Array(mesh.vertices);
  const p = mesh.places;
  for (let v = 0; v < mesh.vertices; v++)
    on[v] = Math.abs(wall(p[3 * v] as number, p[3 * v + 1] as number, p[3 * v + 2] as number)) < within ? 1 : 0;
  const kept: number[] = [];
  for (let t = 0; t < mesh.triangles.length; t += 3) {
    const [a, b, c] = [mesh.triangles[t] as number, mesh.triangles[t + 1] as number, mesh.triangles[t + 2] as number];
    if (!(on[a] && on[b] && on[c])) kept.push(a, b, c);
  }
  return kept.length === mesh.triangles.length ? mesh : compact(mesh, Uint32Array.from(kept));
}

/** A mesh of some of its triangles, with the vertices that they have. */
export function compact(mesh: SurfaceMesh, triangles: Uint32Array): SurfaceMesh {
  const numbers = new Int32Array(mesh.vertices).fill(-1);
  let count = 0;
  const list = triangles.map((v) => {
    if (numbers[v] === -1) numbers[v] = count++;
    return numbers[v] as number;
  });
  const pick = (values: Float32Array, width: number): Float32Array => {
    const out = new Float32Array(width * count);
    for (let v = 0; v < mesh.vertices; v++) {
      const to = numbers[v] as number;
      if (to >= 0) for (let d = 0; d < width; d++) out[width * to + d] = values[width * v + d] as number;
    }
    return out;
  };
  return {
    vertices: count,
    places: pick(mesh.places, 3),
    normals: pick(mesh.normals, 3),
    triangles: list,
    velocities: pick(mesh.velocities, 3),
    columns: mesh.columns.map(({ name, values }) => ({ name, values: pick(values, 1) })),
  };
}

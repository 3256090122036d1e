import type { Distance } from '#core/geometry';
import type { SurfaceMesh } from './polygons';

/** Connected pieces of a mesh, and those that hold less than a volume. */
export interface Pieces {
  readonly pieces: number;
  readonly crumbs: number;
}

/** Volume (m^3) of each connected piece. */
export function piecesOf({ vertices, places, triangles }: Pick<SurfaceMesh, 'vertices' | 'places' | 'triangles'>): Float64Array {
  const parent = Int32Array.from({ length: vertices }, (_v, n) => n);
  const rootOf = (n: number): number => {
    let at = n;
    while (parent[at] !== at) {
      parent[at] = parent[parent[at] as number] as number;
      at = parent[at] as number;
    }
    return at;
  };
  for (let t = 0; t < triangles.length; t += 3) {
    const a = rootOf(triangles[t] as number);
    const b = rootOf(triangles[t + 1] as number);
    if (a !== b) parent[Math.max(a, b)] = Math.min(a, b);
    const ab = Math.min(a, b);
    const c = rootOf(triangles[t + 2] as number);
    if (ab !== c) parent[Math.max(ab, c)] = Math.min(ab, c);
  }
  const numbers = new Map<number, number>();
  const sums: number[] = [];
  for (let t = 0; t < triangles.length; t += 3) {
    const root = rootOf(triangles[t] as number);
    let n = numbers.get(root);
    if (n === undefined) {
      n = sums.length;
      numbers.set(root, n);
      sums.push(0);
    }
    sums[n] = (sums[n] ?? 0) + tetrahedron(places, triangles, t);
  }
  return Float64Array.from(sums);
}

/** Signed volume between a triangle and the origin. */
export function tetrahedron(p: Float32Array, triangles: Uint32Array, t: number): number {
  const [a, b, c] = [3 * (triangles[t] as number), 3 * (triangles[t + 1] as number), 3 * (triangles[t + 2] as number)];
  const [ax, ay, az] = [p[a] as number, p[a + 1] as number, p[a + 2] as number];
  const [bx, by, bz] = [p[b] as number, p[b + 1] as number, p[b + 2] as number];
  const [cx, cy, cz] = [p[c] as number, p[c + 1] as number, p[c + 2] as number];
  return (ax * (by * cz - bz * cy) + ay * (bz * cx - bx * cz) + az * (bx * cy - by * cx)) / 6;
}

export function countPieces(mesh: Pick<SurfaceMesh, 'vertices' | 'places' | 'triangles'>, crumb: number): Pieces {
  const volumes = piecesOf(mesh);
  // Of an air bubble the volume is negative: it is no crumb.
  return { pieces: volumes.length, crumbs: volumes.reduce((n, v) => n + (v >= 0 && v < crumb ? 1 : 0), 0) };
}

/** Volume of a closed mesh, m^3. */
export function meshVolume({ places, triangles }: Pick<SurfaceMesh, 'places' | 'triangles'>): number {
  let sum = 0;
  for (let t = 0; t < triangles.length; t += 3) sum += tetrahedron(places, triangles, t);
  return sum;
}

/** How far each vertex lies off the mean of its neighbours, along its normal (outwards: what is hollow), in parts of `unit` metres. */
export function bendOf(
  { vertices, places, normals, triangles }: Pick<SurfaceMesh, 'vertices' | 'places' | 'normals' | 'triangles'>,
  unit: number,
): Float32Array {
  const out = new Float32Array(vertices);
  const sums = new Float32Array(4 * vertices);
  for (let t = 0; t < triangles.length; t++) {
    const a = triangles[t] as number;
    const b = triangles[t % 3 === 2 ? t - 2 : t + 1] as number;
    for (const [from, to] of [
      [a, b],
      [b, a],
    ] as const) {
      for (let d = 0; d < 3; d++) sums[4 * to + d] = (sums[4 * to + d] as number) + (places[3 * from + d] as number);
      sums[4 * to + 3] = (sums[4 * to + 3] as number) + 1;
    }
  }
  for (let v = 0; v < vertices; v++) {
    const count = sums[4 * v + 3] as number;
    if (count === 0) continue;
    let off = 0;
    for (let d = 0; d < 3; d++)
      off += ((sums[4 * v + d] as number) / count - (places[3 * v + d] as number)) * (normals[3 * v + d] as number);
    out[v] = off / unit;
  }
  return out;
}

/** How rough a mesh is: how far its vertices lie off the mean of their neighbours, root mean square, in parts of `unit` metres. */
export function roughnessOf(mesh: Pick<SurfaceMesh, 'vertices' | 'places' | 'normals' | 'triangles'>, unit: number): number {
  if (mesh.vertices === 0) return 0;
  let total = 0;
  for (const off of bendOf(mesh, unit)) total += off * off;
  return Math.sqrt(total / mesh.vertices);
}

/** How far the skin lies before walls and inside of them, metres: of vertices that face a wall within `reach`. */
export interface Contact {
  readonly vertices: number;
  readonly gap: { readonly mean: number; readonly largest: number };
  readonly overlap: { readonly mean: number; readonly largest: number };
}

export function contactOf(
  { vertices, places, normals }: Pick<SurfaceMesh, 'vertices' | 'places' | 'normals'>,
  walls: Distance,
  reach: number,
): Contact | null {
  let [count, gap, gapMost, overlap, overlapMost] = [0, 0, 0, 0, 0];
  const e = reach / 8;
  for (let v = 0; v < 3 * vertices; v += 3) {
    const [x, y, z] = [places[v] as number, places[v + 1] as number, places[v + 2] as number];
    const d = walls(x, y, z);
    if (d >= reach) continue;
    const [gx, gy, gz] = [walls(x + e, y, z) - d, walls(x, y + e, z) - d, walls(x, y, z + e) - d];
    const towards =
      (gx * (normals[v] as number) + gy * (normals[v + 1] as number) + gz * (normals[v + 2] as number)) /
      (Math.sqrt(gx * gx + gy * gy + gz * gz) || 1);
    if (towards > -0.8) continue;
    count++;
    gap += Math.max(0, d);
    overlap += Math.max(0, -d);
    gapMost = Math.max(gapMost, d);
    overlapMost = Math.max(overlapMost, -d);
  }
  if (count === 0) return null;
  return { vertices: count, gap: { mean: gap / count, largest: gapMost }, overlap: { mean: overlap / count, largest: overlapMost } };
}

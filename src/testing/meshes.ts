import type { MeshShape } from '#core/geometry';
import { boxOf } from '#core/mesh';

/** Triangles for tests: x, y, z a vertex, three vertices a triangle, counter-clockwise from outside. */
export interface Soup {
  readonly positions: Float32Array;
  readonly triangles: Uint32Array;
}

export const soup = (positions: readonly number[], triangles: readonly number[]): Soup => ({
  positions: Float32Array.from(positions),
  triangles: Uint32Array.from(triangles),
});

/** A box between two corners. */
export function boxSoup(min: readonly [number, number, number], max: readonly [number, number, number]): Soup {
  const positions: number[] = [];
  for (let n = 0; n < 8; n++) positions.push(n & 1 ? max[0] : min[0], n & 2 ? max[1] : min[1], n & 4 ? max[2] : min[2]);
  const quads = [
    [0, 4, 6, 2],
    [1, 3, 7, 5],
    [0, 1, 5, 4],
    [2, 6, 7, 3],
    [0, 2, 3, 1],
    [4, 5, 7, 6],
  ];
  return soup(
    positions,
    quads.flatMap(([a = 0, b = 0, c = 0, d = 0]) => [a, b, c, a, c, d]),
  );
}

/** A ball of rings and sectors around the origin. */
export function ballSoup(radius: number, rings = 24): Soup {
  const sectors = 2 * rings;
  const positions: number[] = [0, radius, 0];
  for (let r = 1; r < rings; r++) {
    const [y, q] = [Math.cos((Math.PI * r) / rings), Math.sin((Math.PI * r) / rings)];
    for (let s = 0; s < sectors; s++) {
      const a = (2 * Math.PI * s) / sectors;
      positions.push(radius * q * Math.cos(a), radius * y, radius * q * Math.sin(a));
    }
  }
  positions.push(0, -radius, 0);
  const last = positions.length / 3 - 1;
  const at = (r: number, s: number): number => 1 + (r - 1) * sectors + (s % sectors);
  const triangles: number[] = [];
  for (let s = 0; s < sectors; s++) {
    triangles.push(0, at(1, s + 1), at(1, s), last, at(rings - 1, s), at(rings - 1, s + 1));
    for (let r = 1; r < rings - 1; r++) {
      triangles.push(at(r, s), at(r, s + 1), at(r + 1, s + 1), at(r, s), at(r + 1, s + 1), at(r + 1, s));
    }
  }
  return soup(positions, triangles);
}

/** A square sheet in the plane y = 0, n quads a side. */
export function sheetSoup(edge: number, n = 4): Soup {
  const positions: number[] = [];
  const triangles: number[] = [];
  for (let j = 0; j <= n; j++) for (let i = 0; i <= n; i++) positions.push((i / n - 0.5) * edge, 0, (j / n - 0.5) * edge);
  for (let j = 0; j < n; j++) {
    for (let i = 0; i < n; i++) {
      const a = j * (n + 1) + i;
      triangles.push(a, a + n + 1, a + 1, a + 1, a + n + 1, a + n + 2);
    }
  }
  return soup(positions, triangles);
}

/** Triangles as an imported shape: in metres, at the origin, upright and still, but for what is said. */
export const meshShape = (geometry: string, mesh: Soup, change: Partial<MeshShape> = {}): MeshShape => ({
  kind: 'mesh',
  geometry,
  extent: boxOf(mesh.positions),
  seconds: 0,
  centre: [0, 0, 0],
  rotation: [0, 0, 0],
  scale: 1,
  starts: null,
  pace: 1,
  insideOut: false,
  pointRadius: null,
  pick: 'all',
  above: 0,
  ...change,
});

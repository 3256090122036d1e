import { describe, expect, it } from 'vitest';
import { EDGES, FACES, alternates, alternatingFaces, polygonsOf } from './polygon-table';

/** Where each edge lies in a lattice that two cells along x share, doubled so that middles are whole. */
const placeOf = (edge: number, cell: number): string => {
  const [a, b] = EDGES[edge] ?? [0, 0];
  const at = (c: number): [number, number, number] => [(c & 1) + cell, (c >> 1) & 1, c >> 2];
  const [p, q] = [at(a), at(b)];
  return [p[0] + q[0], p[1] + q[1], p[2] + q[2]].join();
};

/** Directed sides of a cell's triangles, by where their ends lie. */
function sidesOf(state: number, joined: (f: number) => boolean, cell: number): [string, string][] {
  const { triangles } = polygonsOf(state, joined);
  const name = (e: number): string => (e < 12 ? placeOf(e, cell) : `middle ${String(e)} of ${String(cell)}`);
  return triangles.flatMap((t) => t.map((e, n): [string, string] => [name(e), name(t[(n + 1) % 3] ?? 0)]));
}

const onFace = (end: string): boolean => end.split(',')[0] === '2' && end.includes(',');

describe('polygons of a cell', () => {
  it('every case and variant is closed but for its faces, each side once each way', () => {
    let variants = 0;
    for (let state = 0; state < 256; state++) {
      const faces = alternatingFaces(state);
      for (let bits = 0; bits < 1 << faces.length; bits++) {
        variants++;
        const joined = (f: number): boolean => ((bits >> faces.indexOf(f)) & 1) === 1;
        const { triangles, middles } = polygonsOf(state, joined);
        const counts = new Map<string, number>();
        for (const t of triangles) {
          expect(new Set(t).size).toBe(3);
          t.forEach((a, n) => {
            const key = `${String(a)}>${String(t[(n + 1) % 3])}`;
            counts.set(key, (counts.get(key) ?? 0) + 1);
          });
        }
        // The same side twice in the same direction would be three triangles at one side.
        expect([...counts.values()].every((c) => c === 1)).toBe(true);
        // Every crossed edge is a vertex, and no other is.
        const crossed = EDGES.flatMap(([p, q], e) => (((state >> p) & 1) !== ((state >> q) & 1) ? [e] : []));
        expect([...new Set(triangles.flat().filter((e) => e < 12))].sort((a, b) => a - b)).toEqual(crossed);
        expect(middles.length).toBeLessThan(4);
      }
    }
    expect(variants).toBeGreaterThan(256);
  });

  it('every pair of cells across a face is manifold: each side on the face is run along once each way', () => {
    // The two cells along x share four corners: 12 free ones.
    let pairs = 0;
    for (let corners = 0; corners < 4096; corners++) {
      const bit = (x: number, y: number, z: number): number => (corners >> (x + 3 * y + 6 * z)) & 1;
      const stateOf = (cell: number): number =>
        [0, 1, 2, 3, 4, 5, 6, 7].reduce((s, c) => s | (bit((c & 1) + cell, (c >> 1) & 1, c >> 2) << c), 0);
      const [left, right] = [stateOf(0), stateOf(1)];
      const shared = alternates(left, 1);
      expect(alternates(right, 0)).toBe(shared);
      for (const joined of shared ? [false, true] : [false]) {
        for (const others of [false, true]) {
          pairs++;
          const sides = [
            ...sidesOf(left, (f) => (f === 1 ? joined : others), 0),
            ...sidesOf(right, (f) => (f === 0 ? joined : others), 1),
          ].filter(([a, b]) => onFace(a) && onFace(b));
          const ways = new Map<string, number[]>();
          for (const [a, b] of sides) {
            const key = [a, b].sort().join(' ');
            ways.set(key, [...(ways.get(key) ?? []), a < b ? 1 : -1]);
          }
          for (const way of ways.values()) expect(way.sort()).toEqual([-1, 1]);
        }
      }
    }
    expect(pairs).toBeGreaterThan(8192);
  });

  it('normals look outwards: a single inside corner is a triangle around it', () => {
    for (let corner = 0; corner < 8; corner++) {
      const { triangles } = polygonsOf(1 << corner, () => false);
      expect(triangles).toHaveLength(1);
      const at = (e: number): number[] => {
        const [a, b] = EDGES[e] ?? [0, 0];
        return [0, 1, 2].map((d) => (((a >> d) & 1) + ((b >> d) & 1)) / 2);
      };
      const [p, q, r] = (triangles[0] ?? []).map(at) as [number[], number[], number[]];
      const u = q.map((v, n) => v - (p[n] ?? 0)) as [number, number, number];
      const v = r.map((w, n) => w - (p[n] ?? 0)) as [number, number, number];
      const normal = [u[1] * v[2] - u[2] * v[1], u[2] * v[0] - u[0] * v[2], u[0] * v[1] - u[1] * v[0]];
      const from = p.map((w, n) => w - ((corner >> n) & 1));
      expect(normal.reduce((s, w, n) => s + w * (from[n] ?? 0), 0)).toBeGreaterThan(0);
    }
  });

  it('faces have four corners around', () => {
    for (const f of FACES) expect(new Set(f).size).toBe(4);
  });
});

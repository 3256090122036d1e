import { BufferAttribute, BufferGeometry } from 'three';
import { MeshBVH } from 'three-mesh-bvh';
import type { TriangleMesh } from './mesh';

/** Farther than this many radii a group of triangles counts as one dipole: the winding number is then right to about 0.01. */
const FAR = 2.3;
const LEAF = 8;

/**
 * Winding numbers of a triangle soup (Jacobson, Kavan, Sorkine-Hornung 2013), far groups as dipoles (Barill, Dickson, Schmidt, Levin, Jacobson
 * 2018): 1 inside, 0 outside, in between where the mesh has holes, so that small ones do no harm. The tree is made once; `refit` follows vertices
 * that move.
 */
export class WindingTree {
  /** Triangles in the tree's order. */
  readonly #triangles: Uint32Array;
  /** Of each node in the order of a walk: where the walk goes on when the node is done with, and its triangles. */
  readonly #skip: Int32Array;
  readonly #begin: Int32Array;
  readonly #end: Int32Array;
  readonly #leaf: Uint8Array;
  /** Middle x, y, z; area vector x, y, z; radius: 7 floats a node. */
  readonly #dipoles: Float32Array;
  #positions: Float32Array;

  constructor({ positions, triangles }: TriangleMesh) {
    const geometry = new BufferGeometry();
    geometry.setAttribute('position', new BufferAttribute(positions, 3));
    // The tree puts the triangles in an order of its own: in a copy.
    this.#triangles = triangles.slice();
    geometry.setIndex(new BufferAttribute(this.#triangles, 1));
    const tree = new MeshBVH(geometry, { targetLeafSize: LEAF, maxDepth: 48 });
    const depths: number[] = [];
    const begin: number[] = [];
    const end: number[] = [];
    tree.traverse((depth, isLeaf, _box, offset, count) => {
      depths.push(depth);
      begin.push(isLeaf ? offset : -1);
      end.push(isLeaf ? offset + count : -1);
    });
    const nodes = depths.length;
    this.#leaf = Uint8Array.from(begin, (b) => (b >= 0 ? 1 : 0));
    this.#skip = new Int32Array(nodes);
    // From the back: the next node that is not deeper is where a walk goes on; a parent holds what its children hold.
    const next: number[] = [];
    for (let n = nodes - 1; n >= 0; n--) {
      const depth = depths[n] ?? 0;
      next.length = depth + 1;
      this.#skip[n] = Math.min(...next.filter((v) => typeof v === 'number'), nodes);
      if (!this.#leaf[n]) {
        const left = n + 1;
        const right = this.#skip[left] ?? nodes;
        begin[n] = Math.min(begin[left] ?? 0, begin[right] ?? Infinity);
        end[n] = Math.max(end[left] ?? 0, end[right] ?? 0);
      }
      next[depth] = n;
    }
    this.#begin = Int32Array.from(begin);
    this.#end = Int32Array.from(end);
    this.#dipoles = new Float32Array(nodes * 7);
    this.#positions = positions;
    this.refit(positions);
  }

  /** The same triangles, their vertices elsewhere. */
  refit(positions: Float32Array): void {
    this.#positions = positions;
    const t = this.#triangles;
    const d = this.#dipoles;
    for (let n = 0; n < this.#skip.length; n++) {
      let [x, y, z, ax, ay, az, area] = [0, 0, 0, 0, 0, 0, 0];
      const [begin, end] = [3 * (this.#begin[n] ?? 0), 3 * (this.#end[n] ?? 0)];
      for (let m = begin; m < end; m += 3) {
        const [a, b, c] = [3 * (t[m] ?? 0), 3 * (t[m + 1] ?? 0), 3 * (t[m + 2] ?? 0)];
        const [px, py, pz] = [positions[a] ?? 0, positions[a + 1] ?? 0, positions[a + 2] ?? 0];
        const [ux, uy, uz] = [(positions[b] ?? 0) - px, (positions[b + 1] ?? 0) - py, (positions[b + 2] ?? 0) - pz];
        const [vx, vy, vz] = [(positions[c] ?? 0) - px, (positions[c + 1] ?? 0) - py, (positions[c + 2] ?? 0) - pz];
        const [nx, ny, nz] = [(uy * vz - uz * vy) / 2, (uz * vx - ux * vz) / 2, (ux * vy - uy * vx) / 2];
        const w = Math.sqrt(nx * nx + ny * ny + nz * nz);
        ax += nx;
        ay += ny;
        az += nz;
        area += w;
        x += w * (px + (ux + vx) / 3);
        y += w * (py + (uy + vy) / 3);
        z += w * (pz + (uz + vz) / 3);
      }
      const over = area > 0 ? 1 / area : 0;
      [x, y, z] = [x * over, y * over, z * over];
      let radius = 0;
      for (let m = begin; m < end; m++) {
        const a = 3 * (t[m] ?? 0);
        const [dx, dy, dz] = [(positions[a] ?? 0) - x, (positions[a + 1] ?? 0) - y, (positions[a + 2] ?? 0) - z];
        radius = Math.max(radius, dx * dx + dy * dy + dz * dz);
      }
      d.set([x, y, z, ax, ay, az, Math.sqrt(radius)], 7 * n);
    }
  }

  at(x: number, y: number, z: number): number {
    const d = this.#dipoles;
    const p = this.#positions;
    const t = this.#triangles;
    const nodes = this.#skip.length;
    let sum = 0;
    let n = 0;
    while (n < nodes) {
      const o = 7 * n;
      const rx = (d[o] ?? 0) - x;
      const ry = (d[o + 1] ?? 0) - y;
      const rz = (d[o + 2] ?? 0) - z;
      const r2 = rx * rx + ry * ry + rz * rz;
      const reach = FAR * (d[o + 6] ?? 0);
      if (r2 > reach * reach) {
        sum += ((d[o + 3] ?? 0) * rx + (d[o + 4] ?? 0) * ry + (d[o + 5] ?? 0) * rz) / (r2 * Math.sqrt(r2));
        n = this.#skip[n] ?? nodes;
        continue;
      }
      if (this.#leaf[n]) {
        const end = 3 * (this.#end[n] ?? 0);
        for (let m = 3 * (this.#begin[n] ?? 0); m < end; m += 3) sum += solidAngle(p, t[m] ?? 0, t[m + 1] ?? 0, t[m + 2] ?? 0, x, y, z);
      }
      n++;
    }
    return sum / (4 * Math.PI);
  }
}

/** Solid angle of a triangle seen from a point, positive from inside (Van Oosterom, Strackee 1983). */
function solidAngle(p: Float32Array, i: number, j: number, k: number, x: number, y: number, z: number): number {
  const ax = (p[3 * i] ?? 0) - x;
  const ay = (p[3 * i + 1] ?? 0) - y;
  const az = (p[3 * i + 2] ?? 0) - z;
  const bx = (p[3 * j] ?? 0) - x;
  const by = (p[3 * j + 1] ?? 0) - y;
  const bz = (p[3 * j + 2] ?? 0) - z;
  const cx = (p[3 * k] ?? 0) - x;
  const cy = (p[3 * k + 1] ?? 0) - y;
  const cz = (p[3 * k + 2] ?? 0) - z;
  const a = Math.sqrt(ax * ax + ay * ay + az * az);
  const b = Math.sqrt(bx * bx + by * by + bz * bz);
  const c = Math.sqrt(cx * cx + cy * cy + cz * cz);
  const volume = ax * (by * cz - bz * cy) + ay * (bz * cx - bx * cz) + az * (bx * cy - by * cx);
  const under = a * b * c + (ax * bx + ay * by + az * bz) * c + (bx * cx + by * cy + bz * cz) * a + (cx * ax + cy * ay + cz * az) * b;
  return 2 * Math.atan2(volume, under);
}

import type { BufferGeometry, Object3D, Mesh } from 'three';
import { OBJLoader } from 'three/examples/jsm/loaders/OBJLoader.js';
import { PLYLoader } from 'three/examples/jsm/loaders/PLYLoader.js';
import { STLLoader } from 'three/examples/jsm/loaders/STLLoader.js';
import type { ReadMesh } from './mesh-file';

const text = (bytes: Uint8Array): string => new TextDecoder().decode(bytes);

/** Triangles of a geometry of three. */
export function trianglesOf(geometry: BufferGeometry, base: number): { positions: Float32Array; triangles: Uint32Array } {
  const position = geometry.getAttribute('position');
  const positions = new Float32Array(position.count * 3);
  for (let n = 0; n < position.count; n++) positions.set([position.getX(n), position.getY(n), position.getZ(n)], 3 * n);
  const index = geometry.getIndex();
  const count = index ? index.count : position.count;
  const triangles = new Uint32Array(count - (count % 3));
  for (let n = 0; n < triangles.length; n++) triangles[n] = base + (index ? index.getX(n) : n);
  return { positions, triangles };
}

/** All meshes below an object as one. */
export function joined(parts: readonly { positions: Float32Array; triangles: Uint32Array }[]): ReadMesh {
  const positions = new Float32Array(parts.reduce((n, p) => n + p.positions.length, 0));
  const triangles = new Uint32Array(parts.reduce((n, p) => n + p.triangles.length, 0));
  let [p, t] = [0, 0];
  for (const part of parts) {
    positions.set(part.positions, p);
    triangles.set(part.triangles, t);
    p += part.positions.length;
    t += part.triangles.length;
  }
  return { mesh: { positions, triangles }, pose: null, seconds: 0, notes: [] };
}

const isMesh = (o: Object3D): o is Mesh => (o as Partial<Mesh>).isMesh === true;

export function readObj(bytes: Uint8Array): ReadMesh {
  const parts: { positions: Float32Array; triangles: Uint32Array }[] = [];
  let base = 0;
  new OBJLoader().parse(text(bytes)).traverse((o) => {
    if (!isMesh(o)) return;
    const part = trianglesOf(o.geometry, base);
    parts.push(part);
    base += part.positions.length / 3;
  });
  return joined(parts);
}

const buffer = (bytes: Uint8Array): ArrayBuffer => bytes.slice().buffer;

export const readPly = (bytes: Uint8Array): ReadMesh => {
  const geometry = new PLYLoader().parse(buffer(bytes));
  // Points only: no faces, and nothing that could be joined to triangles.
  return geometry.getIndex() ? joined([trianglesOf(geometry, 0)]) : joined([]);
};

export const readStl = (bytes: Uint8Array): ReadMesh => joined([trianglesOf(new STLLoader().parse(buffer(bytes)), 0)]);

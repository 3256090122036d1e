import type { BufferGeometry, Object3D, Mesh } from 'three';
import { OBJLoader } from 'three/examples/jsm/loaders/OBJLoader.js';
import { PLYLoader } from 'three/examples/jsm/loaders/PLYLoader.js';
import { STLLoader } from 'three/examples/jsm/loaders/STLLoader.js';
import { wrongWithPly } from './check-ply';
import { type ReadMesh, Unreadable } from './mesh-file';

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

/** A text of more characters cannot be held. */
const MOST_TEXT = 500e6;

export function readObj(bytes: Uint8Array): ReadMesh {
  if (bytes.length > MOST_TEXT) throw new Unreadable('it is larger than 500 MB; export it as .ply, .stl or .glb');
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
  const wrong = wrongWithPly(bytes);
  if (wrong !== null) throw new Unreadable(wrong);
  const geometry = new PLYLoader().parse(buffer(bytes));
  // Points only: no faces, and nothing that could be joined to triangles.
  return geometry.getIndex() ? joined([trianglesOf(geometry, 0)]) : joined([]);
};

const STL_HEAD = 84;
const STL_TRIANGLE = 50;

export const readStl = (bytes: Uint8Array): ReadMesh => {
  const ascii = /^\s*solid\b[^]*\bfacet\b/.test(new TextDecoder('latin1').decode(bytes.subarray(0, 4096)));
  if (!ascii) {
    if (bytes.length < STL_HEAD) throw new Unreadable('it is too short');
    const count = new DataView(bytes.buffer, bytes.byteOffset).getUint32(80, true);
    if (STL_HEAD + STL_TRIANGLE * count > bytes.length)
      throw new Unreadable(`it claims ${String(count)} triangles, more than the file holds`);
  } else if (bytes.length > MOST_TEXT) throw new Unreadable('it is larger than 500 MB of text; export it as binary .stl');
  return joined([trianglesOf(new STLLoader().parse(buffer(bytes)), 0)]);
};

import { utf8ToBytes } from '@noble/hashes/utils.js';
import type { MeshColumns } from './mesh-files';

/** A mesh to look at: positions in 16 bits a side of their box, normals and columns in 8. */
export interface MeshPreview {
  /** Metres. */
  readonly min: readonly [number, number, number];
  readonly max: readonly [number, number, number];
  readonly vertices: number;
  /** x, y, z each. */
  readonly places: Uint16Array;
  /** x, y, z and 0 each, of length 127. */
  readonly normals: Int8Array;
  readonly triangles: Uint32Array;
  /** Value = low + byte / 255 (high - low). */
  readonly columns: readonly { readonly name: string; readonly low: number; readonly high: number; readonly values: Uint8Array }[];
}

const MAGIC = 0x31_6d_70_72; // "rpm1"
const HEAD_WORDS = 12;
/** Of a column: 24 bytes of its name, its range. */
const COLUMN_BYTES = 32;

const padded = (n: number): number => Math.ceil(n / 4) * 4;

export function meshPreview({ vertices, places, normals, velocities, triangles, columns }: MeshColumns): Uint8Array<ArrayBuffer> {
  const speeds = new Float32Array(vertices);
  for (let v = 0; v < vertices; v++) {
    const [x, y, z] = [velocities[3 * v] as number, velocities[3 * v + 1] as number, velocities[3 * v + 2] as number];
    speeds[v] = Math.sqrt(x * x + y * y + z * z);
  }
  const all = [{ name: 'speed', values: speeds }, ...columns];
  const min = [Infinity, Infinity, Infinity];
  const max = [-Infinity, -Infinity, -Infinity];
  for (let n = 0; n < 3 * vertices; n++) {
    const [v, a] = [places[n] as number, n % 3];
    if (v < (min[a] as number)) min[a] = v;
    if (v > (max[a] as number)) max[a] = v;
  }
  const bytes =
    4 * HEAD_WORDS + COLUMN_BYTES * all.length + padded(6 * vertices) + 4 * vertices + padded(vertices) * all.length + 4 * triangles.length;
  const out = new Uint8Array(bytes);
  const view = new DataView(out.buffer);
  [MAGIC, vertices, triangles.length / 3, all.length].forEach((v, n) => {
    view.setUint32(4 * n, v, true);
  });
  for (let a = 0; a < 3; a++) {
    view.setFloat32(16 + 4 * a, vertices > 0 ? (min[a] ?? 0) : 0, true);
    view.setFloat32(28 + 4 * a, vertices > 0 ? (max[a] ?? 0) : 0, true);
  }
  let at = 4 * HEAD_WORDS;
  const ranges = all.map(({ values }) => {
    let [low, high] = [Infinity, -Infinity];
    for (let v = 0; v < vertices; v++) {
      low = Math.min(low, values[v] as number);
      high = Math.max(high, values[v] as number);
    }
    return vertices > 0 ? { low, high } : { low: 0, high: 0 };
  });
  all.forEach(({ name }, c) => {
    out.set(utf8ToBytes(name).subarray(0, 23), at);
    view.setFloat32(at + 24, ranges[c]?.low ?? 0, true);
    view.setFloat32(at + 28, ranges[c]?.high ?? 0, true);
    at += COLUMN_BYTES;
  });
  const scales = [0, 1, 2].map((a) => 65535 / Math.max(1e-12, (max[a] ?? 0) - (min[a] ?? 0)));
  for (let n = 0; n < 3 * vertices; n++)
    view.setUint16(at + 2 * n, Math.round(((places[n] as number) - (min[n % 3] as number)) * (scales[n % 3] as number)), true);
  at += padded(6 * vertices);
  for (let v = 0; v < vertices; v++)
    for (let a = 0; a < 3; a++) view.setInt8(at + 4 * v + a, Math.round(127 * (normals[3 * v + a] as number)));
  at += 4 * vertices;
  all.forEach(({ values }, c) => {
    const { low, high } = ranges[c] ?? { low: 0, high: 0 };
    for (let v = 0; v < vertices; v++) out[at + v] = high > low ? Math.round((255 * ((values[v] as number) - low)) / (high - low)) : 0;
    at += padded(vertices);
  });
  for (let n = 0; n < triangles.length; n++) view.setUint32(at + 4 * n, triangles[n] as number, true);
  return out;
}

/** null when the bytes are not a whole preview of a mesh. */
export function readMeshPreview(bytes: Uint8Array<ArrayBuffer>): MeshPreview | null {
  if (bytes.length < 4 * HEAD_WORDS) return null;
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const [vertices, faces, count] = [view.getUint32(4, true), view.getUint32(8, true), view.getUint32(12, true)];
  const whole = 4 * HEAD_WORDS + COLUMN_BYTES * count + padded(6 * vertices) + 4 * vertices + padded(vertices) * count + 12 * faces;
  if (view.getUint32(0, true) !== MAGIC || bytes.length !== whole) return null;
  // Typed views need their own alignment: a copy where the bytes lie askew.
  const own = bytes.byteOffset % 4 === 0 ? bytes : bytes.slice();
  const { buffer, byteOffset } = own;
  const three = (from: number): [number, number, number] => [
    view.getFloat32(from, true),
    view.getFloat32(from + 4, true),
    view.getFloat32(from + 8, true),
  ];
  const places = 4 * HEAD_WORDS + COLUMN_BYTES * count;
  const normals = places + padded(6 * vertices);
  const values = normals + 4 * vertices;
  const triangles = values + padded(vertices) * count;
  return {
    min: three(16),
    max: three(28),
    vertices,
    places: new Uint16Array(buffer, byteOffset + places, 3 * vertices),
    normals: new Int8Array(buffer, byteOffset + normals, 4 * vertices),
    triangles: new Uint32Array(buffer, byteOffset + triangles, 3 * faces),
    columns: Array.from({ length: count }, (_v, c) => {
      const head = 4 * HEAD_WORDS + COLUMN_BYTES * c;
      const end = own.indexOf(0, head);
      const name = String.fromCharCode(...own.subarray(head, Math.min(end < 0 ? head + 24 : end, head + 24)));
      const from = byteOffset + values + padded(vertices) * c;
      return {
        name,
        low: view.getFloat32(head + 24, true),
        high: view.getFloat32(head + 28, true),
        values: new Uint8Array(buffer, from, vertices),
      };
    }),
  };
}

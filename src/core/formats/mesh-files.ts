import { utf8ToBytes } from '@noble/hashes/utils.js';
import type { PlyConvention } from './ply';

/** Triangles as files have them: metres, m/s of the computation, y up. */
export interface MeshColumns {
  readonly vertices: number;
  readonly places: Float32Array;
  readonly normals: Float32Array;
  readonly velocities: Float32Array;
  readonly triangles: Uint32Array;
  readonly columns: readonly { readonly name: string; readonly values: Float32Array }[];
}

/** A vector's y and z as a file has them: turning by a quarter, for z up, maps y to z and z to -y. */
const turned = (v: Float32Array, at: number, up: boolean): readonly [number, number, number] => {
  const [x, y, z] = [v[at] as number, v[at + 1] as number, v[at + 2] as number];
  return up ? [x, -z, y] : [x, y, z];
};

/**
 * Triangles as binary little-endian .ply, in scene units and seconds of the shot: position, normal, velocity and further columns (float) of each vertex; three
 * vertices of each face.
 */
export function writeMeshPly(mesh: MeshColumns, { metresPerUnit, upAxis, timeScale }: PlyConvention): Uint8Array<ArrayBuffer> {
  const { vertices, places, normals, velocities, triangles, columns } = mesh;
  const names = ['x', 'y', 'z', 'nx', 'ny', 'nz', 'vx', 'vy', 'vz', ...columns.map((c) => c.name)];
  const faces = triangles.length / 3;
  const head = utf8ToBytes(
    `ply\nformat binary_little_endian 1.0\ncomment Ruddle: scene units and seconds of the shot\nelement vertex ${String(vertices)}\n` +
      `${names.map((p) => `property float ${p}\n`).join('')}element face ${String(faces)}\nproperty list uchar uint vertex_indices\nend_header\n`,
  );
  const stride = 4 * names.length;
  const out = new Uint8Array(head.length + vertices * stride + faces * 13);
  out.set(head);
  const view = new DataView(out.buffer);
  const up = upAxis === 'z';
  const [length, speed] = [1 / metresPerUnit, timeScale / metresPerUnit];
  let at = head.length;
  for (let v = 0; v < vertices; v++) {
    for (const [values, scale] of [
      [places, length],
      [normals, 1],
      [velocities, speed],
    ] as const) {
      const [x, y, z] = turned(values, 3 * v, up);
      view.setFloat32(at, x * scale, true);
      view.setFloat32(at + 4, y * scale, true);
      view.setFloat32(at + 8, z * scale, true);
      at += 12;
    }
    for (const { values } of columns) {
      view.setFloat32(at, values[v] as number, true);
      at += 4;
    }
  }
  // Readers there are (assimp) that take a first byte which looks like the end of a line for one, and read all that follows a byte off: a bit of the first place's last digit.
  const first = out[head.length];
  if (vertices > 0 && (first === 0x0a || first === 0x0d)) out[head.length] = first + 1;
  for (let t = 0; t < triangles.length; t += 3, at += 13) {
    out[at] = 3;
    view.setUint32(at + 1, triangles[t] as number, true);
    view.setUint32(at + 5, triangles[t + 1] as number, true);
    view.setUint32(at + 9, triangles[t + 2] as number, true);
  }
  return out;
}

/** Numbers of an .obj: a hundred-thousandth of a unit, and no more. */
const short = (v: number): string => String(Number(v.toFixed(5)));

/** Triangles as .obj: places and normals, in scene units. Velocities have no place in it. */
export function writeObj(
  { vertices, places, normals, triangles }: MeshColumns,
  { metresPerUnit, upAxis }: PlyConvention,
): Uint8Array<ArrayBuffer> {
  const up = upAxis === 'z';
  const lines: string[] = ['# Ruddle: scene units'];
  for (let v = 0; v < vertices; v++)
    lines.push(
      `v ${turned(places, 3 * v, up)
        .map((x) => short(x / metresPerUnit))
        .join(' ')}`,
    );
  for (let v = 0; v < vertices; v++)
    lines.push(
      `vn ${turned(normals, 3 * v, up)
        .map(short)
        .join(' ')}`,
    );
  for (let t = 0; t < triangles.length; t += 3)
    lines.push(
      `f ${[0, 1, 2]
        .map((n) => String((triangles[t + n] as number) + 1))
        .map((v) => `${v}//${v}`)
        .join(' ')}`,
    );
  lines.push('');
  return new Uint8Array(utf8ToBytes(lines.join('\n')));
}

import { describe, expect, it } from 'vitest';
import { meshPreview, readMeshPreview } from '.';

const mesh = {
  vertices: 4,
  places: Float32Array.from([0, 0, 0, 2, 0, 0, 0, 4, 0, 0, 0, 1]),
  normals: Float32Array.from([0, 0, -1, 1, 0, 0, 0, 1, 0, 0, 0, 1]),
  velocities: Float32Array.from([0, 0, 0, 3, 4, 0, 0, 0, 0, 0, 2.5, 0]),
  triangles: Uint32Array.from([0, 2, 1, 0, 1, 3, 1, 2, 3, 0, 3, 2]),
  columns: [{ name: 'age', values: Float32Array.from([1, 2, 3, 3]) }],
};

describe('what is looked at of a mesh', () => {
  it('comes back within its bits, speed first', () => {
    const read = readMeshPreview(meshPreview(mesh))!;
    expect([read.min, read.max]).toEqual([
      [0, 0, 0],
      [2, 4, 1],
    ]);
    expect([...read.triangles]).toEqual([...mesh.triangles]);
    for (let n = 0; n < 12; n++) {
      const at = read.min[n % 3]! + (read.places[n]! / 65535) * (read.max[n % 3]! - read.min[n % 3]!);
      expect(at).toBeCloseTo(mesh.places[n]!, 3);
      expect(read.normals[4 * Math.floor(n / 3) + (n % 3)]! / 127).toBeCloseTo(mesh.normals[n]!, 2);
    }
    expect(read.columns.map((c) => [c.name, c.low, c.high])).toEqual([
      ['speed', 0, 5],
      ['age', 1, 3],
    ]);
    expect([...read.columns[0]!.values]).toEqual([0, 255, 0, 128]);
  });

  it('of nothing is nothing; of other or cut bytes there is none', () => {
    const none = {
      vertices: 0,
      places: new Float32Array(0),
      normals: new Float32Array(0),
      velocities: new Float32Array(0),
      triangles: new Uint32Array(0),
      columns: [],
    };
    expect(readMeshPreview(meshPreview(none))).toMatchObject({ vertices: 0, min: [0, 0, 0] });
    const bytes = meshPreview(mesh);
    expect(readMeshPreview(bytes.slice(0, bytes.length - 1))).toBeNull();
    expect(readMeshPreview(new Uint8Array(8))).toBeNull();
    bytes[0] = 0;
    expect(readMeshPreview(bytes)).toBeNull();
  });

  it('lies anywhere in memory', () => {
    const bytes = meshPreview(mesh);
    const askew = new Uint8Array(bytes.length + 3);
    askew.set(bytes, 3);
    expect(readMeshPreview(askew.subarray(3))?.triangles).toEqual(mesh.triangles);
  });
});

import { describe, expect, it } from 'vitest';
import { readPly, writeMeshPly, writeObj } from '.';

const mesh = (x: number) => ({
  vertices: 3,
  places: Float32Array.from([x, 2, 3, 1, 0, 0, 0, 1, 0]),
  normals: Float32Array.from([0, 0, 1, 0, 1, 0, 1, 0, 0]),
  velocities: Float32Array.from([1, 2, 3, 0, 0, 0, 0, 0, 0]),
  triangles: Uint32Array.from([0, 1, 2]),
  columns: [{ name: 'radius', values: Float32Array.from([0.5, 1, 2]) }],
});
const cm = { metresPerUnit: 0.01, upAxis: 'z', timeScale: 2 } as const;

describe('triangles as files', () => {
  it('.ply comes back as particles do: places, velocities, columns', () => {
    const read = readPly(writeMeshPly(mesh(1), cm), cm, 'a.ply', ['nx', 'nz', 'radius']);
    expect([...read.places.subarray(0, 3)].map((v) => Number(v.toFixed(5)))).toEqual([1, 2, 3]);
    expect([...read.motions.subarray(0, 3)].map((v) => Number(v.toFixed(5)))).toEqual([1, 2, 3]);
    // z up: y of a normal is its z there.
    expect(read.more!['nz']![1]).toBe(1);
    expect([...read.more!['radius']!]).toEqual([0.005, 0.01, 0.02].map(Math.fround));
  });

  it('never begins its data with a byte that looks like the end of a line', () => {
    const bits = new Uint32Array(1);
    const float = new Float32Array(bits.buffer);
    for (const byte of [0x0a, 0x0d]) {
      bits[0] = 0x3c23d700 + byte;
      const x = float[0]!;
      const bytes = writeMeshPly(mesh(x), { metresPerUnit: 1, upAxis: 'y', timeScale: 1 });
      const begin = new TextDecoder('latin1').decode(bytes).indexOf('end_header\n') + 11;
      expect(bytes[begin]).toBe(byte + 1);
      expect(readPly(bytes, { metresPerUnit: 1, upAxis: 'y', timeScale: 1 }, 'a.ply').places[0]! - x).toBeLessThan(1e-8);
    }
  });

  it('.obj counts from one, in scene units', () => {
    const lines = new TextDecoder()
      .decode(writeObj(mesh(1), cm))
      .trim()
      .split('\n');
    expect(lines).toContain('v 100 -300 200');
    expect(lines).toContain('vn 0 -1 0');
    expect(lines[lines.length - 1]).toBe('f 1//1 2//2 3//3');
  });
});

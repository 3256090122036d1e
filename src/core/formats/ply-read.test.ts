import { describe, expect, it } from 'vitest';
import { plyProperties, readPly, summarizePly, writePly } from '.';

const particles = {
  count: 2,
  places: Float32Array.of(1, 2, 3, 0.5, -4, 0, 0.25, 1.5),
  motions: Float32Array.of(0.5, -1, 2, 3, 0, 8, 0, 4),
  ids: Uint32Array.of(7, 4_000_000_000),
};
const plain = { metresPerUnit: 1, upAxis: 'y', timeScale: 1 } as const;
const text = (s: string): Uint8Array => new TextEncoder().encode(s);

describe('points of a .ply', () => {
  it.each([plain, { metresPerUnit: 0.01, upAxis: 'z', timeScale: 0.5 } as const])(
    'are what was written, in units and axes: %o',
    (convention) => {
      const bytes = writePly(particles, convention);
      expect(plyProperties(bytes, 'p')).toEqual(['x', 'y', 'z', 'vx', 'vy', 'vz', 'age', 'life', 'id']);
      const back = readPly(bytes, convention, 'p');
      expect(back.count).toBe(2);
      expect([...back.ids]).toEqual([...particles.ids]);
      back.places.forEach((v, n) => {
        expect(v).toBeCloseTo(particles.places[n]!, 5);
      });
      back.motions.forEach((v, n) => {
        expect(v).toBeCloseTo(particles.motions[n]!, 5);
      });
    },
  );

  it('are summed up property by property, in the units of the file; what is not finite is counted and left out', () => {
    const text = [
      'ply',
      'format ascii 1.0',
      'element vertex 3',
      ...['x', 'y', 'z'].map((n) => `property float ${n}`),
      'property uchar age',
      'end_header',
      '',
    ].join('\n');
    const bytes = new TextEncoder().encode(`${text}1 2 nan 7\n-3 2 nan 9\n5 2.5 nan 8\n`);
    expect(summarizePly(bytes, 'p.ply')).toEqual({
      format: 'ascii',
      count: 3,
      properties: [
        { name: 'x', type: 'float', minimum: -3, maximum: 5, mean: 1, broken: 0 },
        { name: 'y', type: 'float', minimum: 2, maximum: 2.5, mean: 6.5 / 3, broken: 0 },
        { name: 'z', type: 'float', minimum: null, maximum: null, mean: null, broken: 3 },
        { name: 'age', type: 'uchar', minimum: 7, maximum: 9, mean: 8, broken: 0 },
      ],
    });
    expect(() => summarizePly(bytes.subarray(0, bytes.length - 20), 'p.ply')).toThrow(/p\.ply: it ends before its last point/);
  });

  it('of other programs: text or the other byte order, numbers of other widths, more properties and elements; what they lack is 0', () => {
    const ascii = readPly(
      text(
        'ply\r\nformat ascii 1.0\r\ncomment made up\r\nelement vertex 2\r\nproperty float x\r\nproperty double y\r\nproperty uchar red\r\nproperty float z\r\nelement face 1\r\nproperty list uchar int vertex_indices\r\nend_header\r\n1 2 255 3\r\n4 5 0 6.5\r\n3 0 1 1\r\n',
      ),
      { ...plain, upAxis: 'z' },
      'a',
    );
    // z up: y is what was z, z the other way.
    expect([...ascii.places]).toEqual([1, 3, -2, 0, 4, 6.5, -5, 0]);
    expect([...ascii.motions]).toEqual([0, 0, 0, 0, 0, 0, 0, 0]);
    expect([...ascii.ids]).toEqual([0, 1]);
    const head = text(
      'ply\nformat binary_big_endian 1.0\nelement vertex 1\nproperty double x\nproperty short y\nproperty float z\nproperty float vx\nend_header\n',
    );
    const bytes = new Uint8Array(head.length + 18);
    bytes.set(head);
    const view = new DataView(bytes.buffer, head.length);
    view.setFloat64(0, -1.25);
    view.setInt16(8, 300);
    view.setFloat32(10, 2);
    view.setFloat32(14, 9);
    const big = readPly(bytes, { ...plain, metresPerUnit: 2 }, 'b');
    expect([[...big.places], [...big.motions]]).toEqual([
      [-2.5, 600, 4, 0],
      [18, 0, 0, 0],
    ]);
  });

  it.each([
    ['nothing', 'does not begin with "ply"'],
    ['ply\nformat ascii 1.0\n', 'no end'],
    ['ply\nformat loud 1.0\nelement vertex 1\nend_header\n', 'format "loud" is not known'],
    ['ply\nformat ascii 1.0\nelement face 1\nend_header\n', 'first element are no vertices'],
    ['ply\nformat ascii 1.0\nelement vertex 1\nproperty float x\nproperty float y\nend_header\n1 2\n', 'no z'],
    [
      'ply\nformat ascii 1.0\nelement vertex 9000000\nproperty float x\nproperty float y\nproperty float z\nend_header\n1 2 3\n',
      'ends before its last point',
    ],
    ['ply\nformat ascii 1.0\nelement vertex 1\nproperty list uchar int x\nend_header\n', 'is no number'],
    [
      'ply\nformat ascii 1.0\nelement vertex 1\nproperty float x\nproperty float y\nproperty float z\nend_header\n1 nan 3\n',
      'point 0 has no position',
    ],
  ])('refuses, with the reason: %#', (bytes, reason) => {
    expect(() => readPly(text(bytes), plain, 'spray.0001.ply')).toThrow(new RegExp(`^spray\\.0001\\.ply: .*${reason}`));
  });
});

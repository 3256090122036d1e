import fc from 'fast-check';
import { expect, it } from 'vitest';
import { isRuddleError } from '#core/errors';
import type { TileGrid } from '#core/grid';
import { fuzz, spoiltBytes, within } from '#testing/fuzz';
import {
  type Preview,
  bloscCompress,
  bloscDecompress,
  decodePreview,
  encodePreview,
  lz4Compress,
  lz4Decompress,
  makePreview,
  readPly,
  readVdb,
  writePly,
  writeVdb,
} from '.';

/** A few tiles with a bump in them. */
function grid(name: string, components: 1 | 3, tiles: number): TileGrid {
  const values = new Float32Array(tiles * 512 * components).map((_v, n) => Math.sin(n * 0.37) + 1);
  const origins = new Int32Array(tiles * 3).map((_v, n) => 8 * ((n * 7) % 11) - 24);
  const masks = new Uint8Array(tiles * 64).map((_v, n) => (n * 37) & 255);
  return { name, components, background: components === 1 ? [0] : [0, 0, 0], origins, masks, values };
}
const transform = { scale: [0.1, 0.1, 0.1], translation: [0, 0, 0] } as const;
const written = (compression: 'blosc' | 'zip' | 'none', precision: 'half' | 'full'): Uint8Array =>
  writeVdb(
    [
      { grid: grid('density', 1, 3), class: 'fog volume', transform },
      { grid: grid('vel', 3, 2), class: 'staggered', transform, vectorType: 'contravariant relative' },
    ],
    { compression, precision, uuid: '0', creator: 'fuzz' },
  );

/** Reads, or refuses in words. */
function calmly<T>(body: () => T): T | null {
  try {
    return within(2500, body);
  } catch (error) {
    if (!isRuddleError(error, 'file-invalid')) throw error;
    expect(error.message.length).toBeGreaterThan(10);
    return null;
  }
}

it('a spoilt volume is refused in words, or is one whose tiles are whole', () => {
  let [read, refused] = [0, 0];
  const files = [written('blosc', 'half'), written('zip', 'full'), written('none', 'half')].map((b, n) => [n, b] as const);
  for (const [, bytes] of files) expect(readVdb(bytes).grids).toHaveLength(2);
  fc.assert(
    fc.property(spoiltBytes(...files), ([, bytes]) => {
      const file = calmly(() => readVdb(bytes));
      if (!file) {
        refused++;
        return;
      }
      read++;
      for (const { tiles } of file.grids) {
        if (!tiles) continue;
        const count = tiles.origins.length / 3;
        expect(tiles.values.length).toBe(count * 512 * tiles.components);
        expect(tiles.masks.length).toBe(count * 64);
      }
    }),
    fuzz(1500),
  );
  expect(Math.min(read, refused)).toBeGreaterThan(50);
});

it('a spoilt preview is none, or one whose size is that of its data', () => {
  const preview = encodePreview(makePreview(grid('density', 1, 3), { ox: -24, oy: -24, oz: -24, nx: 32, ny: 24, nz: 24 }));
  fc.assert(
    fc.property(spoiltBytes([0, preview]), ([, bytes]) => {
      const p: Preview | null = within(500, () => decodePreview(bytes));
      if (p) expect(p.data.length).toBe(p.size[0] * p.size[1] * p.size[2] * p.components);
    }),
    fuzz(1500),
  );
});

const runs = fc
  .array(fc.tuple(fc.nat(255), fc.integer({ min: 1, max: 300 })), { maxLength: 40 })
  .map((parts) => Uint8Array.from(parts.flatMap(([byte, times]) => new Array<number>(times).fill(byte))));

it('what is compressed comes back; what is spoilt is refused or has the length that was asked for', () => {
  fc.assert(
    fc.property(fc.oneof(runs, fc.uint8Array({ maxLength: 3000 })), fc.constantFrom(1, 2, 4), (data, size) => {
      const even = data.subarray(0, data.length - (data.length % size));
      const packed = new Uint8Array(even.length + even.length / 255 + 64);
      const length = lz4Compress(even, packed);
      if (length > 0) {
        const back = new Uint8Array(even.length);
        lz4Decompress(packed.subarray(0, length), back);
        expect(back).toEqual(even);
      }
      const blosc = bloscCompress(even, size);
      if (blosc) expect(bloscDecompress(blosc, even.length)).toEqual(even);
    }),
    fuzz(800),
  );
  const data = new Uint8Array(4096).map((_v, n) => (n >> 3) & 255);
  const blosc = bloscCompress(data, 4)!;
  const packed = new Uint8Array(8192);
  const lz4 = packed.slice(0, lz4Compress(data, packed));
  fc.assert(
    fc.property(spoiltBytes(['blosc' as const, blosc], ['lz4' as const, lz4]), ([kind, bytes]) => {
      calmly(() => {
        if (kind === 'blosc') expect(bloscDecompress(bytes, data.length).length).toBe(data.length);
        else lz4Decompress(bytes, new Uint8Array(data.length));
      });
    }),
    fuzz(2000),
  );
});

it('spoilt points are refused in words, or are as many as they say', () => {
  const n = 40;
  const columns = { count: n, places: new Float32Array(4 * n).fill(1), motions: new Float32Array(4 * n), ids: new Uint32Array(n) };
  const convention = { metresPerUnit: 1, upAxis: 'z', timeScale: 1 } as const;
  const ascii = `ply\nformat ascii 1.0\nelement vertex 3\nproperty float x\nproperty float y\nproperty float z\nend_header\n1 2 3\n4 5 6\n7 8 9\n`;
  const files = [writePly(columns, convention), new TextEncoder().encode(ascii)].map((b, k) => [k, b] as const);
  for (const [, bytes] of files) expect(readPly(bytes, convention, 'f').count).toBeGreaterThan(0);
  fc.assert(
    fc.property(spoiltBytes(...files), ([, bytes]) => {
      const points = calmly(() => readPly(bytes, convention, 'f'));
      if (points) expect([points.places.length, points.motions.length]).toEqual([4 * points.count, 4 * points.count]);
    }),
    fuzz(3000),
  );
});

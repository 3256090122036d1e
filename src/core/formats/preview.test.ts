import { describe, expect, it } from 'vitest';
import type { TileGrid } from '#core/grid';
import { decodePreview, encodePreview, makePreview, PREVIEW_SIDE } from '.';

const tile = (value: number): TileGrid => ({
  name: 'density',
  components: 1,
  background: [0],
  origins: Int32Array.from([8, 0, 16]),
  values: new Float32Array(512).fill(value),
  masks: new Uint8Array(64).fill(255),
});

describe('previews', () => {
  it('hold the voxels at their place, with the range beside them', () => {
    const p = makePreview(tile(2), { ox: 0, oy: 0, oz: 8, nx: 24, ny: 8, nz: 24 });
    expect(p.size).toEqual([24, 8, 24]);
    expect([p.low, p.high]).toEqual([0, 2]);
    const at = (x: number, y: number, z: number): number => p.data[(z * 8 + y) * 24 + x]!;
    expect([at(8, 0, 8), at(15, 7, 15), at(7, 0, 8), at(8, 0, 7), at(16, 0, 8)]).toEqual([255, 255, 0, 0, 0]);
  });
  it('are at most 96 a side, averaged', () => {
    const p = makePreview(tile(2), { ox: 0, oy: 0, oz: 0, nx: 200, ny: 8, nz: 24 });
    expect(p.step).toBe(4);
    expect(Math.max(...p.size)).toBeLessThanOrEqual(PREVIEW_SIDE);
    // 512 voxels of 2, by bytes of the range.
    const mass = p.data.reduce((a, b) => a + b, 0) * p.step ** 3 * (p.high / 255);
    expect(mass).toBeCloseTo(1024, -1);
  });
  it('come back from bytes, and damaged ones do not', () => {
    const p = makePreview(tile(1), { ox: -8, oy: 0, oz: 8, nx: 24, ny: 8, nz: 24 });
    const bytes = encodePreview(p);
    expect(decodePreview(bytes)).toEqual({ ...p, data: p.data });
    expect(decodePreview(bytes.slice(0, 100))).toBeNull();
    expect(decodePreview(bytes.slice(4))).toBeNull();
  });

  it('of a colour are three bytes a voxel; beside what has one, empty voxels have it too', () => {
    const masks = new Uint8Array(64);
    const values = new Float32Array(1536);
    // One voxel: [3, 3, 3].
    masks[3 * 8 + 3] = 1 << 3;
    values.set([1, 0.5, 0], (3 * 64 + 3 * 8 + 3) * 3);
    const grid = { name: 'colour', components: 3 as const, background: [0, 0, 0], origins: Int32Array.from([0, 0, 0]), values, masks };
    const p = makePreview(grid, { ox: 0, oy: 0, oz: 0, nx: 8, ny: 8, nz: 8 });
    const at = ([x, y, z]: readonly [number, number, number]): number[] => [
      ...p.data.subarray(((z * 8 + y) * 8 + x) * 3, ((z * 8 + y) * 8 + x) * 3 + 3),
    ];
    expect(p).toMatchObject({ components: 3, low: 0, high: 1 });
    for (const place of [
      [3, 3, 3],
      [4, 3, 3],
      [4, 4, 4],
      [2, 2, 4],
    ] as const)
      expect(at(place)).toEqual([255, 128, 0]);
    expect(at([5, 3, 3])).toEqual([0, 0, 0]);
    expect(decodePreview(encodePreview(p))).toEqual(p);
  });
});

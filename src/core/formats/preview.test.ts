import { describe, expect, it } from 'vitest';
import type { TileGrid } from '#core/grid';
import { decodePreview, encodePreview, halvePreview, makePreview, PREVIEW_SIDE } from '.';

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
    const half = halvePreview(p);
    expect(half.size).toEqual([25, 1, 3]);
    const mass = (q: typeof p): number => q.data.reduce((a, b) => a + b, 0) * q.step ** 3;
    expect(mass(half)).toBeCloseTo(mass(p), -4);
  });
  it('come back from bytes, and damaged ones do not', () => {
    const p = makePreview(tile(1), { ox: -8, oy: 0, oz: 8, nx: 24, ny: 8, nz: 24 });
    const bytes = encodePreview(p);
    expect(decodePreview(bytes)).toEqual({ ...p, data: p.data });
    expect(decodePreview(bytes.slice(0, 100))).toBeNull();
    expect(decodePreview(bytes.slice(4))).toBeNull();
  });
});

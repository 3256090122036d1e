import { describe, expect, it } from 'vitest';
import { type PlacedPreview, differenceOf } from './difference';

/** A ramp along x, in metres, sampled at any voxel size. */
const ramp = (voxelSize: number, factor = 1, origin = 0): PlacedPreview => {
  const n = Math.round(3.2 / voxelSize);
  const data = new Uint8Array(n ** 3);
  for (let m = 0; m < data.length; m++) data[m] = Math.round((255 * ((m % n) + 0.5)) / n);
  return {
    preview: { size: [n, n, n], origin: [origin, 0, 0], step: 1, low: 0, high: factor, components: 1, data },
    voxelSize,
    background: 0,
  };
};

describe('difference of two frames', () => {
  it('is nothing for the same field at two voxel sizes, but for rounding to bytes and the rim', () => {
    expect(differenceOf(ramp(0.2), ramp(0.2)).relative).toBeLessThan(1e-12);
    expect(differenceOf(ramp(0.2), ramp(0.1)).relative).toBeLessThan(0.03);
  });

  it('has its sign, its largest value and its share', () => {
    const d = differenceOf(ramp(0.2, 2), ramp(0.2, 1));
    expect(d.largest).toBeCloseTo(0.97, 1);
    // 2x and x: apart by x, together 3x.
    expect(d.relative).toBeCloseTo(1 / 3, 3);
    const { preview } = d;
    const value = preview.low + (preview.data[15]! / 255) * (preview.high - preview.low);
    expect(value).toBeGreaterThan(0.9);
    expect(preview.low).toBe(-preview.high);
  });

  it('fields that do not meet have nothing in common', () => {
    expect(differenceOf(ramp(0.2), ramp(0.2, 1, 40)).relative).toBe(1);
  });
});

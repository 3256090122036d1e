import { describe, expect, it } from 'vitest';
import { colourOfHex, hexOf, rampBytes, shadowVolume } from '.';

describe('shadow volume', () => {
  it('a slab shades what lies behind it, by Beer and Lambert', () => {
    const n = 16;
    const data = new Uint8Array(n ** 3);
    // A full slab at y = 8, 9.
    for (let z = 0; z < n; z++) for (let y = 8; y < 10; y++) for (let x = 0; x < n; x++) data[(z * n + y) * n + x] = 255;
    const { size, data: light } = shadowVolume({ data, size: [n, n, n], depthPerVoxel: 0.4, light: [0, 1, 0] });
    expect(size).toEqual([8, 8, 8]);
    const at = (y: number): number => (light[(4 * 8 + y) * 8 + 4]! / 255) ** 2;
    expect(at(6)).toBeCloseTo(1, 2);
    expect(at(2)).toBeCloseTo(Math.exp(-0.8), 2);
  });
  it('from aside the shadow lies aside', () => {
    const n = 32;
    const data = new Uint8Array(n ** 3);
    for (let z = 12; z < 20; z++) for (let y = 20; y < 24; y++) for (let x = 12; x < 20; x++) data[(z * n + y) * n + x] = 255;
    const light = shadowVolume({ data, size: [n, n, n], depthPerVoxel: 1, light: [0.7071, 0.7071, 0] });
    const at = (x: number, y: number): number => light.data[(8 * 16 + y) * 16 + x]!;
    expect(at(3, 6)).toBeLessThan(at(12, 6));
  });
});

describe('ramps', () => {
  it('start and end at their stops', () => {
    const r = rampBytes('ember', 5);
    expect([...r.subarray(0, 4)]).toEqual([0x1b, 0x11, 0x14, 255]);
    expect([...r.subarray(16, 20)]).toEqual([0xff, 0xf2, 0xcf, 255]);
  });
});

describe('colours', () => {
  it('go to a screen and back', () => {
    expect(hexOf([1, 0.2140411, 0])).toBe('#ff7f00');
    expect(colourOfHex('#ff7f00')).toEqual([1, 0.212, 0]);
    const parts = (hex: string): number[] => [1, 3, 5].map((n) => Number.parseInt(hex.slice(n, n + 2), 16));
    for (const hex of ['#000000', '#123456', '#c9805a', '#ffffff']) {
      // Three digits of linear light: dark ones within a step or two.
      parts(hexOf(colourOfHex(hex))).forEach((v, n) => expect(Math.abs(v - parts(hex)[n]!)).toBeLessThan(3));
    }
  });
});

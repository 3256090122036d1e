import { describe, expect, it } from 'vitest';
import type { TileGrid } from '#core/grid';
import { type MarchOptions, march, toBytes } from './march';

/** A box of one value, `from` to `to` in voxels (multiples of 8). */
function slab(name: string, from: readonly number[], to: readonly number[], value: number): TileGrid {
  const origins: number[] = [];
  for (let x = from[0]!; x < to[0]!; x += 8)
    for (let y = from[1]!; y < to[1]!; y += 8) for (let z = from[2]!; z < to[2]!; z += 8) origins.push(x, y, z);
  const tiles = origins.length / 3;
  return {
    name,
    components: 1,
    background: [0],
    origins: Int32Array.from(origins),
    values: new Float32Array(tiles * 512).fill(value),
    masks: new Uint8Array(tiles * 64).fill(255),
  };
}
const H = 0.05;
const options = (o: Partial<MarchOptions> = {}): MarchOptions => ({
  camera: { position: [0, 0, 10], target: [0, 0, 0], fieldOfView: 20, aspect: 1 },
  width: 9,
  height: 9,
  extinction: 2,
  emission: 3,
  step: 0.5,
  ...o,
});
const middle = (pixels: Float32Array): number[] => [...pixels.subarray(4 * 40, 4 * 41)];

describe('a still', () => {
  it.each([0.25, 0.5, 1])('lets through a slab what Beer and Lambert say, with steps of %d voxels', (step) => {
    // 16 voxels thick: 0.8 m; the edges go over into nothing within a voxel, half of it on either side.
    const density = slab('density', [-32, -32, -8], [32, 32, 8], 0.7);
    const { pixels } = march([{ voxelSize: H, density, flame: null }], options({ step }));
    expect(middle(pixels)[3]).toBeCloseTo(Math.exp(-2 * 0.7 * 0.8), 3);
    expect(middle(pixels)[0]).toBeCloseTo(0.75 * (1 - Math.exp(-2 * 0.7 * 0.8)), 3);
  });

  it('adds light of flame, metre by metre, and smoke before it takes it away', () => {
    const flame = slab('flame', [-32, -32, -8], [32, 32, 8], 0.5);
    const alone = march([{ voxelSize: H, density: null, flame }], options());
    // 0.5 x 3 a metre over 0.8 m.
    expect(middle(alone.pixels)[0]).toBeCloseTo(1.2, 3);
    expect(middle(alone.pixels)[3]).toBe(1);
    const smoke = slab('density', [-32, -32, 32], [32, 32, 48], 1);
    const behind = march([{ voxelSize: H, density: smoke, flame }], options());
    const through = Math.exp(-2 * 0.8);
    expect(middle(behind.pixels)[0]).toBeCloseTo(1.2 * through + 0.75 * (1 - through), 2);
    // The same from the other side: the flame is before the smoke.
    const before = march([{ voxelSize: H, density: smoke, flame }], options({ camera: { ...options().camera, position: [0, 0, -10] } }));
    expect(middle(before.pixels)[0]).toBeCloseTo(1.2 + 0.75 * (1 - through), 2);
  });

  it('sees a thing where it is: left is left, up is up, and nothing beside it', () => {
    // A bar to the left and up.
    const density = slab('density', [-24, 8, 0], [-8, 24, 8], 40);
    const { pixels } = march(
      [{ voxelSize: H, density, flame: null }],
      options({ width: 41, height: 41, camera: { ...options().camera, fieldOfView: 18 } }),
    );
    const dark: number[][] = [];
    for (let y = 0; y < 41; y++) for (let x = 0; x < 41; x++) if (pixels[4 * (41 * y + x) + 3]! < 0.5) dark.push([x, y]);
    expect(dark.length).toBeGreaterThan(20);
    for (const [x, y] of dark) {
      expect(x).toBeLessThan(20);
      expect(y).toBeLessThan(20);
    }
  });

  it('crosses what is empty at once: two puffs far apart take the samples of two', () => {
    const near = slab('density', [0, 0, 0], [8, 8, 8], 0.1);
    const one = march([{ voxelSize: H, density: near, flame: null }], options({ camera: { ...options().camera, fieldOfView: 1 } }));
    const origins = Int32Array.from([0, 0, 0, 0, 0, -800]);
    const both: TileGrid = { ...near, origins, values: new Float32Array(1024).fill(0.1), masks: new Uint8Array(128).fill(255) };
    const two = march([{ voxelSize: H, density: both, flame: null }], options({ camera: { ...options().camera, fieldOfView: 1 } }));
    expect(two.samples).toBeGreaterThan(one.samples);
    expect(two.samples).toBeLessThan(4 * one.samples);
  });

  it('of nothing is the background', () => {
    const { pixels, samples } = march([], options());
    expect(samples).toBe(0);
    expect([...toBytes(pixels, 0.2)].slice(0, 3)).toEqual([124, 124, 124]);
  });
});

import { describe, expect, it } from 'vitest';
import type { TileGrid } from '#core/grid';
import { mulberry32 } from '#core/math';
import { resample, type ResampleOptions } from './resample';

/** A dense box of numbers as a grid of tiles; what is null is inactive. */
function gridOf(
  name: string,
  side: number,
  low: number,
  value: (x: number, y: number, z: number) => number[] | null,
  background: number[],
): TileGrid {
  const tiles: number[][] = [];
  for (let x = low; x < low + side; x += 8)
    for (let y = low; y < low + side; y += 8) for (let z = low; z < low + side; z += 8) tiles.push([x, y, z]);
  const c = background.length as 1 | 3;
  const values = new Float32Array(tiles.length * 512 * c);
  const masks = new Uint8Array(tiles.length * 64);
  tiles.forEach(([ox, oy, oz], t) => {
    for (let n = 0; n < 512; n++) {
      const v = value(ox! + (n >> 6), oy! + ((n >> 3) & 7), oz! + (n & 7));
      values.set(v ?? background, (t * 512 + n) * c);
      if (v) masks[t * 64 + (n >> 3)]! |= 1 << (n & 7);
    }
  });
  return { name, components: c, background, origins: Int32Array.from(tiles.flat()), values, masks };
}

/** Active values of a grid by voxel. */
function read(g: TileGrid): Map<string, number[]> {
  const found = new Map<string, number[]>();
  for (let n = 0; n < g.masks.length * 8; n++) {
    if (!(g.masks[n >> 3]! & (1 << (n & 7)))) continue;
    const o = 3 * (n >> 9);
    const at = [g.origins[o]! + ((n >> 6) & 7), g.origins[o + 1]! + ((n >> 3) & 7), g.origins[o + 2]! + (n & 7)];
    found.set(at.join(), [...g.values.subarray(n * g.components, (n + 1) * g.components)]);
  }
  return found;
}

const options = (o: Partial<ResampleOptions>): ResampleOptions => ({
  factor: 2,
  crop: null,
  cutOff: 0,
  channels: ['density', 'vel', 'temperature'],
  ...o,
});
const random = mulberry32(7);
const noise = new Map<string, number>();
const noisy = (x: number, y: number, z: number): number[] | null => {
  const key = [x, y, z].join();
  if (!noise.has(key)) noise.set(key, random());
  const v = noise.get(key)!;
  return v < 0.3 ? null : [v];
};

/** By hand, voxel by voxel of the result: the mean over what it covers, the background where nothing is. */
function byHand(value: typeof noisy, side: number, low: number, factor: number, background: number): Map<string, number> {
  const found = new Map<string, number>();
  const [from, to] = [Math.floor(low / factor) - 1, Math.ceil((low + side) / factor) + 1];
  const overlap = (v: number, w: number): number => Math.max(0, Math.min(v + 1, (w + 1) * factor) - Math.max(v, w * factor));
  for (let i = from; i < to; i++)
    for (let j = from; j < to; j++)
      for (let k = from; k < to; k++) {
        let sum = background;
        let any = false;
        for (let x = low; x < low + side; x++) {
          if (overlap(x, i) <= 1e-9) continue;
          for (let y = low; y < low + side; y++) {
            if (overlap(y, j) <= 1e-9) continue;
            for (let z = low; z < low + side; z++) {
              const w = (overlap(x, i) * overlap(y, j) * overlap(z, k)) / factor ** 3;
              const v = value(x, y, z);
              if (w <= 1e-12 || !v) continue;
              any = true;
              sum += w * (v[0]! - background);
            }
          }
        }
        if (any) found.set([i, j, k].join(), sum);
      }
  return found;
}

describe('resampling', () => {
  it.each([
    [2, 0],
    [1.5, 0],
    [3.7, 293],
    [1, 0],
  ])('coarser by %d is the mean over what each voxel covers (background %d)', (factor, background) => {
    const grid = gridOf('density', 16, -8, noisy, [background]);
    const { grids } = resample([grid], 0.1, options({ factor }));
    const made = read(grids[0]!);
    const wanted = byHand(noisy, 16, -8, factor, background);
    expect([...made.keys()].sort()).toEqual([...wanted.keys()].sort());
    for (const [at, v] of wanted) expect(made.get(at)![0]).toBeCloseTo(v, background > 0 ? 3 : 5);
  });

  it('keeps the mass, whatever the factor; what is cropped or cut off is said', () => {
    const grid = gridOf('density', 24, -8, noisy, [0]);
    for (const factor of [1, 1.3, 2, 5]) {
      const { mass } = resample([grid], 0.1, options({ factor }));
      expect(mass.kept / mass.input).toBeCloseTo(1, 6);
    }
    const crop = { min: [-0.5, -0.5, -0.5], max: [0.8, 0.8, 0.8] } as const;
    const { mass, grids } = resample([grid], 0.1, options({ crop, cutOff: 0.4 }));
    expect(mass.cropped).toBeGreaterThan(0.1 * mass.input);
    expect(mass.cut).toBeGreaterThan(0);
    expect((mass.kept + mass.cropped + mass.cut) / mass.input).toBeCloseTo(1, 6);
    for (const [, [v]] of read(grids[0]!)) expect(v).toBeGreaterThanOrEqual(0.4);
  });

  it('a cut-off takes the other channels away with the density', () => {
    const density = gridOf('density', 8, 0, (x) => [x < 4 ? 1 : 0.01], [0]);
    const vel = gridOf('vel', 8, 0, () => [1, 2, 3], [0, 0, 0]);
    const { grids } = resample([density, vel], 0.1, options({ factor: 1, cutOff: 0.1 }));
    expect(read(grids[1]!).size).toBe(256);
    expect([...read(grids[1]!).keys()].every((k) => Number(k.split(',')[0]) < 4)).toBe(true);
  });

  it('finer goes straight between the middles: what is linear stays so', () => {
    const linear = (x: number, y: number, z: number): number[] => [2 * x - y + 0.5 * z, x, -z];
    const grid = gridOf('vel', 16, -8, linear, [0, 0, 0]);
    const { grids, voxelSize } = resample([grid], 0.2, options({ factor: 0.5 }));
    expect(voxelSize).toBeCloseTo(0.1);
    let looked = 0;
    for (const [at, v] of read(grids[0]!)) {
      const [i, j, k] = at.split(',').map(Number) as [number, number, number];
      // Within half a voxel of the edge it goes over into the background.
      if ([i, j, k].some((n) => n < -14 || n > 13)) continue;
      looked++;
      linear((i + 0.5) / 2 - 0.5, (j + 0.5) / 2 - 0.5, (k + 0.5) / 2 - 0.5).forEach((w, m) => expect(v[m]).toBeCloseTo(w, 4));
    }
    expect(looked).toBe(28 ** 3);
  });

  it('keeps only the channels that are wanted', () => {
    const grids = ['density', 'temperature', 'fuel'].map((name) => gridOf(name, 8, 0, () => [1], [0]));
    expect(resample(grids, 0.1, options({ channels: ['temperature'] })).grids.map((g) => g.name)).toEqual(['temperature']);
  });
});

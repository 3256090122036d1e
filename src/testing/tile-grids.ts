import type { TileGrid } from '#core/grid';

type Formula<T> = (x: number, y: number, z: number) => T;

/** A grid whose voxels have what a formula gives at their middles (metres), over tiles from `low` to `high` voxels, multiples of 8. */
export function gridOf(
  name: string,
  formula: Formula<number | readonly [number, number, number]>,
  { low, high, h, background = 0 }: { low: readonly number[]; high: readonly number[]; h: number; background?: number },
): TileGrid {
  const origins: number[] = [];
  for (let x = low[0]!; x < high[0]!; x += 8)
    for (let y = low[1]!; y < high[1]!; y += 8) for (let z = low[2]!; z < high[2]!; z += 8) origins.push(x, y, z);
  const tiles = origins.length / 3;
  const components = name === 'vel' || name === 'colour' || name === 'uvw' ? 3 : 1;
  const values = new Float32Array(tiles * 512 * components);
  for (let t = 0; t < tiles; t++)
    for (let n = 0; n < 512; n++) {
      const [x, y, z] = [origins[3 * t]! + (n >> 6), origins[3 * t + 1]! + ((n >> 3) & 7), origins[3 * t + 2]! + (n & 7)].map(
        (i) => (i + 0.5) * h,
      ) as [number, number, number];
      const v = formula(x, y, z);
      values.set(typeof v === 'number' ? [v] : v, components * (t * 512 + n));
    }
  return {
    name,
    components,
    background: new Array<number>(components).fill(background),
    origins: Int32Array.from(origins),
    values,
    masks: new Uint8Array(tiles * 64).fill(255),
  };
}

import type { TileGrid } from '#core/grid';
import { gridOf } from './tile-grids';

/** A velocity given by a formula, on a box of so many voxels each way around the origin. */
export function velocityField(
  v: (x: number, y: number, z: number) => readonly [number, number, number],
  background: readonly number[] = [0, 0, 0],
  box = 32,
  h = 0.125,
): { readonly voxelSize: number; readonly grid: TileGrid }[] {
  const side = [box, box, box];
  return [{ voxelSize: h, grid: { ...gridOf('vel', v, { low: side.map((n) => -n), high: side, h }), background } }];
}

import { RuddleError } from '#core/errors';
import { formatBytes, formatQuantity } from '#core/units';

/** Tiles of a window's table: 256 MB of it. */
const MOST_TILES = 64e6;

/** Throws `settings-invalid` for a window that no table can be made for, with the voxel size that would do. */
export function mayBe(across: readonly [number, number, number], voxelSize: number): void {
  const tiles = across[0] * across[1] * across[2];
  if (tiles <= MOST_TILES) return;
  const fits = voxelSize * Math.cbrt(tiles / MOST_TILES);
  const size = formatQuantity(Number((1.05 * fits).toPrecision(2)), 'metre');
  const message = `A voxel size of ${formatQuantity(voxelSize, 'metre')} is too fine for how far these particles are spread: its window alone would take ${formatBytes(4 * tiles)}. ${size} fits.`;
  throw new RuddleError('settings-invalid', message, { issues: [{ path: 'voxelSize', message }] });
}

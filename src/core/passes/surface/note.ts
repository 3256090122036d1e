import type { SurfaceSettings } from '#core/shot';
import { formatQuantity } from '#core/units';

/** What is wrong with a radius and a voxel size together, before anything is run; null: nothing. */
export function surfaceNote({ distance: d }: SurfaceSettings, spacing: number | null): string | null {
  const own = d.spacing ?? spacing;
  if (own === null || d.radius === 'own') return null;
  const voxel = d.voxelSize ?? d.voxelFactor * own;
  const radius = d.radius === 'metres' ? d.radiusMetres : d.radiusFactor * own;
  const least = (Math.sqrt(3) / 2) * voxel;
  if (radius >= least) return null;
  const fits = Number(((2 / Math.sqrt(3)) * radius).toPrecision(2));
  return `Particles of a radius of ${formatQuantity(radius, 'metre', { digits: 2 })} fall between voxels of ${formatQuantity(voxel, 'metre', { digits: 2 })}: the skin breaks into crumbs. A radius of ${formatQuantity(least, 'metre', { digits: 2 })}, or voxels of ${formatQuantity(fits, 'metre', { digits: 2 })}, would hold.`;
}

import type { Box3 } from '#core/geometry';
import type { DistanceGrid } from './mesh';

/**
 * Distance between the samples, trilinear; beyond the lattice the distance from `box` (of the surface), or from the lattice where that is further:
 * never more than the true one.
 */
export function sampler({ origin, spacing: h, size, values }: DistanceGrid, box: Box3): (x: number, y: number, z: number) => number {
  const [nx, ny, nz] = size;
  const [ox, oy, oz] = origin;
  const [sy, sz] = [nx, nx * ny];
  return (x, y, z) => {
    const fx = (x - ox) / h;
    const fy = (y - oy) / h;
    const fz = (z - oz) / h;
    if (!(fx >= 0 && fy >= 0 && fz >= 0 && fx <= nx - 1 && fy <= ny - 1 && fz <= nz - 1)) {
      const dx = Math.max(box.min[0] - x, 0, x - box.max[0]);
      const dy = Math.max(box.min[1] - y, 0, y - box.max[1]);
      const dz = Math.max(box.min[2] - z, 0, z - box.max[2]);
      return Math.sqrt(dx * dx + dy * dy + dz * dz);
    }
    const i = Math.min(nx - 2, Math.floor(fx));
    const j = Math.min(ny - 2, Math.floor(fy));
    const k = Math.min(nz - 2, Math.floor(fz));
    const tx = fx - i;
    const ty = fy - j;
    const tz = fz - k;
    const n = k * sz + j * sy + i;
    const a = (values[n] ?? 0) + ((values[n + 1] ?? 0) - (values[n] ?? 0)) * tx;
    const b = (values[n + sy] ?? 0) + ((values[n + sy + 1] ?? 0) - (values[n + sy] ?? 0)) * tx;
    const c = (values[n + sz] ?? 0) + ((values[n + sz + 1] ?? 0) - (values[n + sz] ?? 0)) * tx;
    const d = (values[n + sz + sy] ?? 0) + ((values[n + sz + sy + 1] ?? 0) - (values[n + sz + sy] ?? 0)) * tx;
    const low = a + (b - a) * ty;
    return low + (c + (d - c) * ty - low) * tz;
  };
}

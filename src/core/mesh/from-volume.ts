import type { TileGrid } from '#core/grid';
import { RuddleError } from '#core/errors';
import type { DistanceGrid } from './mesh';
import { spread } from './voxelise';

const MOST_SAMPLES = 24e6;
/** Samples around what the file has. */
const MARGIN = 3;

export interface VolumeDistance {
  readonly grid: DistanceGrid;
  /** The file had it positive inside: it was turned. */
  readonly turned: boolean;
}

/**
 * A signed distance from the tiles of a volume, in its file's units. Only a band around the surface is stored in files: what lies further out takes its
 * sign from it. A solid does not reach infinity: when the outermost stored values are mostly negative, the file has its insides positive.
 */
export function distanceFromTiles(
  tiles: TileGrid,
  spacing: number,
  translation: readonly [number, number, number],
  file: string,
): VolumeDistance {
  const refuse = (reason: string): never => {
    throw new RuddleError('file-invalid', `${file}: ${reason}.`, { file, reason });
  };
  const count = tiles.origins.length / 3;
  const min = [Infinity, Infinity, Infinity];
  const max = [-Infinity, -Infinity, -Infinity];
  const active = (t: number, n: number): boolean => (((tiles.masks[t * 64 + (n >> 3)] ?? 0) >> (n & 7)) & 1) === 1;
  for (let t = 0; t < count; t++) {
    for (let n = 0; n < 512; n++) {
      if (!active(t, n)) continue;
      const p = [n >> 6, (n >> 3) & 7, n & 7];
      for (let a = 0; a < 3; a++) {
        const v = (tiles.origins[3 * t + a] ?? 0) + (p[a] ?? 0);
        min[a] = Math.min(min[a] ?? v, v);
        max[a] = Math.max(max[a] ?? v, v);
      }
    }
  }
  if (!Number.isFinite(min[0] ?? NaN)) refuse('its signed distance has no voxels');
  const size = [0, 1, 2].map((a) => (max[a] ?? 0) - (min[a] ?? 0) + 1 + 2 * MARGIN) as [number, number, number];
  const total = size[0] * size[1] * size[2];
  if (total > MOST_SAMPLES) refuse(`it spans ${String(total)} voxels; ${String(MOST_SAMPLES)} are the most`);
  const values = new Float32Array(total).fill(Infinity);
  const known = new Uint8Array(total);
  const [nx, ny] = size;
  let outer = 0;
  for (let t = 0; t < count; t++) {
    for (let n = 0; n < 512; n++) {
      if (!active(t, n)) continue;
      const p = [n >> 6, (n >> 3) & 7, n & 7].map((v, a) => (tiles.origins[3 * t + a] ?? 0) + v);
      const [i, j, k] = p.map((v, a) => v - (min[a] ?? 0) + MARGIN) as [number, number, number];
      const value = tiles.values[t * 512 + n] ?? 0;
      if (!Number.isFinite(value)) refuse('a distance is not a number');
      const at = (k * ny + j) * nx + i;
      values[at] = value;
      known[at] = 1;
      if (p.some((v, a) => v === min[a] || v === max[a])) outer += Math.sign(value);
    }
  }
  const turned = outer < 0;
  if (turned) for (let n = 0; n < total; n++) if (known[n]) values[n] = -(values[n] ?? 0);
  const corner = [0, 1, 2].map((a) => ((min[a] ?? 0) - MARGIN) * spacing + (translation[a] ?? 0)) as [number, number, number];
  const grid: DistanceGrid = { origin: corner, spacing, size, values };
  spread(grid, known);
  if (!values.some((v) => v < 0) || !values.some((v) => v > 0)) refuse('its values never change sign: it is no signed distance');
  return { grid, turned };
}

/** Box of what lies inside, units of the grid. */
export function insideBox({ origin, spacing, size, values }: DistanceGrid): {
  min: [number, number, number];
  max: [number, number, number];
} {
  const low = [Infinity, Infinity, Infinity];
  const high = [-Infinity, -Infinity, -Infinity];
  const [nx, ny] = size;
  for (let n = 0; n < values.length; n++) {
    if ((values[n] ?? 0) >= 0) continue;
    const p = [n % nx, Math.floor(n / nx) % ny, Math.floor(n / (nx * ny))];
    for (let a = 0; a < 3; a++) {
      low[a] = Math.min(low[a] ?? 0, p[a] ?? 0);
      high[a] = Math.max(high[a] ?? 0, p[a] ?? 0);
    }
  }
  // The surface lies up to a sample further out.
  const at = (v: number, a: number, by: number): number => origin[a as 0 | 1 | 2] + (v + by) * spacing;
  return {
    min: [at(low[0] ?? 0, 0, -1), at(low[1] ?? 0, 1, -1), at(low[2] ?? 0, 2, -1)],
    max: [at(high[0] ?? 0, 0, 1), at(high[1] ?? 0, 1, 1), at(high[2] ?? 0, 2, 1)],
  };
}

import type { TileGrid } from '#core/grid';
import { writeVdb, type VdbGridInput } from './vdb-write';

export interface FrameFileOptions {
  readonly voxelSize: number;
  readonly metresPerUnit: number;
  readonly upAxis: 'y' | 'z';
  /** Seconds of the computation in a second of the shot. */
  readonly timeScale: number;
  readonly precision: 'half' | 'full';
  readonly compression: 'blosc' | 'zip' | 'none';
  readonly uuid: string;
}

/** A solver's channels as one .vdb file: scene units, seconds of the shot, the chosen axis up. */
export function writeFrameFile(grids: readonly TileGrid[], o: FrameFileOptions): Uint8Array<ArrayBuffer> {
  const h = o.voxelSize / o.metresPerUnit;
  const inputs = grids.map((grid): VdbGridInput => {
    const turned = o.upAxis === 'z' ? zUp(grid) : grid;
    const vector = grid.components === 3;
    return {
      grid: vector ? inUnits(turned, o.timeScale / o.metresPerUnit) : turned,
      class: vector ? 'unknown' : 'fog volume',
      // Index coordinates name voxel centres; voxel i covers [i, i + 1] h. Turning by a quarter maps y to z and z to -y.
      transform: { scale: [h, h, h], translation: [h / 2, h / 2, h / 2] },
      ...(vector ? { vectorType: 'contravariant relative' } : {}),
    };
  });
  return writeVdb(inputs, { precision: o.precision, compression: o.compression, uuid: o.uuid, creator: 'Ruddle' });
}

function inUnits(grid: TileGrid, factor: number): TileGrid {
  if (factor === 1) return grid;
  return { ...grid, background: grid.background.map((b) => b * factor), values: grid.values.map((v) => v * factor) };
}

/** (x, y, z) -> (x, -z, y): voxel k becomes voxel -1 - k, so that the tiles stay whole. */
function zUp(grid: TileGrid): TileGrid {
  const tiles = grid.origins.length / 3;
  const c = grid.components;
  const origins = new Int32Array(grid.origins.length);
  const values = new Float32Array(grid.values.length);
  const masks = new Uint8Array(grid.masks.length);
  for (let t = 0; t < tiles; t++) {
    origins[3 * t] = grid.origins[3 * t] ?? 0;
    origins[3 * t + 1] = -8 - (grid.origins[3 * t + 2] ?? 0);
    origins[3 * t + 2] = grid.origins[3 * t + 1] ?? 0;
    for (let n = 0; n < 512; n++) {
      const m = (n & (7 << 6)) | ((7 - (n & 7)) << 3) | ((n >> 3) & 7);
      if ((grid.masks[t * 64 + (n >> 3)] ?? 0) & (1 << (n & 7))) {
        masks[t * 64 + (m >> 3)] = (masks[t * 64 + (m >> 3)] ?? 0) | (1 << (m & 7));
      }
      const from = (t * 512 + n) * c;
      const to = (t * 512 + m) * c;
      if (c === 1) values[to] = grid.values[from] ?? 0;
      else {
        values[to] = grid.values[from] ?? 0;
        values[to + 1] = -(grid.values[from + 2] ?? 0);
        values[to + 2] = grid.values[from + 1] ?? 0;
      }
    }
  }
  const b = grid.background;
  return { ...grid, background: c === 1 ? b : [b[0] ?? 0, -(b[2] ?? 0), b[1] ?? 0], origins, values, masks };
}

import { RuddleError } from '#core/errors';
import type { TileGrid } from '#core/grid';
import { readVdb } from './vdb-read';
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

/** What other programs call the channels, as they are called here. */
const ALIASES: Readonly<Record<string, string>> = {
  v: 'vel',
  velocity: 'vel',
  temp: 'temperature',
  heat: 'temperature',
  flames: 'flame',
  fire: 'flame',
  smoke: 'density',
  color: 'colour',
};
export const channelName = (name: string): string => ALIASES[name] ?? name;

/** The channel that turns with the axes and is in units of length and time. */
const VELOCITY = 'vel';
/** The channel that is a length: a level set. */
const DISTANCE = 'distance';

/** What a channel's values are multiplied with to be in scene units and seconds of the shot. */
const unitOf = (name: string, { metresPerUnit, timeScale }: Pick<FrameFileOptions, 'metresPerUnit' | 'timeScale'>): number =>
  name === VELOCITY ? timeScale / metresPerUnit : name === DISTANCE ? 1 / metresPerUnit : 1;

/** A solver's channels as one .vdb file: scene units, seconds of the shot, the chosen axis up. */
export function writeFrameFile(grids: readonly TileGrid[], o: FrameFileOptions): Uint8Array<ArrayBuffer> {
  const h = o.voxelSize / o.metresPerUnit;
  const inputs = grids.map((grid): VdbGridInput => {
    const turned = o.upAxis === 'z' ? zUp(grid) : grid;
    // Colours and texture coordinates are three numbers too, and no direction.
    const vector = grid.name === VELOCITY;
    return {
      grid: inUnits(turned, unitOf(grid.name, o)),
      class: grid.components === 3 ? 'unknown' : grid.name === DISTANCE ? 'level set' : 'fog volume',
      // Index coordinates name voxel centres; voxel i covers [i, i + 1] h. Turning by a quarter maps y to z and z to -y.
      transform: { scale: [h, h, h], translation: [h / 2, h / 2, h / 2] },
      ...(vector ? { vectorType: 'contravariant relative' } : {}),
    };
  });
  return writeVdb(inputs, { precision: o.precision, compression: o.compression, uuid: o.uuid, creator: 'Ruddle' });
}

/** What `readFrameFile` gives: metres, seconds of the computation, y up. */
export interface FrameGrids {
  readonly voxelSize: number;
  readonly grids: readonly TileGrid[];
}

/** A frame's file as a solver's channels again: what `writeFrameFile` did is undone. Throws `file-invalid`. */
export function readFrameFile(
  bytes: Uint8Array,
  o: Pick<FrameFileOptions, 'metresPerUnit' | 'upAxis' | 'timeScale'>,
  file = 'the file',
  wanted?: (channel: string) => boolean,
): FrameGrids {
  const refuse = (reason: string): never => {
    throw new RuddleError('file-invalid', `${file} cannot be worked on: ${reason}.`, { file, reason });
  };
  let voxelSize = 0;
  const grids = readVdb(bytes, file, wanted && ((name) => wanted(channelName(name)))).grids.flatMap((g): TileGrid[] => {
    if (!g.tiles) return [];
    const tiles = { ...g.tiles, name: channelName(g.name) };
    const scale = g.transform?.scale ?? [0, 1, 2];
    const even = scale.every((s) => s > 0 && Math.abs(s - scale[0]) < 1e-9 * s);
    if (!even) refuse(`the voxels of its ${g.name} are no cubes along the axes`);
    const size = scale[0] * o.metresPerUnit;
    if (voxelSize !== 0 && Math.abs(size - voxelSize) > 1e-6 * size) refuse('its channels have voxels of different sizes');
    voxelSize = size;
    const turned = o.upAxis === 'z' ? yUp(tiles) : tiles;
    return [inUnits(turned, 1 / unitOf(tiles.name, o))];
  });
  return { voxelSize, grids };
}

function inUnits(grid: TileGrid, factor: number): TileGrid {
  if (factor === 1) return grid;
  return { ...grid, background: grid.background.map((b) => b * factor), values: grid.values.map((v) => v * factor) };
}

/** (x, y, z) -> (x, -z, y): voxel k becomes voxel -1 - k, so that the tiles stay whole. */
const zUp = (grid: TileGrid): TileGrid => turned(grid, true);
/** And back: (x, y, z) -> (x, z, -y). */
const yUp = (grid: TileGrid): TileGrid => turned(grid, false);

function turned(grid: TileGrid, up: boolean): TileGrid {
  const tiles = grid.origins.length / 3;
  const c = grid.components;
  const vector = grid.name === VELOCITY;
  const origins = new Int32Array(grid.origins.length);
  const values = new Float32Array(grid.values.length);
  const masks = new Uint8Array(grid.masks.length);
  for (let t = 0; t < tiles; t++) {
    origins[3 * t] = grid.origins[3 * t] ?? 0;
    const [y, z] = [grid.origins[3 * t + 1] ?? 0, grid.origins[3 * t + 2] ?? 0];
    origins[3 * t + 1] = up ? -8 - z : z;
    origins[3 * t + 2] = up ? y : -8 - y;
    for (let n = 0; n < 512; n++) {
      const [j, k] = [(n >> 3) & 7, n & 7];
      const m = (n & (7 << 6)) | (up ? ((7 - k) << 3) | j : (k << 3) | (7 - j));
      if ((grid.masks[t * 64 + (n >> 3)] ?? 0) & (1 << (n & 7))) {
        masks[t * 64 + (m >> 3)] = (masks[t * 64 + (m >> 3)] ?? 0) | (1 << (m & 7));
      }
      const from = (t * 512 + n) * c;
      const to = (t * 512 + m) * c;
      if (c === 1) values[to] = grid.values[from] ?? 0;
      else if (!vector) for (let a = 0; a < 3; a++) values[to + a] = grid.values[from + a] ?? 0;
      else {
        values[to] = grid.values[from] ?? 0;
        values[to + 1] = up ? -(grid.values[from + 2] ?? 0) : (grid.values[from + 2] ?? 0);
        values[to + 2] = up ? (grid.values[from + 1] ?? 0) : -(grid.values[from + 1] ?? 0);
      }
    }
  }
  const b = grid.background;
  const [bx, by, bz] = [b[0] ?? 0, b[1] ?? 0, b[2] ?? 0];
  return { ...grid, background: !vector ? b : up ? [bx, -bz, by] : [bx, bz, -by], origins, values, masks };
}

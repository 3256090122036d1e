import { encodePreview, makePreview, writeFrameFile } from '#core/formats';
import { type TileGrid, type Window, windowOf } from '#core/grid';
import type { FileConvention } from '#core/pass';
import type { PassPart } from './contract';

/** Box of the tiles of all channels. */
function windowAround(grids: readonly TileGrid[]): Window {
  const min: [number, number, number] = [Infinity, Infinity, Infinity];
  const max: [number, number, number] = [-Infinity, -Infinity, -Infinity];
  for (const { origins } of grids) {
    for (let n = 0; n < origins.length; n++) {
      const a = (n % 3) as 0 | 1 | 2;
      const v = origins[n] ?? 0;
      if (v < min[a]) min[a] = v;
      if (v + 8 > max[a]) max[a] = v + 8;
    }
  }
  return min[0] === Infinity ? windowOf([0, 0, 0], [8, 8, 8]) : windowOf(min, max);
}

interface VolumeFile {
  readonly file: FileConvention;
  readonly voxelSize: number;
  readonly precision: 'half' | 'full';
  readonly compression: 'blosc' | 'zip' | 'none';
  readonly uuid: string;
}

/** A frame's grids as a .vdb file, and what the page looks at of them. */
export function volumePart(grids: readonly TileGrid[], { file, ...o }: VolumeFile): PassPart {
  const window = windowAround(grids);
  return {
    extension: 'vdb',
    bytes: writeFrameFile(grids, { ...file, ...o }),
    previews: grids.map((g) => ({ channel: g.name, bytes: encodePreview(makePreview(g, window)) })),
  };
}

import { encodePreview, makePreview, writeFrameFile } from '#core/formats';
import { type TileGrid, windowOf } from '#core/grid';
import { type ResampleBody, type ResampleReport, resample } from '#core/passes';
import type { PassPart, PassWorker } from './contract';

/** Box of the tiles of all channels. */
function windowAround(grids: readonly TileGrid[]): ReturnType<typeof windowOf> {
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

/** Part by part, as what it reads has them. */
export const resamplePass: PassWorker<ResampleBody, ResampleReport> = ({ plan, read, clock, uuid }) => ({
  frame: (frame) => {
    const { body, gives } = plan;
    const began = clock();
    const density = body.cutOff > 0 || body.channels.includes('density');
    const parts = read(frame, (c) => body.channels.includes(c) || (density && c === 'density'));
    const loaded = clock();
    const made = parts.map((p) => resample(p.grids, p.voxelSize, body));
    const done = clock();
    const files = made.map(({ grids, voxelSize }, n): PassPart => {
      const window = windowAround(grids);
      return {
        extension: 'vdb',
        bytes: writeFrameFile(grids, {
          ...gives.file,
          voxelSize,
          precision: body.precision,
          compression: body.compression,
          uuid: uuid(n, frame),
        }),
        previews: grids.map((g) => ({ channel: g.name, bytes: encodePreview(makePreview(g, window)) })),
      };
    });
    const sum = (pick: (m: (typeof made)[number]) => number): number => made.reduce((n, m) => n + pick(m), 0);
    const inputVoxels = sum((m) => m.inputVoxels);
    return Promise.resolve({
      report: {
        frame,
        seconds: { reading: loaded - began, resampling: done - loaded, writing: clock() - done },
        totalSeconds: clock() - began,
        memoryBytes: sum((m) => m.memoryBytes),
        elements: inputVoxels,
        kept: sum((m) => m.activeVoxels),
        activeVoxels: sum((m) => m.activeVoxels),
        inputVoxels,
        mass: {
          input: sum((m) => m.mass.input),
          kept: sum((m) => m.mass.kept),
          cropped: sum((m) => m.mass.cropped),
          cut: sum((m) => m.mass.cut),
        },
      },
      parts: files,
      state: null,
    });
  },
});

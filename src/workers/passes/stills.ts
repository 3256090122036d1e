import sharp from 'sharp';
import { type StillsBody, type StillsReport, march, toBytes } from '#core/passes';
import type { PassWorker } from './contract';

/** Behind everything: a dark grey, linear, so that thin smoke is seen before it. */
const BACKGROUND = 0.02;

export const stillsPass: PassWorker<StillsBody, StillsReport> = ({ plan, read, clock }) => ({
  frame: async (frame, _wanted) => {
    const { body } = plan;
    const began = clock();
    const parts = read(frame, (c) => c === 'density' || c === 'flame');
    const loaded = clock();
    const volumes = parts.map(({ voxelSize, grids }) => ({
      voxelSize,
      density: grids.find((g) => g.name === 'density') ?? null,
      flame: grids.find((g) => g.name === 'flame') ?? null,
    }));
    const { pixels, samples } = march(volumes, body);
    const done = clock();
    let covered = 0;
    for (let n = 0; n < pixels.length; n += 4) covered += Math.max(1 - (pixels[n + 3] ?? 1), Math.min(1, pixels[n] ?? 0));
    const raw = { width: body.width, height: body.height, channels: 3 as const };
    const png = await sharp(toBytes(pixels, BACKGROUND), { raw }).png({ compressionLevel: 6 }).toBuffer();
    return {
      report: {
        frame,
        seconds: { reading: loaded - began, marching: done - loaded, writing: clock() - done },
        totalSeconds: clock() - began,
        memoryBytes: pixels.byteLength + parts.reduce((n, p) => n + p.grids.reduce((m, g) => m + g.values.byteLength, 0), 0),
        elements: samples,
        kept: body.width * body.height,
        samples,
        covered: (4 * covered) / pixels.length,
      },
      parts: [{ extension: 'png', bytes: new Uint8Array(png), previews: [] }],
      state: null,
    };
  },
});

import { type StillsBody, type StillsReport, drawPoints, march, toBytes, workOfPoints } from '#core/passes';
import type { PassWorker } from './contract';

/** Behind everything: a dark grey, linear, so that thin smoke is seen before it. */
const BACKGROUND = 0.02;

export const stillsPass: PassWorker<StillsBody, StillsReport> = ({ plan, read, points, png, clock, alive }) => ({
  frame: async (frame, _wanted) => {
    const { body } = plan;
    const began = clock();
    const cloud = body.points ? points(frame) : null;
    const parts = cloud ? [] : read(frame, (c) => c === 'density' || c === 'flame');
    const loaded = clock();
    const volumes = parts.map(({ voxelSize, grids }) => ({
      voxelSize,
      density: grids.find((g) => g.name === 'density') ?? null,
      flame: grids.find((g) => g.name === 'flame') ?? null,
    }));
    const { pixels, samples } = cloud && body.points ? drawPoints(cloud, { ...body, ...body.points }) : march(volumes, body, alive);
    const done = clock();
    let covered = 0;
    for (let n = 0; n < pixels.length; n += 4) covered += Math.max(1 - (pixels[n + 3] ?? 1), Math.min(1, pixels[n] ?? 0));
    const picture = await png(toBytes(pixels, BACKGROUND), body.width, body.height);
    return {
      report: {
        frame,
        seconds: { reading: loaded - began, marching: done - loaded, writing: clock() - done },
        totalSeconds: clock() - began,
        memoryBytes:
          pixels.byteLength +
          52 * (cloud?.count ?? 0) +
          parts.reduce((n, p) => n + p.grids.reduce((m, g) => m + g.values.byteLength, 0), 0),
        elements: cloud ? workOfPoints(cloud.count, body.width * body.height) : samples,
        kept: body.width * body.height,
        samples,
        covered: (4 * covered) / pixels.length,
        ...(cloud ? { particles: cloud.count } : {}),
      },
      parts: [{ extension: 'png', bytes: picture, previews: [] }],
      state: null,
    };
  },
});

import { type RetimeBody, type RetimeReport, momentOf, retimed } from '#core/passes';
import type { PassWorker } from './contract';
import { volumePart } from './volume-part';

/** Part by part, as what it reads has them. */
export const retimePass: PassWorker<RetimeBody, RetimeReport> = ({ plan, read, clock, uuid }) => ({
  frame: (frame) => {
    const { body, gives } = plan;
    const began = clock();
    const { before, after, share, moment } = momentOf(body, frame);
    const wanted = (c: string): boolean => c === 'vel' || c === 'density' || body.channels.includes(c);
    const a = read(before, wanted);
    const b = after === before ? a : read(after, wanted);
    const loaded = clock();
    const { speed, channels, frameSeconds: seconds, precision, compression } = body;
    const made = a.map(({ voxelSize, grids }, n) => ({
      voxelSize,
      ...retimed(grids, b[n]?.grids ?? grids, channels, { share, seconds, voxelSize, speed }),
    }));
    const done = clock();
    const parts = made.map(({ grids, voxelSize }, n) =>
      volumePart(grids, { file: gives.file, voxelSize, precision, compression, uuid: uuid(n, frame) }),
    );
    const voxels = made.reduce((n, m) => n + m.voxels, 0);
    const bytes = [...a, ...b, ...made].reduce((n, p) => n + p.grids.reduce((m, g) => m + g.values.byteLength, 0), 0);
    return Promise.resolve({
      report: {
        frame,
        seconds: { reading: loaded - began, moving: done - loaded, writing: clock() - done },
        totalSeconds: clock() - began,
        memoryBytes: bytes,
        elements: 512 * a.reduce((n, p) => n + Math.max(0, ...p.grids.map((g) => g.origins.length / 3)), 0),
        kept: voxels,
        activeVoxels: voxels,
        moment,
        apart: Math.max(0, ...made.map((m) => m.apart)),
      },
      parts,
      state: null,
    });
  },
});

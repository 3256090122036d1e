import { type ResampleBody, type ResampleReport, resample } from '#core/passes';
import type { PassWorker } from './contract';
import { volumePart } from './volume-part';

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
    const { precision, compression } = body;
    const files = made.map(({ grids, voxelSize }, n) =>
      volumePart(grids, { file: gives.file, voxelSize, precision, compression, uuid: uuid(n, frame) }),
    );
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

import { Held, type HeldBody, type HeldReport, heldFacts } from '#core/passes';
import type { PassWorker } from './contract';
import { solvedFrame } from './solved-frame';

export const heldPass: PassWorker<HeldBody, HeldReport> = (job) => {
  const { plan, read, forms, pictures, clock, from } = job;
  const { body } = plan;
  const team = job.team();
  let inputVoxels = 0;
  const held = new Held({
    body,
    team,
    forms,
    pictures,
    clock,
    from,
    read: (frame) => {
      const parts = read(frame);
      inputVoxels = parts.reduce((n, p) => n + 512 * Math.max(0, ...p.grids.map((g) => g.origins.length / 3)), 0);
      return parts;
    },
  });
  return {
    frame: (frame, wanted) => {
      const began = clock();
      const { state, apart, moved, spectra, ...solved } = held.frame(frame);
      const elements = inputVoxels * (body.base / body.options.voxelSize) ** 3;
      const { facts, parts } = solvedFrame(job, solved, { began, wanted, team, elements });
      return Promise.resolve({ report: { ...facts, ...heldFacts(solved.report, { apart, moved, spectra }, inputVoxels) }, parts, state });
    },
  };
};

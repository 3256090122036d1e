import { Fed, type FedBody, type FedReport, fedFacts } from '#core/passes';
import type { PassWorker } from './contract';
import { solvedFrame } from './solved-frame';

export const fedPass: PassWorker<FedBody, FedReport> = (job) => {
  const { plan, points, forms, pictures, clock, from, keep } = job;
  const team = job.team();
  const fed = new Fed({ body: plan.body, team, forms, pictures, clock, from, points, keep });
  return {
    frame: (frame, wanted) => {
      const began = clock();
      const { state, particles, ...solved } = fed.frame(frame);
      const { facts, parts } = solvedFrame(job, solved, { began, wanted, team, elements: solved.report.activeVoxels });
      return Promise.resolve({ report: { ...facts, ...fedFacts(solved.report, particles) }, parts, state });
    },
  };
};

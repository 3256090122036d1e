import { type RefillBody, type RefillReport, aliveOf, refillFlight } from '#core/passes';
import type { PassRunner, PassWorker } from './contract';
import { FlownFrames } from './flown-frame';

export const refillPass: PassWorker<RefillBody, RefillReport> = (job): PassRunner<RefillReport> => {
  const { plan, from, points } = job;
  const { body, frames } = plan;
  const { flight, births } = refillFlight(body, job.team(), points, from);
  const steps = (frames.last - frames.first) / frames.every;
  const flown = new FlownFrames(job, flight, job.beside('velocity'), aliveOf(body, points(frames.last).count, steps));
  return {
    frame: (frame, wanted) => {
      const { report, ...output } = flown.frame(frame, wanted, (before) => {
        births.goOn(before);
      });
      return Promise.resolve({ ...output, report: { ...report, parents: births.parents } });
    },
  };
};

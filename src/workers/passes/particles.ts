import { type ParticlesBody, type ParticlesReport, particlesFlight } from '#core/passes';
import type { PassRunner, PassWorker } from './contract';
import { FlownFrames } from './flown-frame';

export const particlesPass: PassWorker<ParticlesBody, ParticlesReport> = (job): PassRunner<ParticlesReport> => {
  const { plan, from } = job;
  const { body, frames } = plan;
  const flight = particlesFlight(body, job.team(), job.forms, from);
  const most = body.settings.perSecond * Math.min(body.settings.life, (frames.last - frames.first + frames.every) * body.frameSeconds);
  const flown = new FlownFrames(job, flight, job, most);
  return { frame: (frame, wanted) => Promise.resolve(flown.frame(frame, wanted)) };
};

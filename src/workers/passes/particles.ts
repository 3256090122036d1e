import { PREVIEW_POINTS, pointsPreview, writePly } from '#core/formats';
import { Flight, type ParticlesBody, type ParticlesReport, type VelocityPart, activeOf } from '#core/passes';
import type { PassJob, PassRunner, PassWorker } from './contract';

const velocity = (channel: string): boolean => channel === 'vel';

/** Velocities of all parts at a frame. */
const gasAt = ({ read }: PassJob<ParticlesBody>, frame: number): VelocityPart[] =>
  read(frame, velocity).flatMap(({ voxelSize, grids }) => grids.map((grid) => ({ voxelSize, grid })));

export const particlesPass: PassWorker<ParticlesBody, ParticlesReport> = (job): PassRunner<ParticlesReport> => {
  const { plan, clock, from } = job;
  const { body, frames, gives } = plan;
  const team = job.team();
  const flight = new Flight(body, team, job.forms, from);
  // The same share in every frame, so that what is looked at does not flicker.
  const most = body.settings.perSecond * Math.min(body.settings.life, (frames.last - frames.first + frames.every) * body.frameSeconds);
  const every = Math.max(1, Math.ceil(most / PREVIEW_POINTS));
  let at: number | null = null;
  return {
    frame: (frame, wanted) => {
      const began = clock();
      if (at === null && frame > frames.first) flight.goOn(gasAt(job, frame - frames.every));
      const gas = gasAt(job, frame);
      const loaded = clock();
      const voxels = gas.reduce((n, p) => n + activeOf(p.grid), 0);
      const counts = frame === frames.first ? flight.begin(frame, gas) : flight.step(frame, gas);
      at = frame;
      const done = clock();
      const { cloud } = flight;
      const parts = wanted
        ? [
            {
              extension: 'ply' as const,
              bytes: writePly(cloud, gives.file),
              previews: [{ channel: 'points', bytes: pointsPreview(cloud, every) }],
            },
          ]
        : [];
      return Promise.resolve({
        report: {
          frame,
          seconds: { reading: loaded - began, carrying: done - loaded, writing: clock() - done },
          totalSeconds: clock() - began,
          memoryBytes: cloud.bytes + gas.reduce((n, p) => n + p.grid.values.byteLength * (1 + 8 / 3), 0),
          elements: cloud.count + voxels,
          kept: cloud.count,
          count: cloud.count,
          ...counts,
        },
        parts,
        state: () => flight.state(),
      });
    },
  };
};

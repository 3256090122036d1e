import { Detail, type DetailBody, type DetailReport, collectDetail } from '#core/passes';
import type { PassWorker } from './contract';
import { volumePart } from './volume-part';

export const detailPass: PassWorker<DetailBody, DetailReport> = ({ plan, read, forms, team: startTeam, clock, uuid, from }) => {
  const { body, frames, gives } = plan;
  const team = startTeam();
  const detail = new Detail(body, team, forms, from);
  const wanted = (channel: string): boolean => channel === 'vel' || channel === 'density' || body.channels.includes(channel as never);
  let begun = false;
  return {
    frame: (frame, write) => {
      const began = clock();
      if (!begun && frame > frames.first) detail.goOn(read(frame - frames.every, wanted), frame - frames.every);
      const parts = read(frame, wanted);
      const loaded = clock();
      const counts = !begun && frame === frames.first ? detail.begin(parts, frame) : detail.step(parts, frame);
      begun = true;
      const done = clock();
      const files = write
        ? [
            volumePart(collectDetail(team, detail, body.channels), {
              file: gives.file,
              voxelSize: body.flow.voxelSize,
              precision: body.precision,
              compression: body.compression,
              uuid: uuid(0, frame),
            }),
          ]
        : [];
      const inputVoxels = parts.reduce((n, p) => n + 512 * Math.max(0, ...p.grids.map((g) => g.origins.length / 3)), 0);
      return Promise.resolve({
        report: {
          frame,
          seconds: { reading: loaded - began, carrying: done - loaded, writing: clock() - done },
          totalSeconds: clock() - began,
          memoryBytes: team.allocated(),
          elements: inputVoxels * (body.base / body.flow.voxelSize) ** 3,
          kept: counts.activeVoxels,
          inputVoxels,
          ...counts,
        },
        parts: files,
        state: () => detail.state(frame),
      });
    },
  };
};

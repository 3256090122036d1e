import { Held, type HeldBody, type HeldReport, heldFacts } from '#core/passes';
import type { PassWorker } from './contract';
import { volumePart } from './volume-part';

export const heldPass: PassWorker<HeldBody, HeldReport> = ({ plan, read, forms, pictures, team: startTeam, clock, uuid, from }) => {
  const { body, gives } = plan;
  const team = startTeam();
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
      const { report, grids, state, ...against } = held.frame(frame);
      const done = clock();
      const { precision, compression, options } = body;
      const files = wanted
        ? [volumePart(grids, { file: gives.file, voxelSize: options.voxelSize, precision, compression, uuid: uuid(0, frame) })]
        : [];
      return Promise.resolve({
        report: {
          frame,
          seconds: { solving: done - began, writing: clock() - done },
          totalSeconds: clock() - began,
          memoryBytes: team.allocated(),
          elements: inputVoxels * (body.base / options.voxelSize) ** 3,
          kept: report.activeVoxels,
          ...heldFacts(report, against, inputVoxels),
        },
        parts: files,
        state,
      });
    },
  };
};

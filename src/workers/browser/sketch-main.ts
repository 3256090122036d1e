import { isRuddleError, toErrorData } from '#core/errors';
import { makePreview } from '#core/formats';
import { channelsOf, solveTogether } from '#core/gas';
import { type AnyGeometry, formsOf, picturesOf } from '#core/mesh';
import { geometryOf, optionsOf } from '#core/shot';
import { type HelperStart, type Team, createTeam, resume } from '#kernels';
import type { ChannelPreview, SketchMessage, SketchRequest, SketchStart } from '#protocol';
import { warmUp } from '#workers/common';
import { createGeometryCache } from './geometry-cache';
import { breathe, sketching } from './sketching';

type Send = (message: SketchMessage, transfer: ArrayBuffer[]) => void;

/** The body of a sketch worker: one run at a time, the latest that was asked for. */
export function sketchMain(
  send: Send,
  startHelper: (start: HelperStart) => void,
  load: (hash: string) => Promise<AnyGeometry>,
): (request: SketchRequest) => void {
  let team: Team | null = null;
  const known = createGeometryCache(load);

  return sketching(async ({ generation, plan }: SketchStart, { threads, control }, overtaken) => {
    try {
      if (!team) {
        team = createTeam({ threads, control, startHelper });
        warmUp();
      }
      const geometries = await known.all(geometryOf(plan));
      if (overtaken()) return;
      resume(control);
      team.reset();
      const solving = team;
      const frames = solveTogether(optionsOf(plan), {
        forms: formsOf(geometries),
        pictures: picturesOf(geometries),
        team: solving,
        clock: () => performance.now() / 1000,
        channels: { names: channelsOf(plan.options).filter((c) => c !== 'fuel') },
        cancelled: () => solving.cancelled(),
      });
      for (const { report, parts, inRange } of frames) {
        const previews = parts.flatMap(({ grids, report: { window } }, bounds) => {
          const [ox, oy, oz, nx, ny, nz] = window;
          return grids.map((grid): ChannelPreview => ({
            bounds,
            channel: grid.name as ChannelPreview['channel'],
            preview: makePreview(grid, { ox, oy, oz, nx, ny, nz }),
          }));
        });
        send(
          { kind: 'frame', generation, report, inRange, previews },
          previews.map((p) => p.preview.data.buffer),
        );
        await breathe();
        if (overtaken()) return;
      }
      send({ kind: 'done', generation }, []);
    } catch (error) {
      if (!isRuddleError(error, 'cancelled')) send({ kind: 'failed', generation, error: toErrorData(error) }, []);
    }
  });
}

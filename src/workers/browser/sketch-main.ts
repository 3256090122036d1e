import { isRuddleError, toErrorData } from '#core/errors';
import { makePreview } from '#core/formats';
import { channelsOf, solveTogether } from '#core/gas';
import { type AnyGeometry, formsOf, picturesOf } from '#core/mesh';
import { geometryOf, optionsOf } from '#core/shot';
import { type HelperStart, type Team, createTeam, resume } from '#kernels';
import type { ChannelPreview, SketchMessage, SketchRequest, SketchSetUp, SketchStart } from '#protocol';
import { warmUp } from '#workers/common';
import { createGeometryCache } from './geometry-cache';

type Send = (message: SketchMessage, transfer: ArrayBuffer[]) => void;

/** Lets waiting messages in: a task of its own, without the four milliseconds that a timer takes. */
const breathe = (): Promise<void> =>
  new Promise((resolve) => {
    const { port1, port2 } = new MessageChannel();
    port1.onmessage = () => {
      port1.close();
      resolve();
    };
    port2.postMessage(null);
  });

/** The body of a sketch worker: one run at a time, the latest that was asked for. */
export function sketchMain(
  send: Send,
  startHelper: (start: HelperStart) => void,
  load: (hash: string) => Promise<AnyGeometry>,
): (request: SketchRequest) => void {
  let setUp: SketchSetUp | null = null;
  let team: Team | null = null;
  let wanted: SketchStart | null = null;
  let running = false;
  const known = createGeometryCache(load);

  const run = async (start: SketchStart, control: SharedArrayBuffer): Promise<void> => {
    const { generation, plan } = start;
    const overtaken = (): boolean => wanted !== start;
    try {
      if (!team) {
        team = createTeam({ threads: setUp?.threads ?? 1, control, startHelper });
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
  };

  const pump = async (): Promise<void> => {
    if (running || !setUp) return;
    running = true;
    let last: SketchStart | null = null;
    // `wanted` changes while a run breathes.
    while (wanted !== null && wanted !== last) {
      last = wanted;
      await run(last, setUp.control);
    }
    running = false;
  };

  return (request) => {
    switch (request.kind) {
      case 'setup':
        setUp = request;
        return;
      case 'start':
        wanted = request;
        void pump();
        return;
      case 'stop':
        wanted = null;
        return;
    }
  };
}

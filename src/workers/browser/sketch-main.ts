import { isRuddleError, toErrorData } from '#core/errors';
import { makePreview, readPointsPreview } from '#core/formats';
import { channelsOf, solveTogether } from '#core/gas';
import { type LiquidEnvironment, solveLiquid } from '#core/liquid';
import { type AnyGeometry, formsOf, picturesOf } from '#core/mesh';
import { type GasPlan, type LiquidPlan, geometryOf, isLiquidPlan, optionsOf } from '#core/shot';
import { type HelperStart, type Team, createTeam, resume } from '#kernels';
import type { ChannelPreview, SketchMessage, SketchRequest, SketchStart } from '#protocol';
import { liquidPreview, warmUp } from '#workers/common';
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
        warmUp(isLiquidPlan(plan) ? 'liquid' : 'gas');
      }
      const geometries = await known.all(geometryOf(plan));
      if (overtaken()) return;
      resume(control);
      team.reset();
      const solving = team;
      const given = { team: solving, clock: () => performance.now() / 1000, cancelled: () => solving.cancelled() };
      const frames = isLiquidPlan(plan) ? liquidFrames(plan, geometries, given) : gasFrames(plan, geometries, given);
      for (const frame of frames) {
        send({ kind: 'frame', generation, ...frame }, [
          ...frame.previews.map((p) => p.preview.data.buffer),
          ...(frame.points ? [frame.points.places.buffer, frame.points.speeds.buffer, frame.points.ages.buffer] : []),
        ] as ArrayBuffer[]);
        await breathe();
        if (overtaken()) return;
      }
      send({ kind: 'done', generation }, []);
    } catch (error) {
      if (!isRuddleError(error, 'cancelled')) send({ kind: 'failed', generation, error: toErrorData(error) }, []);
    }
  });
}

type Frame = Omit<Extract<SketchMessage, { kind: 'frame' }>, 'kind' | 'generation'>;
type Geometries = Parameters<typeof formsOf>[0];
type Given = Pick<LiquidEnvironment, 'team' | 'clock' | 'cancelled'>;

function* gasFrames(plan: GasPlan, geometries: Geometries, given: Given): Generator<Frame> {
  const frames = solveTogether(optionsOf(plan), {
    ...given,
    forms: formsOf(geometries),
    pictures: picturesOf(geometries),
    channels: { names: channelsOf(plan.options).filter((c) => c !== 'fuel') },
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
    yield { report, inRange, previews, points: null };
  }
}

function* liquidFrames(plan: LiquidPlan, geometries: Geometries, given: Given): Generator<Frame> {
  for (const { report, inRange, cloud } of solveLiquid(plan.options, { ...given, forms: formsOf(geometries) }))
    yield { report, inRange, previews: [], points: readPointsPreview(liquidPreview(cloud())) };
}

import { RuddleError, isRuddleError, toErrorData } from '#core/errors';
import { readFrameFile, readPly } from '#core/formats';
import { type AnyGeometry, formsOf, picturesOf } from '#core/mesh';
import { listFrames } from '#core/pass';
import { opsOf } from '#core/passes';
import { type HelperStart, type Team, createTeam, resume } from '#kernels';
import type { PassSketchMessage, PassSketchRequest, PassSketchStart, SketchInput } from '#protocol';
import { type PassReader, passWorkerOf } from '#workers/passes';
import { createGeometryCache } from './geometry-cache';
import { breathe, sketching } from './sketching';

type Send = (message: PassSketchMessage, transfer: ArrayBuffer[]) => void;
/** The file of one part of a run's frame, at once. Throws when it is not there. */
export type ReadFile = (run: string, frame: number, part: number) => Uint8Array<ArrayBuffer>;

const readerOf = ({ run, gives }: SketchInput, file: ReadFile): PassReader => ({
  read: (frame, wanted) =>
    Array.from({ length: Math.max(1, gives.voxelSizes.length) }, (_v, part) => {
      const { voxelSize, grids } = readFrameFile(file(run, frame, part), gives.file, `frame ${String(frame)}`, wanted);
      return { voxelSize: voxelSize > 0 ? voxelSize : (gives.voxelSizes[part] ?? 1), grids };
    }),
  points: (frame, more) => readPly(file(run, frame, 0), gives.file, `frame ${String(frame)}`, more),
});

/** The body of the worker that sketches passes: one at a time, the latest that was asked for, as a run of it is computed, with its files left out. */
export function passSketchMain(
  send: Send,
  startHelper: (start: HelperStart) => void,
  load: (hash: string) => Promise<AnyGeometry>,
  file: ReadFile,
): (request: PassSketchRequest) => void {
  let team: Team | null = null;
  const known = createGeometryCache(load);

  return sketching(async ({ generation, plan, shown, inputs }: PassSketchStart, { threads, control }, overtaken) => {
    const reader = (role: keyof typeof inputs): PassReader => {
      const input = inputs[role];
      if (!input) throw new RuddleError('internal', 'A Sketch was started without what it reads.', { where: role });
      return readerOf(input, file);
    };
    try {
      team ??= createTeam({ threads, control, startHelper });
      const geometries = await known.all([...opsOf(plan).geometry(plan)]);
      if (overtaken()) return;
      resume(control);
      team.reset();
      const solving = team;
      const runner = passWorkerOf(plan.pass)({
        plan,
        ...reader('cache'),
        beside: reader,
        forms: formsOf(geometries),
        pictures: picturesOf(geometries),
        team: () => solving,
        clock: () => performance.now() / 1000,
        alive: () => undefined,
        keep: () => undefined,
        png: () => Promise.reject(new RuddleError('internal', 'A Sketch makes no pictures.', { where: plan.pass })),
        uuid: () => '00000000-0000-0000-0000-000000000000',
        from: null,
      });
      for (const frame of listFrames(plan.frames)) {
        const { report, parts } = await runner.frame(frame, frame >= shown);
        const previews = parts.flatMap((p, part) => p.previews.map(({ channel, bytes }) => ({ part, channel, bytes })));
        const whole = previews.map((p) => p.bytes).filter((b) => b.byteLength === b.buffer.byteLength);
        send(
          { kind: 'frame', generation, report: report as never, shown: frame >= shown, previews },
          whole.map((b) => b.buffer),
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

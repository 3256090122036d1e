import { createHash } from 'node:crypto';
import { join } from 'node:path';
import { deflateSync } from 'node:zlib';
import sharp from 'sharp';
import { RuddleError, toErrorData } from '#core/errors';
import { type FrameGrids, type ParticleColumns, readFrameFile, readPly } from '#core/formats';
import { formsOf, picturesOf } from '#core/mesh';
import type { FollowerReport } from '#core/passes';
import type { InputRole } from '#core/shot';
import { type Team, createTeam } from '#kernels';
import type { InputFile, PassAnswer, PassAside, PassAsk, PassFileBytes, PassInputFiles, PassStart } from '#protocol';
import { type PassReader, passWorkerOf } from '#workers/passes';
import { frameFileId } from './file-id';
import { readGeometries } from './geometries';
import { startHelperThread } from './helpers';
import { NotReadable, readRegular } from './regular-file';
import { living, pulse } from './living';
import { StatePace } from './state-pace';
import { waitedSince } from './waiting';

/** The bytes of a file of a folder from outside. Throws `NotReadable`. */
export type FetchFile = (path: string, bytes: number) => Buffer;

/** A file as it was written; throws `file-invalid` when it is not that any more. */
function readWhole(folder: string, { file, bytes, checksum }: InputFile, fetch: FetchFile): Buffer {
  const refuse = (reason: string, cause?: unknown): never => {
    const text = `What this pass reads is damaged: ${file} ${reason}. Repair that run first.`;
    throw new RuddleError('file-invalid', text, { file, reason }, cause);
  };
  let found: Buffer;
  try {
    found = checksum === null ? fetch(join(folder, file), bytes) : readRegular(join(folder, file), { exactly: bytes });
  } catch (cause) {
    return refuse(cause instanceof NotReadable ? cause.message : 'cannot be read', cause);
  }
  if (checksum !== null && createHash('sha256').update(found).digest('hex') !== checksum) refuse('is not what was written');
  return found;
}

/** Reads frames of a cache, each file held against its checksum. */
const filesOf = ({ frames }: PassInputFiles, frame: number): readonly InputFile[] => {
  const files = frames[frame];
  if (files) return files;
  const text = `What this pass reads has no frame ${String(frame)} on disk. Compute it first.`;
  throw new RuddleError('refused', text, { reason: 'input missing' });
};

const pointsOf =
  (input: PassInputFiles, fetch: FetchFile) =>
  (frame: number, more?: readonly string[]): ParticleColumns => {
    const [file] = filesOf(input, frame);
    if (!file) throw new RuddleError('refused', `Frame ${String(frame)} of what this pass reads has no file.`, { reason: 'input missing' });
    return readPly(readWhole(input.folder, file, fetch), input.gives.file, file.file, more);
  };

const gridsOf =
  (input: PassInputFiles, fetch: FetchFile) =>
  (frame: number, wanted?: (channel: string) => boolean): FrameGrids[] => {
    const { folder, gives } = input;
    return filesOf(input, frame).map((file, part): FrameGrids => {
      const { voxelSize, grids } = readFrameFile(readWhole(folder, file, fetch), gives.file, file.file, wanted);
      // A file without voxels says nothing of their size.
      return { voxelSize: voxelSize > 0 ? voxelSize : (gives.voxelSizes[part] ?? 1), grids };
    });
  };

const readerOf = (input: PassInputFiles, fetch: FetchFile): PassReader => ({ read: gridsOf(input, fetch), points: pointsOf(input, fetch) });

function inputOf({ inputs }: PassStart, role: InputRole): PassInputFiles {
  const input = inputs[role];
  if (!input) throw new RuddleError('internal', 'A pass was started without what it reads.', { where: role });
  return input;
}

/** The body of a pass worker: answers each frame that it is asked for, one after the other. */
export function passMain(
  start: PassStart,
  send: (answer: PassAnswer | PassAside, transfer: ArrayBuffer[]) => void,
  fetch: FetchFile,
): (ask: PassAsk) => Promise<void> {
  const { plan, key } = start;
  const clock = (): number => performance.now() / 1000;
  const pace = new StatePace(clock(), start.statesEvery);
  const geometries = readGeometries(start.geometry);
  let team: Team | null = null;
  const alive = pulse(clock, () => {
    send({ kind: 'alive' }, []);
  });
  const keep = (frame: number, state: () => Uint8Array<ArrayBuffer>, memoryBytes: number): void => {
    alive();
    const began = clock();
    if (!start.states || !pace.due(began, memoryBytes)) return;
    const bytes = state();
    pace.took(clock() - began, bytes.length, clock());
    send({ kind: 'state', frame, bytes }, []);
  };
  const begin = (): ReturnType<ReturnType<typeof passWorkerOf>> =>
    passWorkerOf(plan.pass)({
      plan,
      ...readerOf(start.inputs.cache, fetch),
      beside: (role) => readerOf(inputOf(start, role), fetch),
      forms: formsOf(geometries),
      pictures: picturesOf(geometries),
      team: () => (team = living(createTeam({ threads: start.threads, control: start.control, startHelper: startHelperThread }), alive)),
      clock,
      alive,
      keep,
      png: async (rgb, width, height) =>
        new Uint8Array(
          await sharp(rgb, { raw: { width, height, channels: 3 } })
            .png({ compressionLevel: 6 })
            .toBuffer(),
        ),
      uuid: (part, frame) => frameFileId(key, part, frame),
      from: start.from,
    });
  let runner: ReturnType<typeof begin> | null = null;
  const waited = waitedSince();
  return async ({ frame, wanted, last }) => {
    try {
      runner ??= begin();
      const { report, parts, state } = await runner.frame(frame, wanted);
      const packed = wanted ? parts.map(pack) : [];
      const began = clock();
      const due = start.states && state !== null && (last || pace.due(began, report.memoryBytes));
      const bytes = due ? state() : null;
      if (bytes) pace.took(clock() - began, bytes.length, clock());
      const views = [...packed.flatMap((p) => [p.bytes, ...p.previews.map((v) => v.bytes)]), ...(bytes ? [bytes] : [])];
      const whole = views.filter((v) => v.byteLength === v.buffer.byteLength).map((v) => v.buffer);
      send(
        { kind: 'frame', report: { ...(report as FollowerReport), waitedSeconds: waited() }, wanted, parts: packed, state: bytes },
        whole,
      );
      if (last) team?.stop();
    } catch (error) {
      team?.stop();
      send({ kind: 'failed', error: toErrorData(error) }, []);
    }
  };
}

const pack = ({ extension, bytes, previews }: PassFileBytes): PassFileBytes => ({
  extension,
  bytes,
  previews: previews.map((p) => ({ channel: p.channel, bytes: new Uint8Array(deflateSync(p.bytes, { level: 1 })) })),
});

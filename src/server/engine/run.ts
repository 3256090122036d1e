import { createHash } from 'node:crypto';
import { join } from 'node:path';
import { type ErrorData, RuddleError, isRuddleError, toErrorData } from '#core/errors';
import { type FrameReport, reportOfAll } from '#core/gas';
import { type Plan, type Settings, geometryOf, passOf, runKey } from '#core/shot';
import { kernelsVersion } from '#kernels';
import {
  type DiskGuard,
  type RunFrameRecord,
  type RunRecord,
  frameFileName,
  geometryPath,
  isDiskFull,
  makeFolder,
  type WrittenFile,
  previewFileName,
  sweepRun,
  writeRunRecord,
  writeWhole,
} from '#server/cache';
import { type FrameMessage, startBounds } from '#workers/node';
import { codeVersion, machine } from './provenance';

export interface RunInput {
  readonly shot: string;
  readonly variant: string;
  readonly settings: Settings;
  readonly plan: Plan;
  readonly folder: string;
  /** Where imported geometry lies. */
  readonly geometryFolder: string;
  readonly threads: number;
  readonly arenaBytes?: number;
  /** First frame whose file is wanted. */
  readonly writeFrom?: number;
  readonly disk: DiskGuard;
  readonly onFrame?: (frame: StoredFrame) => Promise<void> | void;
  readonly onProgress?: (frame: number, part: number) => void;
}

export interface StoredFrame {
  readonly frame: number;
  readonly inRange: boolean;
  readonly stored: boolean;
  /** Bytes on disk, previews included. */
  readonly bytes: number;
  readonly files: readonly WrittenFile[];
  readonly report: FrameReport;
}

export interface RunOutcome {
  readonly state: 'done' | 'cancelled' | 'failed';
  readonly error: ErrorData | null;
  readonly frames: number;
}

export interface RunningRun {
  readonly outcome: Promise<RunOutcome>;
  cancel(): void;
  allow(threads: number): void;
}

/** run.json is written anew at most this often while a run goes on, milliseconds. */
const RECORD_EVERY = 5000;

/**
 * Computes a plan into a folder: frames, previews, run.json. The server and the command line both run exactly this. Never rejects: what went
 * wrong is in the outcome, and frames that are in the folder are whole.
 */
export function startRun(input: RunInput): RunningRun {
  const key = runKey(input.plan, kernelsVersion);
  const frames: RunFrameRecord[] = [];
  const startedAt = new Date().toISOString();
  let recorded = 0;
  const record = (state: RunRecord['state'], error: ErrorData | null): Promise<void> => {
    recorded = Date.now();
    return writeRunRecord(input.folder, {
      ruddle: 2,
      shot: input.shot,
      variant: input.variant,
      key,
      state,
      error,
      codeVersion,
      machine: machine(),
      threads: input.threads,
      startedAt,
      endedAt: state === 'running' ? null : new Date().toISOString(),
      settings: input.settings,
      plan: input.plan,
      frames,
    });
  };

  const write = async (file: string, bytes: Uint8Array): Promise<WrittenFile> => {
    await writeWhole(join(input.folder, file), bytes);
    return { file, bytes: bytes.length, checksum: createHash('sha256').update(bytes).digest('hex') };
  };

  /** A frame of one bounds: its volume, then its previews, as they are listed; none when it is not kept. */
  const storeBounds = async (message: FrameMessage, pass: string): Promise<WrittenFile[]> => {
    if (!message.file) return [];
    const { frame } = message.report;
    try {
      await input.disk.check(message.file.length + message.previews.reduce((n, p) => n + p.bytes.length, 0));
      // The frame's own file last: where it is, its previews are too.
      const previews: WrittenFile[] = [];
      for (const p of message.previews) previews.push(await write(previewFileName(pass, frame, p.channel), p.bytes));
      return [await write(frameFileName(pass, frame), message.file), ...previews];
    } catch (error) {
      if (!isDiskFull(error)) throw error;
      throw new RuddleError('disk-full', 'The disk is full. Frames before this one are whole.', { freeBytes: 0, keepBytes: 0 }, error);
    }
  };

  const store = async (messages: readonly FrameMessage[]): Promise<void> => {
    const report = reportOfAll(messages.map((m) => m.report));
    const inRange = messages[0]?.inRange ?? false;
    // The first bounds last: where its file is, the others' are too.
    const parts: WrittenFile[][] = [];
    for (let n = messages.length - 1; n >= 0; n--) {
      const message = messages[n];
      if (message) parts.unshift(await storeBounds(message, passOf(input.plan, n)));
    }
    const files = [...parts.flatMap((p) => p.slice(0, 1)), ...parts.flatMap((p) => p.slice(1))];
    const bytes = files.reduce((n, f) => n + f.bytes, 0);
    frames.push({ frame: report.frame, bytes, files, report });
    await input.onFrame?.({ frame: report.frame, inRange, stored: files.length > 0, bytes, files, report });
    if (Date.now() - recorded > RECORD_EVERY) await record('running', null);
  };

  let cancelled = false;
  let compute: ReturnType<typeof startBounds> | null = null;
  let allowed = input.threads;

  const body = async (): Promise<RunOutcome> => {
    try {
      await makeFolder(input.folder);
      await input.disk.check(0);
      // What an earlier run into the same folder left would look like frames of this one.
      await sweepRun(input.folder, new Set());
      await record('running', null);
      if (cancelled) throw new RuddleError('cancelled', 'The run was cancelled.', {});
      compute = startBounds({
        plan: input.plan,
        key,
        geometry: Object.fromEntries(geometryOf(input.plan).map((hash) => [hash, geometryPath(input.geometryFolder, hash)])),
        threads: input.threads,
        ...(input.arenaBytes === undefined ? {} : { arenaBytes: input.arenaBytes }),
        ...(input.writeFrom === undefined ? {} : { writeFrom: input.writeFrom }),
        onFrame: store,
        ...(input.onProgress ? { onProgress: input.onProgress } : {}),
      });
      compute.allow(allowed);
      await compute.finished;
      await record('done', null);
      return { state: 'done', error: null, frames: frames.length };
    } catch (error) {
      const stopped = isRuddleError(error, 'cancelled');
      const state = stopped ? 'cancelled' : 'failed';
      const data = stopped ? null : toErrorData(error);
      // A full disk must not hide the reason: the record is then as old as its last writing.
      await record(state, data).catch(() => undefined);
      return { state, error: data, frames: frames.length };
    }
  };

  return {
    outcome: body(),
    cancel: () => {
      cancelled = true;
      compute?.cancel();
    },
    allow: (threads) => {
      allowed = threads;
      compute?.allow(threads);
    },
  };
}

import { createHash } from 'node:crypto';
import { rm, rmdir } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { type ErrorData, RuddleError } from '#core/errors';
import { type FrameReport, reportOfAll } from '#core/gas';
import { type Plan, passOf } from '#core/shot';
import {
  type DiskGuard,
  type RunFrameRecord,
  type RunRecord,
  type WrittenFile,
  frameFileName,
  isDiskFull,
  makeFolder,
  previewFileName,
  stateFileName,
  sweepRun,
  writeRunRecord,
  writeWhole,
} from '#server/cache';
import type { FrameMessage } from '#workers/node';

export interface StoredFrame {
  readonly frame: number;
  readonly inRange: boolean;
  readonly stored: boolean;
  /** Bytes on disk, previews included. */
  readonly bytes: number;
  readonly files: readonly WrittenFile[];
  /** States after it, of those bounds whose was due. */
  readonly states: readonly StoredState[];
  readonly report: FrameReport;
}

export interface StoredState extends WrittenFile {
  readonly bounds: number;
  readonly frame: number;
}

/** What run.json says beside state and frames: the same from the first to the last writing. */
export type RunHead = Omit<RunRecord, 'ruddle' | 'state' | 'error' | 'endedAt' | 'frames'>;

/** Frames and states of an interrupted run that it goes on from. */
export interface Kept {
  readonly frames: readonly RunFrameRecord[];
  readonly states: readonly StoredState[];
}

/** States kept of each bounds: of two, one is whole whatever happens while the other is written. */
const STATES_KEPT = 2;

/** What the last state of a run that is done may take, of what its frames take. */
const STATE_SHARE = 0.1;

/** run.json is written anew at most this often while a run goes on, milliseconds. */
const RECORD_EVERY = 5000;

export const diskFull = (cause: unknown): RuddleError<'disk-full'> =>
  new RuddleError('disk-full', 'The disk is full. Frames before this one are whole.', { freeBytes: 0, keepBytes: 0 }, cause);

/** The folder of a run while it is computed: frames, previews and run.json, each written whole. */
export class RunFolder {
  readonly #frames: RunFrameRecord[];
  #states: StoredState[];
  #recorded = 0;

  constructor(
    private readonly folder: string,
    private readonly plan: Plan,
    private readonly head: RunHead,
    private readonly disk: DiskGuard,
    /** What an interrupted run left, and is there. */
    kept: Kept = { frames: [], states: [] },
  ) {
    this.#frames = [...kept.frames];
    this.#states = [...kept.states];
  }

  get frames(): number {
    return this.#frames.length;
  }

  async begin(): Promise<void> {
    await makeFolder(this.folder);
    await this.disk.check(0);
    // What an earlier run into the same folder left would look like frames of this one.
    await sweepRun(this.folder, new Set([...this.#frames.flatMap((f) => f.files), ...this.#states].map((f) => f.file)));
    await this.record('running', null);
  }

  async record(state: RunRecord['state'], error: ErrorData | null): Promise<void> {
    this.#recorded = Date.now();
    const endedAt = state === 'running' ? null : new Date().toISOString();
    await writeRunRecord(this.folder, { ruddle: 2, ...this.head, state, error, endedAt, frames: this.#frames });
  }

  /** A frame of all its bounds. */
  async store(messages: readonly FrameMessage[]): Promise<StoredFrame> {
    const report = reportOfAll(messages.map((m) => m.report));
    // The first bounds last: where its file is, the others' are too.
    const parts: WrittenFile[][] = [];
    for (let n = messages.length - 1; n >= 0; n--) {
      const message = messages[n];
      if (message) parts.unshift(await this.#storeBounds(message, passOf(this.plan, n)));
    }
    const files = [...parts.flatMap((p) => p.slice(0, 1)), ...parts.flatMap((p) => p.slice(1))];
    const bytes = files.reduce((n, f) => n + f.bytes, 0);
    const { frame } = report;
    this.#frames.push({ frame, bytes, files, report });
    this.#frames.sort((a, b) => a.frame - b.frame);
    const states: StoredState[] = [];
    for (const [bounds, { state }] of messages.entries()) {
      const written = state && (await this.#writeState(stateFileName(passOf(this.plan, bounds), frame), state));
      if (written) states.push({ bounds, frame, ...written });
    }
    this.#states.push(...states);
    return { frame, inRange: messages[0]?.inRange ?? false, stored: files.length > 0, bytes, files, states, report };
  }

  /** Of a run that is done: its last state stays when it is small beside the frames. Returns what stays. */
  async settleStates(): Promise<readonly StoredState[]> {
    const last = this.#frames[this.#frames.length - 1]?.frame;
    const frames = this.#frames.reduce((n, f) => n + f.bytes, 0);
    const bytes = this.#states.reduce((n, s) => n + (s.frame === last ? s.bytes : 0), 0);
    await this.dropOldStates(bytes > 0 && bytes <= frames * STATE_SHARE ? 1 : 0);
    return this.#states;
  }

  /** Removes states that newer ones have replaced; to be called when the newer ones are known to be there. */
  async dropOldStates(most = STATES_KEPT): Promise<void> {
    const newest = this.#states.filter((s) => this.#states.filter((o) => o.bounds === s.bounds && o.frame > s.frame).length < most);
    if (newest.length === this.#states.length) return;
    for (const s of this.#states) if (!newest.includes(s)) await rm(join(this.folder, s.file), { force: true });
    this.#states = newest;
    if (newest.length === 0) await rmdir(join(this.folder, dirname(stateFileName('', 0)))).catch(() => undefined);
  }

  /** Writes run.json anew when it was not for some time. */
  async recordNowAndThen(): Promise<void> {
    if (Date.now() - this.#recorded > RECORD_EVERY) await this.record('running', null);
  }

  /** A frame of one bounds: its volume, then its previews, as they are listed; none when it is not kept. */
  async #storeBounds(message: FrameMessage, pass: string): Promise<WrittenFile[]> {
    if (!message.file) return [];
    const { frame } = message.report;
    try {
      await this.disk.check(message.file.length + message.previews.reduce((n, p) => n + p.bytes.length, 0));
      // The frame's own file last: where it is, its previews are too.
      const previews: WrittenFile[] = [];
      for (const p of message.previews) previews.push(await this.#write(previewFileName(pass, frame, p.channel), p.bytes));
      return [await this.#write(frameFileName(pass, frame), message.file), ...previews];
    } catch (error) {
      throw isDiskFull(error) ? diskFull(error) : error;
    }
  }

  /** null: there is no room for it. A run can do without: it goes on from further back then. */
  async #writeState(file: string, bytes: Uint8Array): Promise<WrittenFile | null> {
    if (!(await this.disk.hasRoom(bytes.length))) return null;
    try {
      return await this.#write(file, bytes);
    } catch (error) {
      if (isDiskFull(error)) return null;
      throw error;
    }
  }

  async #write(file: string, bytes: Uint8Array): Promise<WrittenFile> {
    await writeWhole(join(this.folder, file), bytes);
    return { file, bytes: bytes.length, checksum: createHash('sha256').update(bytes).digest('hex') };
  }
}

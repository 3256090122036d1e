import { createHash } from 'node:crypto';
import { join } from 'node:path';
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
  readonly report: FrameReport;
}

/** What run.json says beside state and frames: the same from the first to the last writing. */
export type RunHead = Omit<RunRecord, 'ruddle' | 'state' | 'error' | 'endedAt' | 'frames'>;

/** run.json is written anew at most this often while a run goes on, milliseconds. */
const RECORD_EVERY = 5000;

/** The folder of a run while it is computed: frames, previews and run.json, each written whole. */
export class RunFolder {
  readonly #frames: RunFrameRecord[] = [];
  #recorded = 0;

  constructor(
    private readonly folder: string,
    private readonly plan: Plan,
    private readonly head: RunHead,
    private readonly disk: DiskGuard,
  ) {}

  get frames(): number {
    return this.#frames.length;
  }

  async begin(): Promise<void> {
    await makeFolder(this.folder);
    await this.disk.check(0);
    // What an earlier run into the same folder left would look like frames of this one.
    await sweepRun(this.folder, new Set());
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
    this.#frames.push({ frame: report.frame, bytes, files, report });
    return { frame: report.frame, inRange: messages[0]?.inRange ?? false, stored: files.length > 0, bytes, files, report };
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
      if (!isDiskFull(error)) throw error;
      throw new RuddleError('disk-full', 'The disk is full. Frames before this one are whole.', { freeBytes: 0, keepBytes: 0 }, error);
    }
  }

  async #write(file: string, bytes: Uint8Array): Promise<WrittenFile> {
    await writeWhole(join(this.folder, file), bytes);
    return { file, bytes: bytes.length, checksum: createHash('sha256').update(bytes).digest('hex') };
  }
}

import { createHash } from 'node:crypto';
import { rm, rmdir } from 'node:fs/promises';
import { join } from 'node:path';
import { type ErrorData, RuddleError } from '#core/errors';
import {
  type DiskGuard,
  type RunFrameRecord,
  type RunRecord,
  type StateRecord,
  type StoredReport,
  type WrittenFile,
  isDiskFull,
  makeFolder,
  STATES_FOLDER,
  claimOutput,
  sweepRun,
  writeRunRecord,
  writeWhole,
} from '#server/cache';

export interface StoredFrame<R extends StoredReport = StoredReport> {
  readonly frame: number;
  readonly inRange: boolean;
  readonly stored: boolean;
  /** Bytes on disk, previews included. */
  readonly bytes: number;
  readonly files: readonly WrittenFile[];
  /** States after it, of those bounds whose was due. */
  readonly states: readonly StoredState[];
  readonly report: R;
}

/** Bytes under the name that they get in the run's folder. */
export interface NamedBytes {
  readonly file: string;
  readonly bytes: Uint8Array;
}

/** A frame that was computed, whatever kind of pass it is of. */
export interface FrameToStore<R extends StoredReport = StoredReport> {
  readonly frame: number;
  readonly inRange: boolean;
  readonly report: R;
  /** Of each part (the bounds of a solve) its file, volumes beside it and what the page looks at; none of what is not kept. */
  readonly parts: readonly { readonly main: NamedBytes; readonly beside: readonly NamedBytes[] }[];
  /** States after it, of the parts whose was due. */
  readonly states: readonly StateToStore[];
}

export interface StateToStore extends NamedBytes {
  readonly bounds: number;
}

export type StoredState = StateRecord;

/** What run.json says beside state and frames: the same from the first to the last writing. */
export type RunHead = Omit<RunRecord, 'ruddle' | 'state' | 'error' | 'endedAt' | 'frames' | 'states'>;

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

/** Where a run may write. */
export interface Output {
  readonly reads: readonly string[];
  readonly range: readonly [number, number];
  readonly overwrite: readonly string[];
}

export const diskFull = (cause: unknown): RuddleError<'disk-full'> =>
  new RuddleError('disk-full', 'The disk is full. Frames before this one are whole.', { freeBytes: 0, keepBytes: 0 }, cause);

/** The folder of a run while it is computed: frames, previews and run.json, each written whole. */
export class RunFolder {
  readonly #frames: RunFrameRecord[];
  #states: StoredState[];
  #recorded = 0;
  #claimed = false;

  constructor(
    private readonly folder: string,
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

  /** Makes the folder its own. Throws `refused` where it is somebody else's, and nothing in it was touched then. */
  async begin(output: Output): Promise<void> {
    const kept = new Set([...this.#frames.flatMap((f) => f.files), ...this.#states].map((f) => f.file));
    const before = await claimOutput(this.folder, { ...output, key: this.head.key, kept });
    await makeFolder(this.folder);
    await this.disk.check(0);
    this.#claimed = true;
    // Files of an earlier run in the same folder would look like frames of this one.
    if (before) await sweepRun(this.folder, kept, before);
    await this.record('running', null);
  }

  async record(state: RunRecord['state'], error: ErrorData | null): Promise<void> {
    // A folder that was refused has nothing of this run, and its record neither.
    if (!this.#claimed) return;
    this.#recorded = Date.now();
    const endedAt = state === 'running' ? null : new Date().toISOString();
    await writeRunRecord(this.folder, { ruddle: 2, ...this.head, state, error, endedAt, frames: this.#frames, states: this.#states });
  }

  async store<R extends StoredReport>({ frame, inRange, report, parts, states: due }: FrameToStore<R>): Promise<StoredFrame<R>> {
    // The first part last: where its file is, the others' are too.
    const written: WrittenFile[][] = [];
    for (const part of [...parts].reverse()) written.unshift(await this.#storePart(part));
    const files = [...written.flatMap((p) => p.slice(0, 1)), ...written.flatMap((p) => p.slice(1))];
    const bytes = files.reduce((n, f) => n + f.bytes, 0);
    this.#frames.push({ frame, bytes, files, report });
    this.#frames.sort((a, b) => a.frame - b.frame);
    const states: StoredState[] = [];
    for (const state of due) {
      const kept = await this.storeState(state, frame);
      if (kept) states.push(kept);
    }
    return { frame, inRange, stored: files.length > 0, bytes, files, states, report };
  }

  /** A state after a frame; null: there was no room for it. */
  async storeState({ bounds, file, bytes }: StateToStore, frame: number): Promise<StoredState | null> {
    const kept = await this.#writeState(file, bytes);
    if (!kept) return null;
    const state = { bounds, frame, ...kept };
    this.#states.push(state);
    return state;
  }

  /** Of a run that is done: its last state stays when that is wanted and it is small beside the frames. Returns what stays. */
  async settleStates(keep: boolean): Promise<readonly StoredState[]> {
    const last = this.#frames[this.#frames.length - 1]?.frame;
    const frames = this.#frames.reduce((n, f) => n + f.bytes, 0);
    const bytes = this.#states.reduce((n, s) => n + (s.frame === last ? s.bytes : 0), 0);
    await this.dropOldStates(keep && bytes > 0 && bytes <= frames * STATE_SHARE ? 1 : 0);
    return this.#states;
  }

  /** Removes states that newer ones have replaced; to be called when the newer ones are known to be there. */
  async dropOldStates(most = STATES_KEPT): Promise<void> {
    const newest = this.#states.filter((s) => this.#states.filter((o) => o.bounds === s.bounds && o.frame > s.frame).length < most);
    if (newest.length === this.#states.length) return;
    for (const s of this.#states) if (!newest.includes(s)) await rm(join(this.folder, s.file), { force: true });
    this.#states = newest;
    if (newest.length === 0) await rmdir(join(this.folder, STATES_FOLDER)).catch(() => undefined);
  }

  /** Writes run.json anew when it was not for some time, or `now`. */
  async recordNowAndThen(now: boolean): Promise<void> {
    if (now || Date.now() - this.#recorded > RECORD_EVERY) await this.record('running', null);
  }

  /** A part's file, then what lies beside it, as they are listed. */
  async #storePart({ main, beside }: FrameToStore['parts'][number]): Promise<WrittenFile[]> {
    try {
      await this.disk.check(main.bytes.length + beside.reduce((n, p) => n + p.bytes.length, 0));
      // The part's own file last: where it is, the rest is too.
      const written: WrittenFile[] = [];
      for (const p of beside) written.push(await this.#write(p.file, p.bytes));
      return [await this.#write(main.file, main.bytes), ...written];
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

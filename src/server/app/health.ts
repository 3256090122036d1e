import { join } from 'node:path';
import { and, eq, inArray } from 'drizzle-orm';
import { foreignIn, frameFileName, lookAtFile, lookAtSize, type Damage, type Look, exists, type WrittenFile } from '#server/cache';
import { type Database, tables } from '#server/db';

type RunRow = typeof tables.runs.$inferSelect;

/** How often the sizes of a run's files are looked at, milliseconds. */
const EVERY = 4000;
/** Files that are looked at at once. */
const AT_ONCE = 16;

/** What a look at a run's files came to. */
export interface Examined {
  readonly files: number;
  readonly damaged: readonly number[];
  readonly missing: readonly number[];
  /** Frames whose files the system refuses to read now: their state is not known. */
  readonly unreadable: readonly number[];
  /** Files in its folder that are none of its own; nothing is done about them. */
  readonly foreign: readonly string[];
}

/**
 * Holds what is on the disk against what was written: sizes whenever a run is looked at, checksums when a file is read or when it is asked for. What was
 * found is kept with the frame, so that lists say it too.
 */
export class CacheHealth {
  readonly #looked = new Map<string, number>();

  constructor(
    private readonly db: Database,
    private readonly changed: (runId: string) => Promise<void>,
  ) {}

  /** Sizes only, and not more often than every few seconds. */
  async glance(run: RunRow): Promise<void> {
    if (run.freedAt !== null || Date.now() - (this.#looked.get(run.id) ?? 0) < EVERY) return;
    this.#looked.set(run.id, Date.now());
    await this.#examine(run, false);
  }

  /** Only whether the folder is there. */
  async folderOf(run: RunRow, framesDone: number, missing: number): Promise<void> {
    if (run.freedAt !== null || framesDone === 0 || missing === framesDone || run.state === 'running') return;
    if (!(await exists(run.folder))) await this.#examine(run, false);
  }

  /** Reads every file. */
  async verify(run: RunRow): Promise<Examined> {
    return await this.#examine(run, true);
  }

  /** A frame's file was read and is not what was written. */
  async found(runId: string, frame: number, damage: Damage): Promise<void> {
    await this.#mark(runId, [frame], damage);
    await this.changed(runId);
  }

  async #examine(run: RunRow, whole: boolean): Promise<Examined> {
    const { frames, files } = tables;
    const rows = await this.db
      .select({ frame: frames.frame, damage: frames.damage })
      .from(frames)
      .where(and(eq(frames.runId, run.id), eq(frames.stored, true)));
    const written = new Map<number, WrittenFile[]>();
    const of = await this.db.select().from(files).where(eq(files.runId, run.id));
    for (const f of of) written.set(f.frame, [...(written.get(f.frame) ?? []), { file: f.path, bytes: f.bytes, checksum: f.checksum }]);
    const now = new Map<number, Look>();
    const queue = rows.map((r) => r.frame);
    const worker = async (): Promise<void> => {
      for (let frame = queue.pop(); frame !== undefined; frame = queue.pop()) {
        now.set(frame, await damageOf(run.folder, frame, written.get(frame) ?? [], whole));
      }
    };
    await Promise.all(Array.from({ length: AT_ONCE }, worker));
    const settled = rows.map(({ frame, damage }) => {
      const found = now.get(frame) ?? null;
      // A checksum's finding stays until a checksum finds otherwise: a size says less. A file that cannot be read now tells nothing new.
      const stays = found === 'unreadable' || (!whole && damage === 'damaged' && found === null);
      return { frame, before: damage, after: stays ? damage : found };
    });
    const differing = settled.filter((s) => s.before !== s.after);
    for (const to of ['damaged', 'missing', null] as const) {
      await this.#mark(
        run.id,
        differing.filter((d) => d.after === to).map((d) => d.frame),
        to,
      );
    }
    if (differing.length > 0) await this.changed(run.id);
    const listed = (kind: Damage): number[] => settled.filter((s) => s.after === kind).map((s) => s.frame);
    const own = new Set(of.map((f) => f.path));
    const states = await this.db.select({ path: tables.states.path }).from(tables.states).where(eq(tables.states.runId, run.id));
    for (const s of states) own.add(s.path);
    return {
      files: of.length,
      damaged: listed('damaged'),
      missing: listed('missing'),
      unreadable: rows.map((r) => r.frame).filter((f) => now.get(f) === 'unreadable'),
      foreign: whole ? await foreignIn(run.folder, own) : [],
    };
  }

  async #mark(runId: string, list: readonly number[], damage: Damage | null): Promise<void> {
    const { frames } = tables;
    for (let n = 0; n < list.length; n += 500) {
      await this.db
        .update(frames)
        .set({ damage })
        .where(and(eq(frames.runId, runId), inArray(frames.frame, list.slice(n, n + 500))));
    }
  }
}

/** A frame is as good as the worst of its files. Of an older version's frame only the volume is known, by its name. */
async function damageOf(folder: string, frame: number, files: readonly WrittenFile[], whole: boolean): Promise<Look> {
  if (files.length === 0) return (await exists(join(folder, frameFileName('solve', frame)))) ? null : 'missing';
  let worst: Look = null;
  for (const file of files) {
    const found = await (whole ? lookAtFile(folder, file) : lookAtSize(folder, file));
    if (found === 'damaged') return found;
    if (found === 'missing' || (found === 'unreadable' && worst === null)) worst = found;
  }
  return worst;
}

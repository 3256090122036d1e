import { RuddleError, toErrorData } from '#core/errors';
import { formatBytes } from '#core/units';
import { type DiskGuard, freeBytes } from '#server/cache';
import type { Config } from '#server/config';
import type { Database } from '#server/db';
import { pause, paused, unpause } from '#server/queue';
import type { RunStore } from './runs';

/** Between two looks whether the disk has room again, milliseconds. */
const LOOK_EVERY = 3000;

/** Runs that wait for room on the disk. */
export class PausedRuns {
  #timer: NodeJS.Timeout | null = null;
  #stopped = false;

  constructor(
    private readonly db: Database,
    private readonly config: Config,
    private readonly runs: RunStore,
    private readonly disk: DiskGuard,
    /** Called when one of them can be computed again. */
    private readonly ready: () => void,
  ) {}

  /** Makes a run wait, and says how much room it needs. */
  async pause(id: string): Promise<void> {
    const needed = await this.#bytesLeft(id);
    const free = await freeBytes(this.config.data);
    const { keepBytes } = this.config;
    const usable = formatBytes(Math.max(0, free - keepBytes));
    const message = `The disk is full: about ${formatBytes(needed)} more are needed, ${usable} can be used. Its frames are whole; it goes on by itself when there is room.`;
    await pause(this.db, id, toErrorData(new RuddleError('disk-full', message, { freeBytes: free, keepBytes })));
    this.look();
  }

  /** Lets a run go on now, whatever room there is. False: it is not paused. */
  async goOn(id: string): Promise<boolean> {
    if (!(await unpause(this.db, id))) return false;
    await this.runs.announce(id);
    this.ready();
    return true;
  }

  /** Looks every few seconds, as long as one is paused, whether what it needs has room by now. */
  look(): void {
    if (this.#timer !== null || this.#stopped) return;
    this.#timer = setTimeout(() => {
      this.#letGo()
        .catch((error: unknown) => {
          console.error('paused runs:', error);
          return true;
        })
        .then((more) => {
          this.#timer = null;
          if (more) this.look();
        })
        .catch(() => undefined);
    }, LOOK_EVERY).unref();
  }

  stop(): void {
    this.#stopped = true;
    if (this.#timer !== null) clearTimeout(this.#timer);
  }

  /** Lets those go on that have room; whether others are left. */
  async #letGo(): Promise<boolean> {
    const waiting = await paused(this.db);
    let left = 0;
    for (const id of waiting) {
      const room = await this.disk.check(await this.#bytesLeft(id)).then(
        () => true,
        () => false,
      );
      if (!room || this.#stopped) left++;
      else await this.goOn(id);
    }
    return left > 0;
  }

  /** What the rest of a run will take, by the frames that it has, or by what was predicted. */
  async #bytesLeft(id: string): Promise<number> {
    const { frameCount, framesDone, bytes, prediction } = await this.runs.get(id);
    const each = framesDone > 0 ? bytes / framesDone : (prediction?.disk.likely ?? 0) / frameCount;
    return each * Math.max(1, frameCount - framesDone);
  }
}

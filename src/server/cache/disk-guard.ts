import { RuddleError } from '#core/errors';
import { formatBytes } from '#core/units';
import { freeBytes } from './files';

/** A run must leave this much of the disk to others. */
export const KEEP_BYTES = 2e9;

/** Space that can be had back: freed caches. */
export interface Reclaimable {
  /** Bytes of all of it. */
  bytes(): Promise<number>;
  /** Gives the oldest back, until `enough` says so. */
  giveBack(enough: () => Promise<boolean>): Promise<void>;
}

/** Watches that a run leaves room on the disk; freed caches are given up for it, no more of them than are needed. */
export class DiskGuard {
  constructor(
    private readonly folder: string,
    private readonly keepBytes: number = KEEP_BYTES,
    private readonly freed: Reclaimable | null = null,
  ) {}

  /** Whether `bytes` more leave enough as it is: nothing is deleted for them. */
  async hasRoom(bytes: number): Promise<boolean> {
    return (await freeBytes(this.folder)) - bytes >= this.keepBytes;
  }

  /** Throws `disk-full` when there would be too little room also without the freed caches. Nothing is deleted: what is asked may be refused for another reason. */
  async mayHold(bytes: number): Promise<void> {
    if (await this.hasRoom(bytes - ((await this.freed?.bytes()) ?? 0))) return;
    await this.#refuse();
  }

  /** The same for bytes that are to be written now: freed caches go for them, the oldest first. */
  async check(bytes: number): Promise<void> {
    if (await this.hasRoom(bytes)) return;
    await this.freed?.giveBack(() => this.hasRoom(bytes));
    if (await this.hasRoom(bytes)) return;
    await this.#refuse();
  }

  async #refuse(): Promise<never> {
    const free = await freeBytes(this.folder);
    throw new RuddleError(
      'disk-full',
      `The disk has ${formatBytes(free)} free; a run must leave ${formatBytes(this.keepBytes)}. Free a cache, then start again.`,
      { freeBytes: free, keepBytes: this.keepBytes },
    );
  }
}

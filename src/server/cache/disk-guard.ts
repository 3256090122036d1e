import { RuddleError } from '#core/errors';
import { formatBytes } from '#core/units';
import { freeBytes } from './files';

/** A run must leave this much of the disk to others. */
export const KEEP_BYTES = 2e9;

/** Watches that a run leaves room on the disk. `makeRoom` may give back space (freed caches) before it says no. */
export class DiskGuard {
  constructor(
    private readonly folder: string,
    private readonly keepBytes: number = KEEP_BYTES,
    private readonly makeRoom: () => Promise<void> = () => Promise.resolve(),
  ) {}

  /** Whether `bytes` more leave enough as it is: nothing is deleted for them. */
  async hasRoom(bytes: number): Promise<boolean> {
    return (await freeBytes(this.folder)) - bytes >= this.keepBytes;
  }

  /** Throws `disk-full` when writing `bytes` more would leave too little. */
  async check(bytes: number): Promise<void> {
    if (await this.hasRoom(bytes)) return;
    await this.makeRoom();
    if (await this.hasRoom(bytes)) return;
    const free = await freeBytes(this.folder);
    throw new RuddleError(
      'disk-full',
      `The disk has ${formatBytes(free)} free; a run must leave ${formatBytes(this.keepBytes)}. Free a cache, then start again.`,
      { freeBytes: free, keepBytes: this.keepBytes },
    );
  }
}

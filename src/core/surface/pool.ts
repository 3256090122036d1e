import type { KernelTeam } from '#core/grid';

/** Buffers in a team's memory that are used again: the team itself gives none back. */
export class Pool {
  readonly #free: { readonly pointer: number; readonly bytes: number }[] = [];
  readonly #taken = new Map<number, number>();
  /** Bytes in use now, and the most that there were since `mark`. */
  #now = 0;
  #most = 0;

  constructor(readonly team: KernelTeam) {}

  get most(): number {
    return this.#most;
  }
  mark(): void {
    this.#most = this.#now;
  }

  /** 64-byte aligned, of any content. Throws `arena-too-small`. */
  take(bytes: number): number {
    let best = -1;
    this.#free.forEach((b, n) => {
      if (b.bytes >= bytes && b.bytes <= 4 * bytes + 65536 && (best < 0 || b.bytes < (this.#free[best]?.bytes ?? 0))) best = n;
    });
    const [found] = best < 0 ? [] : this.#free.splice(best, 1);
    // A little more than asked for: the next frame has a few more tiles.
    const size = found?.bytes ?? Math.ceil((1.15 * bytes + 64) / 64) * 64;
    const pointer = found?.pointer ?? this.team.allocate(size);
    this.#taken.set(pointer, size);
    this.#now += size;
    this.#most = Math.max(this.#most, this.#now);
    return pointer;
  }

  give(...pointers: readonly number[]): void {
    for (const pointer of pointers) {
      const bytes = this.#taken.get(pointer);
      if (bytes === undefined) continue;
      this.#taken.delete(pointer);
      this.#now -= bytes;
      this.#free.push({ pointer, bytes });
    }
  }

  /** All that is taken is free again: after an error nobody else gives it back. */
  reset(): void {
    this.give(...this.#taken.keys());
  }
}

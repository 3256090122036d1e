import { RuddleError } from '#core/errors';
import { formatBytes } from '#core/units';

const PAGE = 65536;
export const MAX_BYTES = 4 * 1024 * 1024 * 1024 - PAGE;
/** Below this the kernels' own stack and statics live. */
const BASE = 65536;

/** Bump allocator over one shared memory. Nothing is freed by itself: an arena lives as long as a run, or is emptied whole for the next one. */
export class Arena {
  #top: number;
  constructor(
    readonly memory: WebAssembly.Memory,
    readonly limit: number = MAX_BYTES,
    private readonly start = BASE,
  ) {
    this.#top = start;
  }

  allocate(bytes: number): number {
    const size = Math.ceil(bytes / 64) * 64 + 64;
    if (this.#top + size > this.limit) {
      const needed = this.#top + size;
      const text = `There is not enough memory: ${formatBytes(needed)} are needed, ${formatBytes(this.limit)} are there.`;
      throw new RuddleError('arena-too-small', text, { neededBytes: needed, availableBytes: this.limit, frame: null });
    }
    const pointer = this.#top;
    this.#top += size;
    const missing = this.#top - this.memory.buffer.byteLength;
    if (missing > 0) this.memory.grow(Math.ceil(missing / PAGE));
    return pointer;
  }

  /** Everything is given back, and zero again. Pointers handed out before mean nothing any more. */
  reset(): void {
    new Uint8Array(this.memory.buffer, this.start, this.#top - this.start).fill(0);
    this.#top = this.start;
  }

  available(): number {
    return this.limit - this.#top;
  }

  allocated(): number {
    return this.#top;
  }
}

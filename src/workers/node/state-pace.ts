/** Taking and writing states may take this part of a run's time. */
const SHARE = 0.03;
/** A state is not taken more often than this, seconds. */
const LEAST = 1;
/** Before the first was taken: bytes of the fields that a second copies and sends away. */
const COPIED = 4e8;
/** Bytes that a second writes. */
const WRITTEN = 2e8;

/** Says when a run's state is worth the time that it takes: often enough that little is lost, seldom enough that it is not felt. */
export class StatePace {
  #since: number;
  #cost: number | null = null;

  constructor(
    now: number,
    /** Seconds between two at least. */
    private readonly least = LEAST,
  ) {
    this.#since = now;
  }

  due(now: number, memoryBytes: number): boolean {
    const cost = this.#cost ?? memoryBytes / COPIED;
    return now - this.#since >= Math.max(this.least, cost / SHARE);
  }

  took(seconds: number, bytes: number, now: number): void {
    this.#cost = seconds + bytes / WRITTEN;
    this.#since = now;
  }
}

/**
 * The block that a coordinator and its helper threads share. Words (i32): see the constants. Arguments follow as float64, which holds
 * pointers and floats exactly.
 */
export const GENERATION = 0; // counts launches; helpers wait on it
export const KERNEL = 1; // number of the kernel in the module's list of names
export const COUNT = 2;
export const NEXT = 3; // first item nobody has taken yet
export const CHUNK = 4;
export const GATE = 5; // OPEN while a launch may be joined, plus the number of helpers inside
export const ARGUMENTS = 6; // how many
export const STOP = 7;
export const FAILED = 8;
/** Threads that may work on a launch, coordinator included; may be lowered and raised from outside while a run goes on. */
export const ALLOWED = 9;
/** Not 0: the run is to end; polled by the solver, set from outside. */
export const CANCEL = 10;
/** Bytes of the words that say what failed in a helper. */
export const CAUSE = 11;
/** Bit of GATE. The bits below it count helpers. */
export const OPEN = 0x100;
const WORDS = 16;
const MAX_ARGUMENTS = 32;
const CAUSE_BYTES = 512;

export interface Control {
  readonly words: Int32Array;
  readonly args: Float64Array;
  /** Latin letters: what engines say of a trap. */
  readonly cause: Uint8Array;
}

export const controlBytes = WORDS * 4 + MAX_ARGUMENTS * 8 + CAUSE_BYTES;

export const controlOf = (shared: SharedArrayBuffer): Control => ({
  words: new Int32Array(shared, 0, WORDS),
  args: new Float64Array(shared, WORDS * 4, MAX_ARGUMENTS),
  cause: new Uint8Array(shared, WORDS * 4 + MAX_ARGUMENTS * 8, CAUSE_BYTES),
});

/** A helper's kernel threw: the first one's words are kept for the thread that launched it. */
export function fail({ words, cause }: Control, error: unknown): void {
  if (Atomics.compareExchange(words, FAILED, 0, 2) !== 0) return;
  const text = (error instanceof Error ? error.message : String(error)).slice(0, cause.length);
  for (let n = 0; n < text.length; n++) cause[n] = text.charCodeAt(n);
  words[CAUSE] = text.length;
  Atomics.store(words, FAILED, 1);
}

/** What failed since the last launch, and forgets it; null: nothing. To be called when nobody is inside. */
export function takeFailure({ words, cause }: Control): string | null {
  if (Atomics.load(words, FAILED) === 0) return null;
  const text = String.fromCharCode(...cause.subarray(0, words[CAUSE]));
  words[CAUSE] = 0;
  Atomics.store(words, FAILED, 0);
  return text;
}

type Kernel = (begin: number, end: number, ...args: number[]) => void;

/**
 * Enters the launch that is open, if one is. The launch's words are written only while the gate is shut and nobody is inside, so what a helper reads
 * after entering belongs to one launch, however long ago it looked at the generation.
 */
export function enter({ words }: Control): boolean {
  for (;;) {
    const gate = Atomics.load(words, GATE);
    if ((gate & OPEN) === 0) return false;
    if (Atomics.compareExchange(words, GATE, gate, gate + 1) === gate) return true;
  }
}

export const leave = ({ words }: Control): void => void Atomics.sub(words, GATE, 1);

/** Takes chunks until none is left; returns how many items it did. Which thread takes which does not matter: every item's result is its own. */
export function drain({ words }: Control, kernel: Kernel, args: readonly number[]): number {
  const count = words[COUNT] ?? 0;
  const chunk = words[CHUNK] ?? 1;
  let done = 0;
  for (;;) {
    const begin = Atomics.add(words, NEXT, chunk);
    if (begin >= count) return done;
    const end = Math.min(begin + chunk, count);
    kernel(begin, end, ...args);
    done += end - begin;
  }
}

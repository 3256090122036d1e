import type { KernelName, KernelTeam } from '#core/grid';
import { RuddleError } from '#core/errors';
import { Arena } from './arena';
import {
  ALLOWED,
  ARGUMENTS,
  CANCEL,
  CHUNK,
  COUNT,
  FAILED,
  GATE,
  GENERATION,
  KERNEL,
  NEXT,
  OPEN,
  STOP,
  controlBytes,
  controlOf,
  drain,
  takeFailure,
} from './control';
import type { HelperStart } from './helper';
import { instantiate, kernelModule, kernelNames } from './module';

export interface TeamOptions {
  /** Threads in all, the calling one included. */
  readonly threads: number;
  /** Most bytes the team's memory may take. */
  readonly arenaBytes?: number;
  /** Where the arena begins: tests of memory beyond 2 GiB need not fill the first two. */
  readonly arenaStart?: number;
  /** Starts a thread that runs helpLoop with what it is given; needed for more than one thread. */
  readonly startHelper?: (start: HelperStart) => void;
  /** Shared block by which others cancel the run or change its threads. */
  readonly control?: SharedArrayBuffer;
}

export interface Team extends KernelTeam {
  /** True once someone has set the cancel word; launches then throw `cancelled`. */
  cancelled: () => boolean;
  /** Empties the memory for another run by the same threads. */
  reset(): void;
  /** Lets the helpers end. */
  stop(): void;
}

export const newControl = (threads: number): SharedArrayBuffer => {
  const control = new SharedArrayBuffer(controlBytes);
  controlOf(control).words[ALLOWED] = threads;
  return control;
};

export const cancelBy = (control: SharedArrayBuffer): void => void Atomics.store(controlOf(control).words, CANCEL, 1);

/** Takes a cancel back, before the next run of the same team. */
export const resume = (control: SharedArrayBuffer): void => void Atomics.store(controlOf(control).words, CANCEL, 0);
/** Threads that may work from now on; a Final steps down while shorter work runs. */
export const allowThreads = (control: SharedArrayBuffer, threads: number): void =>
  void Atomics.store(controlOf(control).words, ALLOWED, threads);

/** Launches with fewer items run on the calling thread: waking others costs more. */
const FORK_FROM = 3;

/**
 * Most items (tiles) that are taken at once: the longest kernels take about 50 microseconds a tile, so that even their last chunk ends before
 * a helper counts as late. With a sixth of a thread's share instead, every launch on a grid of 128 voxels ended "late" and two threads were one.
 */
const CHUNK_MOST = 8;

/**
 * Milliseconds of waiting, over what the helpers have saved, that are borne before the calling thread goes on alone. Savings count up to the same: a good
 * past must not pay for a bad present.
 */
const BORNE = 4;
/** Launches that it then makes alone, before it asks for help again; doubled each time that ends the same way. */
const ALONE_FIRST = 256;
const ALONE_MOST = 16_384;

/** One memory, one instance of the kernels in each thread. Must not run where waiting is forbidden (a page's main thread). */
export function createTeam(options: TeamOptions): Team {
  const module = kernelModule();
  const memory = new WebAssembly.Memory({ initial: 256, maximum: 65536, shared: true });
  const arena = new Arena(memory, options.arenaBytes, options.arenaStart);
  const kernels = instantiate(module, memory, 0);
  const names = kernelNames(module);
  const numbers = new Map(names.map((name, n) => [name, n]));
  const control = options.control ?? newControl(options.threads);
  const shared = controlOf(control);
  const { words, args } = shared;
  const helpers = options.startHelper ? options.threads - 1 : 0;
  for (let index = 1; index <= helpers; index++) options.startHelper?.({ module, memory, control, index });

  // Others want the cores too (a page that draws, a second run): a helper that is descheduled in the middle of a launch keeps everyone waiting, hundreds
  // of times a solve. So what helpers save is held against what is waited for. Counting only waits over a millisecond let a small run beside a page
  // that draws take 12 times as long as alone; going alone at the first late launch made two threads at 128 voxels 1.04 times as fast as one.
  let alone = 0;
  let patience = ALONE_FIRST;
  let balance = 0;
  const settle = (worked: number, waited: number, mine: number, all: number): void => {
    const saved = mine > 0 ? (worked * (all - mine)) / mine : 0;
    balance = Math.min(BORNE, balance + saved - waited);
    if (balance < -BORNE) {
      alone = patience;
      patience = Math.min(ALONE_MOST, patience * 2);
      balance = -BORNE / 2;
    } else if (balance > 0 && patience > ALONE_FIRST) patience--;
  };
  const failed = (kernel: KernelName, why: string, cause?: unknown): RuddleError<'internal'> =>
    new RuddleError('internal', `The kernel ${kernel} failed: ${why || 'no reason is known'}.`, { where: kernel }, cause);
  const join = (): void => {
    // Only who has entered is waited for: a helper that is still waking up finds the gate shut.
    Atomics.and(words, GATE, ~OPEN);
    let spins = 0;
    while (Atomics.load(words, GATE) > 0) {
      if (++spins % 1_000_000 === 0) Atomics.wait(words, FAILED, 0, 0.05);
    }
  };

  const launch = (kernel: KernelName, count: number, ...rest: number[]): void => {
    if (count <= 0) return;
    // A substep can take seconds beside others: a cancel is heard at every launch, not only between substeps.
    if (Atomics.load(words, CANCEL) !== 0) throw new RuddleError('cancelled', 'The run was cancelled.', {});
    const f = kernels[kernel];
    const number = numbers.get(kernel);
    if (!f || number === undefined) {
      throw new RuddleError('internal', `There is no kernel ${kernel}.`, { where: 'launch' });
    }
    const allowed = Math.min(helpers + 1, Atomics.load(words, ALLOWED));
    if (alone > 0) alone--;
    if (allowed < 2 || count < FORK_FROM || alone > 0) {
      try {
        f(0, count, ...rest);
      } catch (cause) {
        throw failed(kernel, cause instanceof Error ? cause.message : String(cause), cause);
      }
      return;
    }
    args.set(rest);
    words[ARGUMENTS] = rest.length;
    words[KERNEL] = number;
    words[COUNT] = count;
    words[CHUNK] = Math.max(1, Math.min(CHUNK_MOST, Math.ceil(count / (allowed * 6))));
    Atomics.store(words, NEXT, 0);
    Atomics.store(words, GATE, OPEN);
    Atomics.add(words, GENERATION, 1);
    Atomics.notify(words, GENERATION);
    const began = performance.now();
    let mine = 0;
    let broken: { readonly cause: unknown } | null = null;
    try {
      mine = drain(shared, f, rest);
    } catch (cause) {
      broken = { cause };
      // Nobody takes more of it.
      Atomics.store(words, NEXT, count);
    }
    const done = performance.now();
    // Helpers are waited for after a failure too: else they would work on the next launch's memory.
    join();
    const helper = takeFailure(shared);
    if (broken) throw failed(kernel, broken.cause instanceof Error ? broken.cause.message : String(broken.cause), broken.cause);
    if (helper !== null) throw failed(kernel, `in a helper thread, ${helper}`);
    settle(done - began, performance.now() - done, mine, count);
  };

  return {
    threads: helpers + 1,
    allocate: (bytes) => arena.allocate(bytes),
    available: () => arena.available(),
    allocated: () => arena.allocated(),
    floats: (pointer, count) => new Float32Array(memory.buffer, pointer, count),
    doubles: (pointer, count) => new Float64Array(memory.buffer, pointer, count),
    words: (pointer, count) => new Int32Array(memory.buffer, pointer, count),
    pointers: (pointer, count) => new Uint32Array(memory.buffer, pointer, count),
    bytes: (pointer, count) => new Uint8Array(memory.buffer, pointer, count),
    launch,
    cancelled: () => Atomics.load(words, CANCEL) !== 0,
    reset: () => {
      arena.reset();
    },
    stop: () => {
      Atomics.store(words, STOP, 1);
      Atomics.add(words, GENERATION, 1);
      Atomics.notify(words, GENERATION);
    },
  };
}

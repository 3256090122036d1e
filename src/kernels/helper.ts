import { ARGUMENTS, BUSY, FAILED, GENERATION, KERNEL, READY, STOP, controlOf, drain, ALLOWED } from './control';
import { instantiate, kernelNames } from './module';

/** What a helper thread is given when it starts. */
export interface HelperStart {
  readonly module: WebAssembly.Module;
  readonly memory: WebAssembly.Memory;
  readonly control: SharedArrayBuffer;
  /** 1 for the first helper; the coordinator is 0. */
  readonly index: number;
}

/**
 * Turns of spinning before a helper parks: about a millisecond. Waking a parked thread costs 50 microseconds at best and milliseconds on a shared
 * machine; a pressure solve makes hundreds of launches. With 4000 turns (20 microseconds) the solve took 9 times as long.
 */
const SPINS = 200_000;

/** The body of a helper thread: waits for a launch, takes chunks of it, says that it is done. Returns when told to stop. */
export function helpLoop({ module, memory, control, index }: HelperStart): void {
  const kernels = instantiate(module, memory);
  const names = kernelNames(module);
  const shared = controlOf(control);
  const { words, args } = shared;
  let seen = Atomics.load(words, GENERATION);
  Atomics.add(words, READY, 1);
  Atomics.notify(words, READY);
  for (;;) {
    let spins = 0;
    while (Atomics.load(words, GENERATION) === seen) {
      if (Atomics.load(words, STOP) !== 0) return;
      if (++spins > SPINS) Atomics.wait(words, GENERATION, seen, 1000);
    }
    seen = Atomics.load(words, GENERATION);
    if (Atomics.load(words, STOP) !== 0) return;
    try {
      const kernel = kernels[names[words[KERNEL] ?? 0] ?? ''];
      if (kernel && index < Atomics.load(words, ALLOWED)) {
        drain(shared, kernel, Array.from(args.subarray(0, words[ARGUMENTS])));
      }
    } catch {
      Atomics.store(words, FAILED, 1);
    }
    Atomics.sub(words, BUSY, 1);
  }
}

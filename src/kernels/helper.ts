import { ALLOWED, ARGUMENTS, GENERATION, KERNEL, STOP, controlOf, drain, enter, fail, leave } from './control';
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

/** The body of a helper thread: enters each launch that it finds open, takes chunks of it, leaves. Returns when told to stop. */
export function helpLoop({ module, memory, control, index }: HelperStart): void {
  const kernels = instantiate(module, memory, index);
  const names = kernelNames(module);
  const shared = controlOf(control);
  const { words, args } = shared;
  for (;;) {
    const seen = Atomics.load(words, GENERATION);
    if (Atomics.load(words, STOP) !== 0) return;
    if (index < Atomics.load(words, ALLOWED) && enter(shared)) {
      try {
        const kernel = kernels[names[words[KERNEL] ?? 0] ?? ''];
        if (kernel) drain(shared, kernel, Array.from(args.subarray(0, words[ARGUMENTS])));
      } catch (error) {
        fail(shared, error);
      }
      leave(shared);
    }
    let spins = 0;
    while (Atomics.load(words, GENERATION) === seen) {
      if (++spins > SPINS) Atomics.wait(words, GENERATION, seen, 1000);
    }
  }
}

import { kernelsBase64, kernelsDigests } from './generated/kernels';

/** Part of every run key of gas: the bytes of its kernels, compiled alone. A new kernel of another kind makes no gas cache stale. */
export const kernelsVersion = kernelsDigests.gas.slice(0, 12);
/** The same, and of the other kinds that have kernels. */
export const kernelDigests = {
  gas: kernelsVersion,
  particles: kernelsDigests.particles.slice(0, 12),
  detail: kernelsDigests.detail.slice(0, 12),
  held: kernelsDigests.held.slice(0, 12),
  liquid: kernelsDigests.liquid.slice(0, 12),
  surface: kernelsDigests.surface.slice(0, 12),
} as const;

function bytes(): Uint8Array<ArrayBuffer> {
  const text = atob(kernelsBase64);
  const out = new Uint8Array(text.length);
  for (let n = 0; n < text.length; n++) out[n] = text.charCodeAt(n);
  return out;
}

let compiled: WebAssembly.Module | null = null;

/** Compiled once a thread; a compiled module can be posted to other threads. */
export const kernelModule = (): WebAssembly.Module => (compiled ??= new WebAssembly.Module(bytes()));

export type Kernels = Readonly<Record<string, (begin: number, end: number, ...args: number[]) => void>>;

/** `thread`: 0 for the one that launches; kernels with memory of their own have it by this number. */
export function instantiate(module: WebAssembly.Module, memory: WebAssembly.Memory, thread: number): Kernels {
  const instance = new WebAssembly.Instance(module, {
    env: {
      memory,
      abort: () => {
        throw new Error('a kernel aborted');
      },
    },
  });
  const kernels = instance.exports as unknown as Kernels;
  kernels['beThread']?.(thread, 0);
  return kernels;
}

/** Kernels numbered: the same order in every thread, as it comes from the same module. */
export const kernelNames = (module: WebAssembly.Module): string[] =>
  WebAssembly.Module.exports(module)
    .filter((e) => e.kind === 'function')
    .map((e) => e.name)
    .sort();

import { gasKernelsDigest, kernelsBase64 } from './generated/kernels';

/** Digest of the gas kernels: says which code computed a run, and which measured times belong together. No run key holds it. */
export const kernelsVersion = gasKernelsDigest.slice(0, 12);

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

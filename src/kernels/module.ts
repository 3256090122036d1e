import { kernelsBase64, kernelsDigest } from './generated/kernels';

/** Part of every run key: the bytes of the kernels. */
export const kernelsVersion = kernelsDigest.slice(0, 12);

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

export function instantiate(module: WebAssembly.Module, memory: WebAssembly.Memory): Kernels {
  const instance = new WebAssembly.Instance(module, {
    env: {
      memory,
      abort: () => {
        throw new Error('a kernel aborted');
      },
    },
  });
  return instance.exports as unknown as Kernels;
}

/** Kernels numbered: the same order in every thread, as it comes from the same module. */
export const kernelNames = (module: WebAssembly.Module): string[] =>
  WebAssembly.Module.exports(module)
    .filter((e) => e.kind === 'function')
    .map((e) => e.name)
    .sort();

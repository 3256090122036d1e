// The part of the WebAssembly interface that kernels use; this module is compiled without DOM or Node types.
declare namespace WebAssembly {
  class Module {
    constructor(bytes: Uint8Array<ArrayBuffer>);
    static exports(module: Module): { name: string; kind: string }[];
  }
  class Memory {
    constructor(descriptor: { initial: number; maximum: number; shared: true });
    readonly buffer: SharedArrayBuffer;
    grow(pages: number): number;
  }
  class Instance {
    constructor(module: Module, imports: Record<string, Record<string, unknown>>);
    readonly exports: Record<string, unknown>;
  }
}
declare function atob(text: string): string;
/** Decides about how many threads work, never about what they compute. */
declare const performance: { now(): number };

declare module 'gltf-validator' {
  /** Khronos' own check of a .glb: what it found (severity 0 is an error), and what is in it. */
  export function validateBytes(bytes: Uint8Array): Promise<{
    readonly issues: { readonly messages: readonly { readonly severity: number; readonly code: string; readonly message: string }[] };
    readonly info: { readonly totalTriangleCount: number };
  }>;
}

import type { TriangleMesh } from '#core/mesh';

/** A mesh as its file has it. */
export interface ReadMesh {
  readonly mesh: TriangleMesh;
  /** Vertex positions at a second of its animation; null: it has none. */
  readonly pose: ((seconds: number) => Float32Array) | null;
  readonly seconds: number;
  readonly notes: readonly string[];
}

/** A file is not what its ending says; the message says why, to be put behind the file's name. */
export class Unreadable extends Error {}

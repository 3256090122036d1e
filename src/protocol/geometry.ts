import * as z from 'zod';
import type { ErrorData } from '#core/errors';

const triple = z.tuple([z.number(), z.number(), z.number()]);

/** What is known of an imported file. Lengths in its own units. */
export const geometryInfoSchema = z.object({
  hash: z.string().regex(/^[0-9a-f]{64}$/),
  file: z.string(),
  kind: z.enum(['mesh', 'distance', 'points', 'picture']),
  /** Of points: number of the first file. */
  first: z.number(),
  /** All that it covers during its animation, around the middle of its rest pose. */
  extent: z.object({ min: triple, max: triple }),
  /** The middle of its rest pose, as the file has it. */
  centre: triple,
  /** Size of its rest pose; of a picture: pixels. */
  size: triple,
  /** Of its animation; 0: it has none. */
  seconds: z.number(),
  bytes: z.number(),
  unit: z.enum(['metre', 'centimetre', 'millimetre', 'foot', 'inch']),
  /** Sentences about what was found and mended. */
  notes: z.array(z.string()),
  /** An open surface: a thin wall is what it can be. */
  sheet: z.boolean(),
  triangles: z.number(),
});
export type GeometryInfo = z.output<typeof geometryInfoSchema>;

/** Work on files that came from outside, done by a process of its own: whatever they hold, the server goes on. Paths are of this machine. */
export type ImportJob =
  /** Reads a mesh, points, a picture or a signed distance; what Ruddle keeps of it is written to `output`. */
  | { readonly kind: 'geometry'; readonly input: string; readonly file: string; readonly output: string }
  /** Unpacks a shot's bundle; its geometry is written into `folder`, each file named by its fingerprint. */
  | { readonly kind: 'unpack'; readonly input: string; readonly file: string; readonly folder: string }
  /** Packs a shot with its geometry (path by fingerprint) into a bundle at `output`. */
  | { readonly kind: 'pack'; readonly shot: string; readonly geometry: Readonly<Record<string, string>>; readonly output: string };

export interface ImportResults {
  readonly geometry: GeometryInfo;
  /** The text of the shot file, and the fingerprints of what came with it. */
  readonly unpack: { readonly shot: string; readonly hashes: readonly string[] };
  readonly pack: { readonly bytes: number };
}

export type ImportMessage =
  /** `part`: 0..1 of the stage, or null when it cannot be told. */
  | { readonly kind: 'progress'; readonly stage: string; readonly part: number | null }
  | { readonly kind: 'done'; readonly result: ImportResults[ImportJob['kind']] }
  | { readonly kind: 'failed'; readonly error: ErrorData };

import { z } from 'zod';
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

export interface ImportStart {
  readonly bytes: Uint8Array;
  readonly file: string;
}

export type ImportMessage =
  | { readonly kind: 'done'; readonly info: GeometryInfo; readonly bytes: Uint8Array<ArrayBuffer> }
  | { readonly kind: 'failed'; readonly error: ErrorData };

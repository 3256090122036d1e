import { readFileSync } from 'node:fs';
import { RuddleError } from '#core/errors';
import { type Geometries, decodeGeometry } from '#core/mesh';

/** Imported geometry by fingerprint. What cannot be read is left out: whoever needs it then says which is missing. */
export function readGeometries(files: Readonly<Record<string, string>>): Geometries {
  return new Map(
    Object.entries(files).flatMap(([hash, path]) => {
      try {
        return [[hash, decodeGeometry(readFileSync(path), path)] as const];
      } catch (error) {
        if (error instanceof RuddleError) throw error;
        return [];
      }
    }),
  );
}

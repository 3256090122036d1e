import { join } from 'node:path';
import { RuddleError } from '#core/errors';
import { exists, moveWhole, readBytes, writeWhole } from './files';

/** Imported geometry of a data folder. */
export const geometryFolder = (data: string): string => join(data, 'geometry');

/** Its file's name is its fingerprint. */
export const geometryPath = (folder: string, hash: string): string => join(folder, `${hash}.geometry`);

export async function keepGeometry(folder: string, hash: string, bytes: Uint8Array): Promise<void> {
  if (!(await exists(geometryPath(folder, hash)))) await writeWhole(geometryPath(folder, hash), bytes);
}

/** The same for a file that lies beside the folder on the same disk: it is moved, not copied. */
export async function keepGeometryFile(folder: string, hash: string, path: string): Promise<void> {
  if (await exists(geometryPath(folder, hash))) return;
  await moveWhole(path, geometryPath(folder, hash));
}

/** Throws `not-found`. */
export async function readGeometry(folder: string, hash: string): Promise<Buffer> {
  return await readBytes(geometryPath(folder, hash)).catch((cause: unknown) => {
    throw new RuddleError(
      'not-found',
      `The imported geometry ${hash.slice(0, 12)} is not here. Import its file again.`,
      { what: hash },
      cause,
    );
  });
}

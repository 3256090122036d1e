import { RuddleError } from '#core/errors';
import { readGlb } from './read-glb';
import { type ReadMesh, Unreadable } from './mesh-file';
import { readObj, readPly, readStl } from './read-static';

const READERS: Readonly<Record<string, (bytes: Uint8Array) => ReadMesh | Promise<ReadMesh>>> = {
  obj: readObj,
  ply: readPly,
  stl: readStl,
  glb: readGlb,
};

export const MESH_KINDS = Object.keys(READERS);

/** Reads a mesh file by the ending of its name. Throws `file-invalid`. */
export async function readMesh(bytes: Uint8Array, file: string): Promise<ReadMesh> {
  const ending = /\.([^.]+)$/.exec(file.toLowerCase())?.[1] ?? '';
  const reader = Object.hasOwn(READERS, ending) ? READERS[ending] : undefined;
  const refuse = (reason: string, cause?: unknown): never => {
    throw new RuddleError('file-invalid', `${file}: ${reason}.`, { file, reason }, cause);
  };
  if (!reader) return refuse(`files that are read end in ${MESH_KINDS.map((k) => `.${k}`).join(' ')} or .vdb`);
  let read: ReadMesh;
  try {
    read = await reader(bytes);
  } catch (cause) {
    if (cause instanceof Unreadable) return refuse(cause.message, cause);
    return refuse(`it cannot be read as .${ending} (${cause instanceof Error ? cause.message : String(cause)})`, cause);
  }
  if (read.mesh.triangles.length === 0) return refuse('it has no triangles');
  return read;
}

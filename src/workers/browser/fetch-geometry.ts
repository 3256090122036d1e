import { RuddleError } from '#core/errors';
import { type AnyGeometry, decodeGeometry } from '#core/mesh';

/** Imported geometry by its fingerprint, from the server that the page came from. Throws `not-found`. */
export async function fetchGeometry(hash: string): Promise<AnyGeometry> {
  const response = await fetch(`/api/geometry/${hash}`);
  if (!response.ok) {
    throw new RuddleError('not-found', `The imported geometry ${hash.slice(0, 12)} is missing. Import its file again.`, { what: hash });
  }
  return decodeGeometry(new Uint8Array(await response.arrayBuffer()), hash);
}

/**
 * A shot's bundle: the shot file with the imported geometry that it needs, as a .zip of `shot.json` and `geometry/<fingerprint>.geometry`. Packing and
 * unpacking stream from file to file, in workers/node/importing.
 */
export const BUNDLE_SHOT = 'shot.json';

const GEOMETRY = /^geometry\/([0-9a-f]{64})\.geometry$/;

export const bundleGeometryName = (hash: string): string => `geometry/${hash}.geometry`;

/** Fingerprint of a file of a bundle that is geometry; null when it is none. */
export const bundleGeometryHash = (name: string): string | null => GEOMETRY.exec(name)?.[1] ?? null;

export const isZip = (bytes: Uint8Array): boolean => bytes[0] === 0x50 && bytes[1] === 0x4b;

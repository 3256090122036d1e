import { sha256 } from '@noble/hashes/sha2.js';
import { bytesToHex, utf8ToBytes } from '@noble/hashes/utils.js';
import { canonicalJson } from '#core/shot';
import type { PassPlan } from './contract';

/**
 * SHA-256 of everything that decides about a pass's frames: its kind with its version, the essence of its body, frames (not the last: it changes none before it), and its
 * inputs' keys. A kind's version is its own: a change of one makes no cache of another stale.
 */
export function passKey({ pass, frames, inputs }: PassPlan, version: string, essence: unknown): string {
  const { last: _last, ...from } = frames;
  const keys = inputs.map(({ role, key }) => ({ role, key }));
  return bytesToHex(sha256(utf8ToBytes(canonicalJson(['pass', pass, version, from, keys, essence]))));
}

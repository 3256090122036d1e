import { RuddleError } from '#core/errors';

// The LZ4 block format: greedy matches by one hash table, as the reference fast compressor. No npm package for it is kept up.
const HASH_BITS = 13;
const MIN_MATCH = 4;
/** The last match must start this far before the end, and the last bytes are literals: rules of the format. */
const LAST_LITERALS = 5;
const MATCH_LIMIT = 12;

const table = new Int32Array(1 << HASH_BITS);

/** Compresses into `target`; returns the number of bytes, or 0 when they would not fit. */
export function lz4Compress(source: Uint8Array, target: Uint8Array): number {
  const n = source.length;
  table.fill(-1);
  let anchor = 0;
  let at = 0;
  let out = 0;
  const read32 = (p: number): number =>
    ((source[p] ?? 0) | ((source[p + 1] ?? 0) << 8) | ((source[p + 2] ?? 0) << 16) | ((source[p + 3] ?? 0) << 24)) >>> 0;
  const emit = (literals: number, match: number, offset: number): boolean => {
    if (out + literals + Math.floor(literals / 255) + Math.floor(match / 255) + 8 > target.length) return false;
    const token = out++;
    let high = literals;
    if (literals >= 15) {
      high = 15;
      let rest = literals - 15;
      for (; rest >= 255; rest -= 255) target[out++] = 255;
      target[out++] = rest;
    }
    target.set(source.subarray(anchor, anchor + literals), out);
    out += literals;
    if (match === 0) {
      target[token] = high << 4;
      return true;
    }
    target[out++] = offset & 255;
    target[out++] = offset >>> 8;
    let low = match - MIN_MATCH;
    if (low >= 15) {
      let rest = low - 15;
      low = 15;
      for (; rest >= 255; rest -= 255) target[out++] = 255;
      target[out++] = rest;
    }
    target[token] = (high << 4) | low;
    return true;
  };
  let misses = 0;
  while (at + MATCH_LIMIT <= n) {
    const value = read32(at);
    const hash = Math.imul(value, 2654435761) >>> (32 - HASH_BITS);
    const candidate = table[hash] ?? -1;
    table[hash] = at;
    if (candidate < 0 || at - candidate > 65535 || read32(candidate) !== value) {
      // Skips faster through what does not compress.
      at += 1 + (misses++ >> 6);
      continue;
    }
    misses = 0;
    let length = MIN_MATCH;
    const most = n - LAST_LITERALS - at;
    while (length < most && source[candidate + length] === source[at + length]) length++;
    if (!emit(at - anchor, length, at - candidate)) return 0;
    at += length;
    anchor = at;
  }
  return emit(n - anchor, 0, 0) ? out : 0;
}

/** Decompresses exactly `target.length` bytes; throws `file-invalid` on anything else. */
export function lz4Decompress(source: Uint8Array, target: Uint8Array): void {
  const bad = (reason: string): never => {
    throw new RuddleError('file-invalid', `Compressed data is damaged: ${reason}.`, { file: '', reason });
  };
  let at = 0;
  let out = 0;
  const length = (first: number): number => {
    let total = first;
    if (first !== 15) return total;
    for (;;) {
      if (at >= source.length) return bad('a length runs over the end');
      const b = source[at++] ?? 0;
      total += b;
      if (b !== 255) return total;
    }
  };
  while (at < source.length) {
    const token = source[at++] ?? 0;
    const literals = length(token >>> 4);
    if (at + literals > source.length || out + literals > target.length) bad('literals run over the end');
    target.set(source.subarray(at, at + literals), out);
    at += literals;
    out += literals;
    if (at === source.length) break;
    if (at + 2 > source.length) bad('an offset runs over the end');
    const offset = (source[at] ?? 0) | ((source[at + 1] ?? 0) << 8);
    at += 2;
    const match = length(token & 15) + MIN_MATCH;
    if (offset === 0 || offset > out || out + match > target.length) bad('a match points outside');
    for (let n = 0; n < match; n++, out++) target[out] = target[out - offset] ?? 0;
  }
  if (out !== target.length) bad(`${String(out)} bytes instead of ${String(target.length)}`);
}

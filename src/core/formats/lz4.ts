import { RuddleError } from '#core/errors';

// The LZ4 block format: greedy matches by one hash table, as the reference fast compressor. No npm package for it is kept up.
const HASH_BITS = 13;
const MIN_MATCH = 4;
/** The last match must start this far before the end, and the last bytes are literals: rules of the format. */
const LAST_LITERALS = 5;
const MATCH_LIMIT = 12;

/**
 * Positions by hash, counted on from call to call: what an earlier call left lies below `base` and is no match. Clearing the table instead costs
 * more than compressing a leaf's stream of 512 bytes (with it, .vdb files were written at 45 to 70 MB/s).
 */
const table = new Int32Array(1 << HASH_BITS);
let base = 1;
const BASE_MOST = 0x40000000;

/** Compresses into `target`; returns the number of bytes, or 0 when they would not fit. */
export function lz4Compress(source: Uint8Array, target: Uint8Array): number {
  const n = source.length;
  if (base + n > BASE_MOST) {
    table.fill(0);
    base = 1;
  }
  const start = base;
  base += n;
  const end = n - MATCH_LIMIT;
  const matchEnd = n - LAST_LITERALS;
  let anchor = 0;
  let at = 0;
  let out = 0;
  let misses = 0;
  while (at <= end) {
    const value = read32(source, at);
    const hash = Math.imul(value, -1640531535) >>> (32 - HASH_BITS);
    const candidate = (table[hash] ?? 0) - start;
    table[hash] = start + at;
    if (candidate < 0 || at - candidate > 65535 || read32(source, candidate) !== value) {
      // Skips faster through what does not compress.
      at += 1 + (misses++ >> 6);
      continue;
    }
    misses = 0;
    let stop = at + MIN_MATCH;
    for (let from = candidate + MIN_MATCH; stop < matchEnd && source[from] === source[stop]; from++) stop++;
    out = emit(source, anchor, at, stop - at, at - candidate, target, out);
    if (out < 0) return 0;
    at = stop;
    anchor = stop;
  }
  return Math.max(0, emit(source, anchor, n, 0, 0, target, out));
}

const read32 = (source: Uint8Array, p: number): number =>
  (source[p] ?? 0) | ((source[p + 1] ?? 0) << 8) | ((source[p + 2] ?? 0) << 16) | ((source[p + 3] ?? 0) << 24);

/** One sequence: the literals from `anchor` to `at`, then a match (none when 0 long). Returns where the next begins, or -1 when there is no room. */
function emit(source: Uint8Array, anchor: number, at: number, match: number, offset: number, target: Uint8Array, begin: number): number {
  const literals = at - anchor;
  let out = begin;
  if (out + literals + Math.floor(literals / 255) + Math.floor(match / 255) + 8 > target.length) return -1;
  const token = out++;
  if (literals >= 15) out = run(literals - 15, target, out);
  // A call of `set` costs as much as copying some dozens of bytes.
  if (literals < 48) for (let p = anchor; p < at; p++) target[out++] = source[p] ?? 0;
  else {
    target.set(source.subarray(anchor, at), out);
    out += literals;
  }
  const high = Math.min(literals, 15) << 4;
  if (match === 0) {
    target[token] = high;
    return out;
  }
  target[out++] = offset & 255;
  target[out++] = offset >>> 8;
  const rest = match - MIN_MATCH;
  target[token] = high | Math.min(rest, 15);
  return rest >= 15 ? run(rest - 15, target, out) : out;
}

/** What a length has beyond the 15 that the token holds. */
function run(length: number, target: Uint8Array, begin: number): number {
  let out = begin;
  let rest = length;
  for (; rest >= 255; rest -= 255) target[out++] = 255;
  target[out++] = rest;
  return out;
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

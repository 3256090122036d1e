import { RuddleError } from '#core/errors';
import { lz4Compress, lz4Decompress } from './lz4';

// Blosc-1 buffers with LZ4 and byte shuffle, one block a buffer. See docs/methods/vdb.md.
const HEADER = 16;
const SHUFFLE = 0x01;
const STORED = 0x02;
const BIT_SHUFFLE = 0x04;
const NO_SPLIT = 0x10;
const LZ4 = 1;
const FORMAT = 2;
/** A block whose streams would be shorter than this is not split into them. */
const MIN_STREAM = 128;
const MAX_SPLITS = 16;

const isSplit = (flags: number, elementSize: number, block: number): boolean =>
  (flags & NO_SPLIT) === 0 && elementSize <= MAX_SPLITS && block / elementSize >= MIN_STREAM;

let room = new Uint8Array(1 << 13);

/** All first bytes of the elements, then all second ones ...; a rest smaller than an element is copied. Valid until the next call. */
function shuffle(source: Uint8Array, elementSize: number): Uint8Array {
  const count = Math.floor(source.length / elementSize);
  if (room.length < source.length) room = new Uint8Array(source.length);
  const out = room.subarray(0, source.length);
  for (let b = 0; b < elementSize; b++) {
    const to = b * count;
    for (let n = 0, from = b; n < count; n++, from += elementSize) out[to + n] = source[from] ?? 0;
  }
  if (count * elementSize < source.length) out.set(source.subarray(count * elementSize), count * elementSize);
  return out;
}

function unshuffle(source: Uint8Array, elementSize: number, out: Uint8Array): void {
  const count = Math.floor(source.length / elementSize);
  for (let b = 0; b < elementSize; b++) {
    const from = b * count;
    for (let n = 0, to = b; n < count; n++, to += elementSize) out[to] = source[from + n] ?? 0;
  }
  out.set(source.subarray(count * elementSize), count * elementSize);
}

/** One Blosc buffer, or null when it would not be smaller than the data. */
export function bloscCompress(data: Uint8Array, elementSize: number): Uint8Array | null {
  const n = data.length;
  // Header, block table and stream lengths take more than this could save.
  if (n < 64) return null;
  const out = new Uint8Array(n + HEADER);
  const view = new DataView(out.buffer);
  const split = isSplit(0, elementSize, n);
  const flags = (LZ4 << 5) | SHUFFLE | (split ? 0 : NO_SPLIT);
  view.setUint8(0, FORMAT);
  view.setUint8(1, 1);
  view.setUint8(2, flags);
  view.setUint8(3, elementSize);
  view.setUint32(4, n, true);
  view.setUint32(8, n, true);
  view.setUint32(HEADER, HEADER + 4, true);
  const shuffled = shuffle(data, elementSize);
  const streams = split ? elementSize : 1;
  const size = n / streams;
  let at = HEADER + 4;
  for (let s = 0; s < streams; s++) {
    if (at + 4 + size > out.length + size) return null;
    const source = shuffled.subarray(s * size, (s + 1) * size);
    const room = out.subarray(at + 4, Math.min(out.length, at + 4 + size));
    let length = lz4Compress(source, room);
    if (length === 0 || length >= size) {
      if (at + 4 + size > out.length) return null;
      out.set(source, at + 4);
      length = size;
    }
    view.setInt32(at, length, true);
    at += 4 + length;
  }
  if (at >= n) return null;
  view.setUint32(12, at, true);
  return out.subarray(0, at);
}

/** Reads a Blosc buffer whose codec is LZ4 (or that is stored). Throws `file-invalid`. */
export function bloscDecompress(buffer: Uint8Array, expected: number): Uint8Array {
  const bad = (reason: string): never => {
    throw new RuddleError('file-invalid', `A Blosc buffer is damaged: ${reason}.`, { file: '', reason });
  };
  if (buffer.length < HEADER) bad('it is shorter than its header');
  const view = new DataView(buffer.buffer, buffer.byteOffset, buffer.byteLength);
  const flags = view.getUint8(2);
  const elementSize = Math.max(1, view.getUint8(3));
  const size = view.getUint32(4, true);
  const blockSize = view.getUint32(8, true);
  const total = view.getUint32(12, true);
  if (size !== expected) bad(`it holds ${String(size)} bytes instead of ${String(expected)}`);
  if (total !== buffer.length) bad('its length is wrong');
  if (flags & BIT_SHUFFLE) bad('bit shuffle is not read');
  if (flags & STORED) {
    if (HEADER + size > buffer.length) bad('stored data is cut off');
    return buffer.slice(HEADER, HEADER + size);
  }
  if (flags >> 5 !== LZ4) bad(`codec ${String(flags >> 5)} is not read, only LZ4`);
  if (blockSize === 0) bad('its block size is 0');
  const out = new Uint8Array(size);
  const blocks = Math.ceil(size / blockSize);
  if (HEADER + 4 * blocks > buffer.length) bad('its block table is cut off');
  for (let n = 0; n < blocks; n++) {
    const start = n * blockSize;
    const length = Math.min(blockSize, size - start);
    const split = length === blockSize && isSplit(flags, elementSize, blockSize);
    const streams = split ? elementSize : 1;
    const block = new Uint8Array(length);
    let at = view.getUint32(HEADER + 4 * n, true);
    for (let s = 0; s < streams; s++) {
      if (at + 4 > buffer.length) bad('a block is cut off');
      const packed = view.getInt32(at, true);
      at += 4;
      const target = block.subarray((s * length) / streams, ((s + 1) * length) / streams);
      if (packed < 0 || at + packed > buffer.length) bad('a stream is cut off');
      const source = buffer.subarray(at, at + packed);
      if (packed === target.length) target.set(source);
      else lz4Decompress(source, target);
      at += packed;
    }
    if (flags & SHUFFLE) unshuffle(block, elementSize, out.subarray(start, start + length));
    else out.set(block, start);
  }
  return out;
}

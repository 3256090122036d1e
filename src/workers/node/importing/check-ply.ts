/** Bytes of a number in a binary .ply, by its name. */
const BYTES: Readonly<Record<string, number>> = {
  char: 1,
  uchar: 1,
  int8: 1,
  uint8: 1,
  short: 2,
  ushort: 2,
  int16: 2,
  uint16: 2,
  int: 4,
  uint: 4,
  int32: 4,
  uint32: 4,
  float: 4,
  float32: 4,
  double: 8,
  float64: 8,
};

/** No header that a program writes is longer. */
const LONGEST_HEADER = 64 * 1024;
/** More than any geometry that is read has. */
const MOST_ITEMS = 20e6;
/** A number of an ASCII file takes at least a digit and what parts it from the next. */
const ASCII_NUMBER = 2;

/**
 * What is wrong with a .ply by its header, held against the bytes that are there; null when nothing is. Looked at before anything is allocated: a header
 * may claim any number of vertices.
 */
export function wrongWithPly(bytes: Uint8Array): string | null {
  const head = new TextDecoder('latin1').decode(bytes.subarray(0, LONGEST_HEADER));
  if (!/^ply\r?\n/.test(head)) return 'it does not begin with "ply"';
  const end = /(^|\n)end_header\r?\n/.exec(head);
  if (!end) return 'its header has no end';
  const body = end.index + end[0].length;
  let ascii: boolean | null = null;
  let count = 0;
  let least = 0;
  for (const line of head.slice(0, end.index).split(/\r?\n/)) {
    const words = line.trim().split(/\s+/);
    if (words[0] === 'format') {
      if (!/^(ascii|binary_(little|big)_endian)$/.test(words[1] ?? '')) return `its format "${words[1] ?? ''}" is not known`;
      ascii = words[1] === 'ascii';
    } else if (words[0] === 'element') {
      count = Number(words[2]);
      if (!Number.isInteger(count) || count < 0) return `its header says "${line.trim()}"`;
      if (count > MOST_ITEMS) return `its header claims ${String(count)} of "${words[1] ?? ''}"; ${String(MOST_ITEMS)} are the most`;
    } else if (words[0] === 'property') {
      if (ascii === null) return 'its header says no format';
      // A list has at least its length.
      const size = BYTES[words[1] === 'list' ? (words[2] ?? '') : (words[1] ?? '')];
      if (size === undefined) return `its header says "${line.trim()}"`;
      least += count * (ascii ? ASCII_NUMBER : size);
    }
  }
  if (ascii === null) return 'its header says no format';
  // The last number of an ASCII file needs nothing behind it.
  if (least > bytes.length - body + 1)
    return `its header claims more than the file holds: at least ${String(least)} bytes, where there are ${String(bytes.length - body)}`;
  return null;
}

// IEEE binary16, round to nearest even, subnormals kept (bit-exact with the OpenVDB library's).
const floats = new Float32Array(1);
const words = new Uint32Array(floats.buffer);

export function toHalf(value: number): number {
  floats[0] = value;
  return halfOfBits(words[0] ?? 0);
}

/** The half of a float32 that is given by its bits: whoever has an array of floats reads it as words and converts without a store and a load each. */
export function halfOfBits(x: number): number {
  const sign = (x >>> 16) & 0x8000;
  const magnitude = x & 0x7fffffff;
  if (magnitude >= 0x47800000) {
    // Too large, infinite or NaN (which keeps a set bit).
    return sign | (magnitude > 0x7f800000 ? 0x7e00 : 0x7c00);
  }
  if (magnitude < 0x38800000) {
    // Subnormal in half: the mantissa with its hidden bit, shifted into place.
    if (magnitude < 0x33000000) return sign;
    const exponent = magnitude >>> 23;
    const mantissa = (magnitude & 0x7fffff) | 0x800000;
    const shift = 126 - exponent;
    const rest = mantissa & ((1 << shift) - 1);
    const half = 1 << (shift - 1);
    let m = mantissa >>> shift;
    if (rest > half || (rest === half && (m & 1) === 1)) m++;
    return sign | m;
  }
  const rounded = magnitude - 0x38000000 + 0xfff + ((magnitude >>> 13) & 1);
  return sign | Math.min(rounded >>> 13, 0x7c00);
}

export function fromHalf(half: number): number {
  const sign = half & 0x8000 ? -1 : 1;
  const exponent = (half >>> 10) & 31;
  const mantissa = half & 0x3ff;
  if (exponent === 0) return sign * mantissa * 2 ** -24;
  if (exponent === 31) return mantissa ? NaN : sign * Infinity;
  return sign * (1 + mantissa / 1024) * 2 ** (exponent - 15);
}

/** All 65536 values: reading widens by looking up. */
let table: Float32Array | null = null;
export const halfTable = (): Float32Array => (table ??= Float32Array.from({ length: 65536 }, (_, n) => fromHalf(n)));

export const roundToHalf = (value: number): number => fromHalf(toHalf(value));

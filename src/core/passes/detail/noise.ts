import { fft3, mulberry32, wavesOf } from '#core/math';

/** Points a side of the noise; the kernel (assembly/upscale.ts) has the same number. */
export const NOISE = 64;
/** Waves over a side: one octave. The shortest wave is 4 points, so that splines over 3 points follow it. */
const [FEWEST, MOST] = [8, 16];
/** Points of the shortest wave. */
export const SHORTEST = NOISE / MOST;

/**
 * Three independent noises of one octave that repeat after NOISE points, as the components of a vector potential: nothing of them lies outside of the band. Their
 * curl has a root mean square of 1 (per point), and an energy that falls with the wavenumber to the power -5/3. The values are coefficients of
 * quadratic B-splines that pass through the noise, 4 floats a point (the last is not used), x fastest.
 */
export function bandNoise(seed: number): Float32Array {
  const side = NOISE;
  const points = side ** 3;
  const random = mulberry32(seed ^ 0x51ab3);
  // Filters along an axis of a spline through its points: (6 + 2 cos) / 8.
  const spline = Float64Array.from({ length: side }, (_v, n) => (6 + 2 * Math.cos((2 * Math.PI * n) / side)) / 8);
  const parts = [0, 1, 2].map(() => {
    const data = new Float64Array(2 * points);
    for (let n = 0; n < points; n++) data[2 * n] = random() - 0.5;
    fft3(data, [side, side, side], false);
    return data;
  }) as [Float64Array, Float64Array, Float64Array];
  let squares = 0;
  let n = 0;
  for (let z = 0; z < side; z++) {
    const kz = wavesOf(z, side);
    for (let y = 0; y < side; y++) {
      const ky = wavesOf(y, side);
      for (let x = 0; x < side; x++, n++) {
        const kx = wavesOf(x, side);
        const k = Math.hypot(kx, ky, kz);
        const inside = k >= FEWEST && k < MOST;
        // The energy of a shell is 4 pi k^2 |k x A|^2: |A| goes with k to the power -17/6.
        const gain = inside ? k ** (-17 / 6) : 0;
        for (const p of parts) {
          p[2 * n] = (p[2 * n] ?? 0) * gain;
          p[2 * n + 1] = (p[2 * n + 1] ?? 0) * gain;
        }
        if (!inside) continue;
        const per = (2 * Math.PI) / side;
        for (const c of [0, 1]) {
          const [ax, ay, az] = parts.map((p) => p[2 * n + c] ?? 0) as [number, number, number];
          squares += ((ky * az - kz * ay) ** 2 + (kz * ax - kx * az) ** 2 + (kx * ay - ky * ax) ** 2) * per ** 2;
        }
        const soft = (spline[x] ?? 1) * (spline[y] ?? 1) * (spline[z] ?? 1);
        for (const p of parts) {
          p[2 * n] = (p[2 * n] ?? 0) / soft;
          p[2 * n + 1] = (p[2 * n + 1] ?? 0) / soft;
        }
      }
    }
  }
  // Parseval: the mean square over the points is the sum of the squares over points^2.
  const scale = points / Math.sqrt(squares);
  const out = new Float32Array(4 * points);
  parts.forEach((p, c) => {
    fft3(p, [side, side, side], true);
    for (let m = 0; m < points; m++) out[4 * m + c] = (p[2 * m] ?? 0) * scale;
  });
  return out;
}

/** One octave of what is added: wavelengths from `longest` down to half of it. */
export interface Octave {
  /** Base voxels. */
  readonly longest: number;
  /** Root mean square of its velocity, of that of the base's finest band. */
  readonly share: number;
}

/** Middle of the band whose energy is measured in the base (band.ts), base voxels. */
const MEASURED = 5;

/**
 * Octaves from the largest size down to the smallest one. An octave's velocity is 2^(-1/3) of the one above (Kolmogorov); the last one counts for the part of
 * it that lies above the smallest size.
 */
export function octavesOf(largest: number, smallest: number): Octave[] {
  const octaves: Octave[] = [];
  for (let longest = largest; longest > smallest * (1 + 1e-6) && octaves.length < 8; longest /= 2) {
    const part = Math.min(1, Math.log2(longest / smallest));
    octaves.push({ longest, share: Math.cbrt(longest / Math.SQRT2 / MEASURED) * Math.sqrt(part) });
  }
  return octaves;
}

import FFT from 'fft.js';

/**
 * In place: the discrete Fourier transform of a box of complex numbers (real and imaginary part in turn, x fastest), not scaled; `inverse` with the 1 / n.
 * Sides are powers of two, at least 2; a side of 1 is left alone.
 */
export function fft3(data: Float64Array, sides: readonly [number, number, number], inverse: boolean): void {
  const [nx, ny, nz] = sides;
  const strides = [1, nx, nx * ny] as const;
  sides.forEach((n, axis) => {
    if (n < 2) return;
    const fft = new FFT(n);
    const line = new Float64Array(2 * n);
    const out = new Float64Array(2 * n);
    const stride = strides[axis] ?? 1;
    const lines = (nx * ny * nz) / n;
    for (let l = 0; l < lines; l++) {
      // The lowest index of the line: its other two indices, counted through.
      const first = (l % stride) + Math.floor(l / stride) * stride * n;
      for (let m = 0, o = 2 * first; m < n; m++, o += 2 * stride) {
        line[2 * m] = data[o] ?? 0;
        line[2 * m + 1] = data[o + 1] ?? 0;
      }
      if (inverse) fft.inverseTransform(out, line);
      else fft.transform(out, line);
      for (let m = 0, o = 2 * first; m < n; m++, o += 2 * stride) {
        data[o] = out[2 * m] ?? 0;
        data[o + 1] = out[2 * m + 1] ?? 0;
      }
    }
  });
}

/** Of index n of a transform over `side` points: its whole number of waves, negative in the upper half. */
export const wavesOf = (n: number, side: number): number => (n <= side / 2 ? n : n - side);

declare module 'fft.js' {
  /** Fast Fourier transform of complex numbers, interleaved; radix 4, sizes are powers of two. */
  export default class FFT {
    constructor(size: number);
    transform(out: Float64Array, data: Float64Array): void;
    inverseTransform(out: Float64Array, data: Float64Array): void;
  }
}

import { hash3 } from './random';

const fade = (t: number): number => t * t * t * (t * (t * 6 - 15) + 10);
const lerp = (a: number, b: number, t: number): number => a + (b - a) * t;

/** One of 32 gradients: three of the four components +-1, one 0. */
function gradient(hash: number, x: number, y: number, z: number, t: number): number {
  const zero = (hash >> 3) & 3;
  const a = zero === 0 ? y : x;
  const b = zero <= 1 ? z : y;
  const c = zero === 3 ? z : t;
  return (hash & 1 ? -a : a) + (hash & 2 ? -b : b) + (hash & 4 ? -c : c);
}

/**
 * Gradient noise in four dimensions (Perlin 2002, improved noise); the fourth is time. Roughly in [-1, 1], mean 0,
 * feature size 1. Deterministic in its seed.
 */
function gradientNoise4(x: number, y: number, z: number, t: number, seed: number): number {
  const xi = Math.floor(x);
  const yi = Math.floor(y);
  const zi = Math.floor(z);
  const ti = Math.floor(t);
  const xf = x - xi;
  const yf = y - yi;
  const zf = z - zi;
  const tf = t - ti;
  const u = fade(xf);
  const v = fade(yf);
  const w = fade(zf);
  let previous = 0;
  for (let m = 0; m < 2; m++) {
    const s = seed + Math.imul(ti + m, 7919);
    const at = (dx: number, dy: number, dz: number): number =>
      gradient(hash3(xi + dx, yi + dy, zi + dz, s), xf - dx, yf - dy, zf - dz, tf - m);
    const low = lerp(lerp(at(0, 0, 0), at(1, 0, 0), u), lerp(at(0, 1, 0), at(1, 1, 0), u), v);
    const high = lerp(lerp(at(0, 0, 1), at(1, 0, 1), u), lerp(at(0, 1, 1), at(1, 1, 1), u), v);
    const value = lerp(low, high, w);
    if (m === 0) previous = value;
    else return lerp(previous, value, fade(tf));
  }
  return previous;
}

/** Octaves of gradient noise: each half the size and half the strength; time runs faster for the finer ones. */
export function fractalNoise(x: number, y: number, z: number, t: number, seed: number, octaves: number): number {
  let sum = 0;
  let weight = 1;
  let scale = 1;
  let total = 0;
  for (let o = 0; o < octaves; o++) {
    sum += weight * gradientNoise4(x * scale, y * scale, z * scale, t * Math.sqrt(scale), seed + o * 101);
    total += weight;
    weight *= 0.5;
    scale *= 2;
  }
  return sum / total;
}

import { hash3, type Vec3 } from '#core/math';
import type { KernelTeam } from '#core/grid';
import type { Turbulence } from './options';

/** Lattice points a side; the last layer repeats the first. */
const N = 64;
/** Lattice points across the largest eddy: the pattern repeats after N / EDDY of them. */
const EDDY = 16;

/** A turbulence field in memory: two curl noises that are blended in quadrature as time goes on, so that its strength stays the same. */
export interface TurbulenceLattice {
  readonly a: number;
  readonly b: number;
  readonly n: number;
}

const fade = (t: number): number => t * t * t * (t * (t * 6 - 15) + 10);

/** Periodic gradient noise in three dimensions on a lattice of `period` cells. */
function periodicNoise(x: number, y: number, z: number, period: number, seed: number): number {
  const [i, j, k] = [Math.floor(x), Math.floor(y), Math.floor(z)];
  const [fx, fy, fz] = [x - i, y - j, z - k];
  let sum = 0;
  for (let n = 0; n < 8; n++) {
    const [di, dj, dk] = [n & 1, (n >> 1) & 1, n >> 2];
    const h = hash3((i + di) % period, (j + dj) % period, (k + dk) % period, seed) % 12;
    const [dx, dy, dz] = [fx - di, fy - dj, fz - dk];
    const a = h < 8 ? dx : dy;
    const b = h < 4 ? dy : dz;
    const weight = fade(1 - Math.abs(dx)) * fade(1 - Math.abs(dy)) * fade(1 - Math.abs(dz));
    sum += weight * ((h & 1 ? -a : a) + (h & 2 ? -b : b));
  }
  return sum;
}

/** Curl of a vector of noise potentials (Bridson, Houriham, Nordenstam 2007), scaled to a root mean square of 1. */
function curlNoise(octaves: number, seed: number): Float32Array {
  const potential = [new Float64Array(N ** 3), new Float64Array(N ** 3), new Float64Array(N ** 3)] as const;
  for (let o = 0; o < octaves && EDDY >> o >= 2; o++) {
    const cell = EDDY >> o;
    const period = N / cell;
    // A velocity octave is 2^(-1/3) of the coarser one (Kolmogorov); the curl gains a factor 2 an octave.
    const weight = 2 ** ((-4 / 3) * o);
    for (let c = 0; c < 3; c++) {
      const target = potential[c as 0 | 1 | 2];
      let n = 0;
      for (let k = 0; k < N; k++) {
        for (let j = 0; j < N; j++) {
          for (let i = 0; i < N; i++) {
            target[n] = (target[n] ?? 0) + weight * periodicNoise(i / cell, j / cell, k / cell, period, seed + 31 * o + 7 * c);
            n++;
          }
        }
      }
    }
  }
  const at = (f: Float64Array, i: number, j: number, k: number): number =>
    f[((k + N) % N) * N * N + ((j + N) % N) * N + ((i + N) % N)] ?? 0;
  const [px, py, pz] = potential;
  const M = N + 1;
  const out = new Float32Array(M ** 3 * 4);
  let squares = 0;
  for (let k = 0; k < M; k++) {
    for (let j = 0; j < M; j++) {
      for (let i = 0; i < M; i++) {
        const o = ((k * M + j) * M + i) * 4;
        const x = at(pz, i, j + 1, k) - at(pz, i, j - 1, k) - at(py, i, j, k + 1) + at(py, i, j, k - 1);
        const y = at(px, i, j, k + 1) - at(px, i, j, k - 1) - at(pz, i + 1, j, k) + at(pz, i - 1, j, k);
        const z = at(py, i + 1, j, k) - at(py, i - 1, j, k) - at(px, i, j + 1, k) + at(px, i, j - 1, k);
        out[o] = x;
        out[o + 1] = y;
        out[o + 2] = z;
        squares += x * x + y * y + z * z;
      }
    }
  }
  const scale = 1 / Math.sqrt(squares / M ** 3);
  for (let n = 0; n < out.length; n++) out[n] = (out[n] ?? 0) * scale;
  return out;
}

/** The two noises of a field, as they lie in memory. */
export const noisesOf = (settings: Turbulence): readonly [Float32Array, Float32Array] => [
  curlNoise(settings.octaves, settings.seed),
  curlNoise(settings.octaves, settings.seed + 5000),
];

/** Acceleration of a field at a place of the world and a time, m/s^2; what the addNoise kernel adds in a second. */
export function turbulenceAt(
  [a, b]: readonly [Float32Array, Float32Array],
  settings: Turbulence,
  place: Vec3,
  drift: Vec3,
  time: number,
): Vec3 {
  const { gainA, gainB, offset } = noiseArguments(settings, place, 1, drift, time, 1);
  const M = N + 1;
  const [i, j, k] = offset.map((v) => Math.min(N - 1, Math.floor(v))) as [number, number, number];
  const out: [number, number, number] = [0, 0, 0];
  for (let n = 0; n < 8; n++) {
    const [di, dj, dk] = [n & 1, (n >> 1) & 1, n >> 2];
    const weight =
      (di ? offset[0] - i : 1 - offset[0] + i) * (dj ? offset[1] - j : 1 - offset[1] + j) * (dk ? offset[2] - k : 1 - offset[2] + k);
    const o = (((k + dk) * M + j + dj) * M + i + di) * 4;
    for (const c of [0, 1, 2] as const) out[c] += weight * (gainA * (a[o + c] ?? 0) + gainB * (b[o + c] ?? 0));
  }
  return out;
}

export function makeTurbulence(team: KernelTeam, settings: Turbulence): TurbulenceLattice {
  const place = (data: Float32Array): number => {
    const pointer = team.allocate(data.byteLength);
    team.floats(pointer, data.length).set(data);
    return pointer;
  };
  const [a, b] = noisesOf(settings);
  return { a: place(a), b: place(b), n: N };
}

/** Arguments of the addNoise kernel, after the lattices' pointers, at a time and for a step. `drift`: how far the wind has carried the pattern, metres. */
export function noiseArguments(
  settings: Turbulence,
  origin: Vec3,
  voxelSize: number,
  drift: Vec3,
  time: number,
  dt: number,
): { gainA: number; gainB: number; scale: number; offset: Vec3 } {
  const phase = (2 * Math.PI * time) / settings.change;
  const perMetre = EDDY / settings.size;
  const offset = (a: 0 | 1 | 2): number => {
    const p = (origin[a] * voxelSize - drift[a]) * perMetre;
    return p - N * Math.floor(p / N);
  };
  return {
    gainA: settings.strength * dt * Math.cos(phase),
    gainB: settings.strength * dt * Math.sin(phase),
    scale: voxelSize * perMetre,
    offset: [offset(0), offset(1), offset(2)],
  };
}

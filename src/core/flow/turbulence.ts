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

/**
 * Adds periodic gradient noise (Perlin 2002) to a lattice of N^3 points, `cell` of them to a cell of the noise. Along a row of points y and z stand
 * still: the four gradients at one x are summed once, into a share of x and a constant. Every run and every Sketch begins with these lattices: with all
 * eight corners for each point they took 1.1 s of the start of each.
 */
function addPeriodicNoise(target: Float64Array, cell: number, weight: number, seed: number): void {
  const period = N / cell;
  const gradients = new Uint8Array(period ** 3);
  for (let k = 0, n = 0; k < period; k++)
    for (let j = 0; j < period; j++) for (let i = 0; i < period; i++) gradients[n++] = hash3(i, j, k, seed) % 12;
  // Of a place within a cell: its distance from the lower and from the upper corner, and what each of them counts.
  const away = Float64Array.from({ length: 2 * cell }, (_v, n) => (n >> 1) / cell - (n & 1));
  const share = away.map((d) => fade(1 - Math.abs(d)));
  const alongX = new Float64Array(period + 1);
  const rest = new Float64Array(period + 1);
  for (let k = 0, n = 0; k < N; k++) {
    const ck = Math.floor(k / cell);
    const pk = 2 * (k - ck * cell);
    for (let j = 0; j < N; j++) {
      const cj = Math.floor(j / cell);
      const pj = 2 * (j - cj * cell);
      alongX.fill(0);
      rest.fill(0);
      for (let corner = 0; corner < 4; corner++) {
        const dj = corner & 1;
        const dk = corner >> 1;
        const dy = away[pj + dj] ?? 0;
        const dz = away[pk + dk] ?? 0;
        const counts = weight * (share[pj + dj] ?? 0) * (share[pk + dk] ?? 0);
        const row = (((ck + dk) % period) * period + ((cj + dj) % period)) * period;
        for (let i = 0; i <= period; i++) {
          const h = gradients[row + (i === period ? 0 : i)] ?? 0;
          const b = h < 4 ? dy : dz;
          const first = counts * (h & 1 ? -1 : 1);
          const second = counts * (h & 2 ? -b : b);
          if (h < 8) alongX[i] = (alongX[i] ?? 0) + first;
          rest[i] = (rest[i] ?? 0) + (h < 8 ? second : first * dy + second);
        }
      }
      for (let ci = 0; ci < period; ci++) {
        const lowX = alongX[ci] ?? 0;
        const lowRest = rest[ci] ?? 0;
        const highX = alongX[ci + 1] ?? 0;
        const highRest = rest[ci + 1] ?? 0;
        for (let p = 0; p < 2 * cell; p += 2, n++) {
          const low = (share[p] ?? 0) * (lowX * (away[p] ?? 0) + lowRest);
          const high = (share[p + 1] ?? 0) * (highX * (away[p + 1] ?? 0) + highRest);
          target[n] = (target[n] ?? 0) + low + high;
        }
      }
    }
  }
}

/** Curl of a vector of noise potentials (Bridson, Houriham, Nordenstam 2007), scaled to a root mean square of 1. */
function curlNoise(octaves: number, seed: number): Float32Array {
  const potential = [new Float64Array(N ** 3), new Float64Array(N ** 3), new Float64Array(N ** 3)] as const;
  for (let o = 0; o < octaves && EDDY >> o >= 2; o++) {
    const cell = EDDY >> o;
    // A velocity octave is 2^(-1/3) of the coarser one (Kolmogorov); the curl gains a factor 2 an octave.
    const weight = 2 ** ((-4 / 3) * o);
    potential.forEach((target, c) => {
      addPeriodicNoise(target, cell, weight, seed + 31 * o + 7 * c);
    });
  }
  const [px, py, pz] = potential;
  const M = N + 1;
  const out = new Float32Array(M ** 3 * 4);
  const wrapped = (n: number): number => (n + N) % N;
  let squares = 0;
  let o = 0;
  for (let k = 0; k < M; k++) {
    const [k0, kd, ku] = [wrapped(k) * N * N, wrapped(k - 1) * N * N, wrapped(k + 1) * N * N];
    for (let j = 0; j < M; j++) {
      const [j0, jd, ju] = [wrapped(j) * N, wrapped(j - 1) * N, wrapped(j + 1) * N];
      const here = k0 + j0;
      for (let i = 0; i < M; i++) {
        const i0 = i === N ? 0 : i;
        const left = here + (i0 === 0 ? N - 1 : i0 - 1);
        const right = here + (i0 === N - 1 ? 0 : i0 + 1);
        const below = k0 + jd + i0;
        const above = k0 + ju + i0;
        const behind = kd + j0 + i0;
        const before = ku + j0 + i0;
        const x = (pz[above] ?? 0) - (pz[below] ?? 0) - (py[before] ?? 0) + (py[behind] ?? 0);
        const y = (px[before] ?? 0) - (px[behind] ?? 0) - (pz[right] ?? 0) + (pz[left] ?? 0);
        const z = (py[right] ?? 0) - (py[left] ?? 0) - (px[above] ?? 0) + (px[below] ?? 0);
        out[o] = x;
        out[o + 1] = y;
        out[o + 2] = z;
        o += 4;
        squares += x * x + y * y + z * z;
      }
    }
  }
  const scale = 1 / Math.sqrt(squares / M ** 3);
  for (let n = 0; n < out.length; n++) out[n] = (out[n] ?? 0) * scale;
  return out;
}

/** The last few that were made, newest last: a Sketch begins anew with every change, and nearly always with the same noise. 4.4 MB each. */
const made = new Map<string, Float32Array>();
const MOST_KEPT = 4;

function keptNoise(octaves: number, seed: number): Float32Array {
  const key = `${String(octaves)} ${String(seed)}`;
  const noise = made.get(key) ?? curlNoise(octaves, seed);
  made.delete(key);
  made.set(key, noise);
  const [oldest] = made.keys();
  if (made.size > MOST_KEPT && oldest !== undefined) made.delete(oldest);
  return noise;
}

/** The two noises of a field, as they lie in memory; not to be written to. */
export const noisesOf = (settings: Turbulence): readonly [Float32Array, Float32Array] => [
  keptNoise(settings.octaves, settings.seed),
  keptNoise(settings.octaves, settings.seed + 5000),
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

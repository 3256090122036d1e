import type { PlainBounds } from '#core/flow';
import type { KernelTeam } from '#core/grid';
import { fft3 } from '#core/math';
import type { Lattice } from './lattice';

/** Kinetic energy over wavenumber along lines through the matter: of the base, and of what was made of it. */
export interface Spectra {
  /** Metres of the lines; the wave of number n (from 1 on) is this long, over n. */
  readonly length: number;
  /** (m/s)^2 a wave. */
  readonly base: readonly number[];
  readonly fine: readonly number[];
}

/** Base voxels a line, and from one line to the next. */
const LINE = 32;
const APART = 3;

/** The 2^n that is nearest to the fine voxels of a line. */
const pointsFor = (per: number): number => 2 ** Math.round(Math.log2(LINE * per));

/**
 * Spectra along x of all three components, over a cube of base voxels around the middle of the matter, with a Hann window, mean over the lines
 * (one-dimensional spectra, as they are measured in the wind: the fall to small waves and what is added there show as in three dimensions).
 */
export function spectraOf(
  velocity: Float32Array,
  lattice: Lattice,
  density: Float32Array,
  voxelSize: number,
  per: number,
  team: KernelTeam,
  bounds: Pick<PlainBounds, 'hierarchy' | 'window' | 'size'>,
  faces: { readonly u: number; readonly v: number; readonly w: number },
): Spectra | null {
  const [nx, ny, nz] = lattice.size;
  if (nx < LINE || ny < LINE || nz < LINE) return null;
  const first = cubeAround(density, lattice);
  if (!first) return null;
  const baseLine = new Float64Array(2 * LINE);
  const base = new Float64Array(LINE / 2);
  const points = pointsFor(per);
  const fineLine = new Float64Array(2 * points);
  const fine = new Float64Array(points / 2);
  const { sx, sp } = bounds.hierarchy.finest;
  const w = bounds.window;
  const fields = [faces.u, faces.v, faces.w].map((p) => team.floats(p, bounds.size));
  const strides = [1, sx, sp] as const;
  const inside = (i: number, j: number, k: number): boolean => i >= 0 && j >= 0 && k >= 0 && i < w.nx && j < w.ny && k < w.nz;
  let lines = 0;
  for (let k = 0; k < LINE; k += APART) {
    for (let j = 0; j < LINE; j += APART) {
      lines++;
      const row = ((first[2] + k) * ny + first[1] + j) * nx + first[0];
      // The fine voxel that holds the middle of the base voxel.
      const y = Math.floor((lattice.low[1] + first[1] + j + 0.5) * per) - w.oy;
      const z = Math.floor((lattice.low[2] + first[2] + k + 0.5) * per) - w.oz;
      for (let a = 0; a < 3; a++) {
        for (let i = 0; i < LINE; i++) {
          baseLine[2 * i] = hann(i, LINE) * (velocity[4 * (row + i) + a] as number);
          baseLine[2 * i + 1] = 0;
        }
        add(baseLine, LINE, base);
        const field = fields[a] as Float32Array;
        for (let i = 0; i < points; i++) {
          const x = Math.floor((lattice.low[0] + first[0] + ((i + 0.5) * LINE) / points) * per) - w.ox;
          const at = sp + sx + 4 + z * sp + y * sx + x;
          const v = inside(x, y, z) ? 0.5 * ((field[at] ?? 0) + (field[at + strides[a as 0 | 1 | 2]] ?? 0)) : 0;
          fineLine[2 * i] = hann(i, points) * v;
          fineLine[2 * i + 1] = 0;
        }
        add(fineLine, points, fine);
      }
    }
  }
  const round = (v: number): number => Number((v / lines).toPrecision(4));
  return { length: LINE * voxelSize, base: Array.from(base, round), fine: Array.from(fine, round) };
}

const hann = (i: number, n: number): number => Math.sin((Math.PI * (i + 0.5)) / n) ** 2;

/** Adds the energy of waves 1 to n / 2 of a line; it is lost for other use. */
function add(line: Float64Array, n: number, into: Float64Array): void {
  fft3(line, [n, 1, 1], false);
  for (let k = 1; k <= n / 2; k++) {
    // Half the square of an amplitude, both signs; the window lets 3/8 of it through.
    into[k - 1] = (into[k - 1] ?? 0) + ((line[2 * k] as number) ** 2 + (line[2 * k + 1] as number) ** 2) / n ** 2 / 0.375;
  }
}

function cubeAround(density: Float32Array, { size }: Lattice): [number, number, number] | null {
  const [nx, ny] = size;
  const sum = [0, 0, 0];
  let mass = 0;
  density.forEach((d, n) => {
    if (!(d > 0)) return;
    mass += d;
    sum[0] = (sum[0] ?? 0) + d * (n % nx);
    sum[1] = (sum[1] ?? 0) + d * (Math.floor(n / nx) % ny);
    sum[2] = (sum[2] ?? 0) + d * Math.floor(n / nx / ny);
  });
  if (mass === 0) return null;
  return size.map((n, a) => Math.min(n - LINE, Math.max(0, Math.round((sum[a] ?? 0) / mass - LINE / 2)))) as [number, number, number];
}

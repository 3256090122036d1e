import { afterEach, describe, expect, it } from 'vitest';
import { type Team, createTeam } from '#kernels';
import { fft3, wavesOf } from '#core/math';
import type { Lattice } from '../upscale';
import { NOISE, bandNoise, octavesOf } from './noise';
import { Places, logStretch, meanStretch } from './places';

const SIDE = 48;
const lattice: Lattice = { low: [-24, -24, -24], size: [SIDE, SIDE, SIDE] };
const POINTS = SIDE ** 3;
const teams: Team[] = [];
afterEach(() => {
  for (const t of teams.splice(0)) t.stop();
});

/** A lattice of points one metre apart with a velocity by a formula of the distance from its middle. */
function makePlaces(velocity: (x: number, y: number, z: number) => readonly number[]) {
  const team = createTeam({ threads: 1 });
  teams.push(team);
  const frame = team.allocate(28);
  team.words(frame, 3).set(lattice.size);
  const at = team.allocate(16 * POINTS);
  const field = team.floats(at, 4 * POINTS);
  let fastest = 0;
  for (let n = 0; n < POINTS; n++) {
    const v = velocity((n % SIDE) - 23.5, (Math.floor(n / SIDE) % SIDE) - 23.5, Math.floor(n / SIDE / SIDE) - 23.5);
    field.set(v, 4 * n);
    fastest = Math.max(fastest, ...v.map(Math.abs));
  }
  const places = new Places(team, 1);
  places.begin(lattice, null, null);
  return { team, places, step: (seconds: number) => places.carry(lattice, frame, at, fastest, 1, seconds) };
}
const everywhere = new Float32Array(POINTS).fill(1);
const TURN = 2 * Math.PI;
const turning = (x: number, _y: number, z: number): readonly number[] => [-z, 0, x, 0];

describe('texture coordinates', () => {
  it('in a rigid rotation say after a turn where everything has come from, and are not stretched', () => {
    const { places, step } = makePlaces(turning);
    for (let n = 0; n < 48; n++) {
      step(TURN / 4 / 48);
      places.age(new Float32Array(POINTS), 20, 1 / 48, null);
    }
    // A quarter of a turn: what is at (x, z) was at (z, -x).
    const field = places.layers[0].floats(4 * POINTS);
    let worst = 0;
    const inside = new Float32Array(POINTS);
    for (let n = 0; n < POINTS; n++) {
      const [x, z] = [(n % SIDE) - 23.5, Math.floor(n / SIDE / SIDE) - 23.5];
      if (Math.hypot(x, z) > 14) continue;
      inside[n] = 1;
      worst = Math.max(worst, Math.abs(field[4 * n]! - (z - x)), Math.abs(field[4 * n + 2]! - (-x - z)), Math.abs(field[4 * n + 1]!));
    }
    expect(worst).toBeLessThan(0.05);
    expect(meanStretch(field, lattice, inside)).toBeLessThan(0.01);
  });

  it('carry the noise through a turn with its spectrum within 10 %', () => {
    const { places, step } = makePlaces(turning);
    for (let n = 0; n < 96; n++) {
      step(TURN / 96);
      places.age(new Float32Array(POINTS), 20, 1 / 96, null);
    }
    const noise = bandNoise(2);
    // One octave at 8 to 4 points, as it is and as it is carried; spline and spectrum worked out here, not by the kernels.
    const value = (p: number): number => noise[4 * ((p + NOISE ** 3) % NOISE ** 3)]!;
    const spline = (x: number, y: number, z: number): number => {
      const c = [x, y, z].map((v) => Math.floor(v + 0.5)) as [number, number, number];
      const w = [x, y, z].map((v, a) => {
        const f = v - c[a]!;
        return [0.5 * (0.5 - f) ** 2, 0.75 - f * f, 0.5 * (0.5 + f) ** 2];
      });
      let sum = 0;
      const wrap = (v: number): number => ((v % NOISE) + NOISE) % NOISE;
      for (let n = 0; n < 27; n++) {
        const [i, j, k] = [n % 3, Math.floor(n / 3) % 3, Math.floor(n / 9)] as const;
        sum += w[0]![i]! * w[1]![j]! * w[2]![k]! * value((wrap(c[2] + k - 1) * NOISE + wrap(c[1] + j - 1)) * NOISE + wrap(c[0] + i - 1));
      }
      return sum;
    };
    const field = places.layers[0].floats(4 * POINTS);
    const N = 32;
    const spectrum = (carried: boolean): number[] => {
      const data = new Float64Array(2 * N ** 3);
      for (let n = 0; n < N ** 3; n++) {
        const at = [n % N, Math.floor(n / N) % N, Math.floor(n / N / N)] as const;
        const p = ((at[2] + 8) * SIDE + at[1] + 8) * SIDE + at[0] + 8;
        const window = at.reduce<number>((w, v) => w * Math.sin((Math.PI * (v + 0.5)) / N) ** 2, 1);
        const [x, y, z] = at.map((v, a) => v + (carried ? field[4 * p + a]! : 0)) as [number, number, number];
        data[2 * n] = window * spline(x, y, z);
      }
      fft3(data, [N, N, N], false);
      const shells = [0, 0, 0, 0];
      for (let n = 0; n < N ** 3; n++) {
        const k = Math.hypot(wavesOf(n % N, N), wavesOf(Math.floor(n / N) % N, N), wavesOf(Math.floor(n / N / N), N));
        if (k >= 3 && k < 9) shells[Math.min(3, Math.floor((k - 3) / 1.5))]! += data[2 * n]! ** 2 + data[2 * n + 1]! ** 2;
      }
      return shells;
    };
    const [before, after] = [spectrum(false), spectrum(true)];
    before.forEach((e, n) => expect(after[n]! / e).toBeCloseTo(1, 1));
  });

  it('are renewed when what they are carried by has stretched them, one layer after the other, and both count one in energy always', () => {
    // Drawn out along x, pressed together along y: the log of the stretch grows by the rate.
    const { places, step } = makePlaces((x, y) => [Math.max(-3, Math.min(3, 0.25 * x)), Math.max(-3, Math.min(3, -0.25 * y)), 0, 0]);
    const inside = new Float32Array(POINTS);
    for (let n = 0; n < POINTS; n++) if (Math.hypot((n % SIDE) - 23.5, (Math.floor(n / SIDE) % SIDE) - 23.5) < 8) inside[n] = 1;
    const renewals: number[] = [];
    let last = 0;
    for (let n = 0; n < 80; n++) {
      step(0.2);
      places.age(inside, 2, 0.2, null);
      const sum = places.phases.renewed[0] + places.phases.renewed[1];
      if (sum !== last) renewals.push(n);
      last = sum;
      expect(Math.hypot(...places.shares)).toBeCloseTo(1, 10);
      expect(Math.exp(Math.max(...places.phases.stretch))).toBeLessThan(2.15);
    }
    // ln 2 / 0.25 = 2.8 s of 0.2 s: a life of 14 steps, so a renewal every 7.
    const gaps = renewals.slice(2).map((r, n) => r - renewals[n + 1]!);
    expect(gaps.length).toBeGreaterThan(5);
    for (const g of gaps) expect(g).toBeGreaterThanOrEqual(5);
    for (const g of gaps) expect(g).toBeLessThanOrEqual(9);
  });

  it('are renewed after the time that is asked for when nothing stretches them', () => {
    const { places, step } = makePlaces(() => [0, 0, 0, 0]);
    for (let n = 0; n < 40; n++) {
      step(0.1);
      places.age(everywhere, 2, 0.1, 2);
    }
    expect(places.phases.renewed).toEqual([2, 2]);
  });
});

describe('the stretch of a matrix', () => {
  it('is the log of its largest factor in any direction, whichever way it turns', () => {
    const turned = (a: number, x: number, y: number, z: number): Float64Array =>
      Float64Array.of(x * Math.cos(a), -y * Math.sin(a), 0, x * Math.sin(a), y * Math.cos(a), 0, 0, 0, z);
    expect(logStretch(turned(0.7, 3, 1, 1))).toBeCloseTo(Math.log(3), 9);
    expect(logStretch(turned(1.2, 1, 0.25, 2))).toBeCloseTo(Math.log(4), 9);
    expect(logStretch(turned(0.4, 1, 1, 1))).toBeCloseTo(0, 9);
  });
});

describe('octaves', () => {
  it('halve from the largest to the smallest size, and fall as turbulence does', () => {
    const [a, b] = octavesOf(4, 1);
    expect([a!.longest, b!.longest]).toEqual([4, 2]);
    expect(b!.share / a!.share).toBeCloseTo(2 ** (-1 / 3), 9);
    // Half of an octave, by energy.
    expect(octavesOf(4, 4 / Math.SQRT2)[0]!.share / a!.share).toBeCloseTo(Math.SQRT1_2, 9);
    expect(octavesOf(2, 2)).toEqual([]);
  });
});

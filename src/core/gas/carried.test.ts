import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { allClosed, gasOptions, runGas as run, solid, voxelsOf } from '#testing';
import { type Team, createTeam } from '#kernels';
import type { TileGrid } from '#core/grid';
import type { Move } from '#core/moves';
import { type GasFrame, type GasOptions, type GasSource, channelsOf } from '.';

let team: Team;
beforeEach(() => {
  team = createTeam({ threads: 1 });
});
afterEach(() => {
  team.stop();
});

const base = gasOptions().sources[0] as GasSource;
const ball = (x: number, colour: readonly [number, number, number], more: Partial<GasSource> = {}): GasSource => ({
  ...base,
  shape: { kind: 'ball', centre: [x, 1.2, 1.6], radius: 0.4 },
  colour,
  ...more,
});
const options = (sources: readonly GasSource[], more: Parameters<typeof gasOptions>[0] = {}): GasOptions => ({
  ...gasOptions({ lastFrame: 8, matter: { colour: true }, bounds: { cutOff: 1e-4 }, ...more }),
  sources,
});
const runGas = (t: Team, of: GasOptions, extras: Parameters<typeof run>[2] = {}): GasFrame[] =>
  run(t, of, { channels: channelsOf(of), ...extras });
const grid = (frame: GasFrame, name: string): TileGrid => frame.grids.find((g) => g.name === name)!;

/** Calls with world voxel, density and vector of every voxel that has one. */
function each(frame: GasFrame, name: string, visit: (at: number[], density: number, vector: number[]) => void): void {
  const [density, vectors] = [grid(frame, 'density'), grid(frame, name)];
  for (let t = 0; t < vectors.origins.length / 3; t++) {
    for (let n = 0; n < 512; n++) {
      if (((vectors.masks[t * 64 + (n >> 3)] ?? 0) & (1 << (n & 7))) === 0) continue;
      const at = [n >> 6, (n >> 3) & 7, n & 7].map((v, a) => v + (vectors.origins[3 * t + a] ?? 0));
      visit(
        at,
        density.values[t * 512 + n] ?? 0,
        [0, 1, 2].map((c) => vectors.values[(t * 512 + n) * 3 + c] ?? 0),
      );
    }
  }
}
const last = (frames: readonly GasFrame[]): GasFrame => frames[frames.length - 1]!;

describe('colour', () => {
  for (const scheme of ['linear', 'maccormack', 'bfecc', 'cubic', 'ppm'] as const) {
    it(`of one source is the same everywhere, to the thinnest edge (${scheme})`, () => {
      const colour = [0.8, 0.3, 0.1] as const;
      // Decay, cut-off and sharpening change the density under it.
      const matter = { colour: true, scalarAdvection: scheme, decayTime: 0.5, decayRate: 0.05, sharpening: 4, keepsMass: true } as const;
      const frames = runGas(team, options([ball(1.6, colour)], { matter }));
      let worst = 0;
      let count = 0;
      each(last(frames), 'colour', (_at, density, vector) => {
        if (density < 0.01) return;
        count++;
        vector.forEach((v, c) => (worst = Math.max(worst, Math.abs(v - colour[c]!))));
      });
      expect(count).toBeGreaterThan(450);
      expect(worst).toBeLessThan(1e-4);
    });
  }

  // With a correction each amount is limited by its own neighbours: their sum is then not the density to the last digit where two smokes meet.
  for (const [scheme, most] of [
    ['linear', 1e-4],
    ['maccormack', 0.02],
    ['cubic', 0.02],
    ['ppm', 0.02],
  ] as const) {
    it(`of two smokes mixes by their densities, and nothing but the two is in it (${scheme})`, () => {
      const sources = [ball(1.1, [1, 0, 0], { velocity: [2, 0, 0] }), ball(2.1, [0, 0, 1], { velocity: [-2, 0, 0] })];
      const frames = runGas(team, options(sources, { lastFrame: 14, matter: { colour: true, scalarAdvection: scheme } }));
      const sums = { mass: 0, red: 0, blue: 0, off: 0, mixed: 0 };
      each(last(frames), 'colour', (_at, density, [r, g, b]) => {
        if (density < 0.01) return;
        expect(g).toBe(0);
        if (Math.min(r!, b!) > 0.2) sums.mixed++;
        sums.mass += density;
        sums.off += density * Math.abs(r! + b! - 1);
        sums.red += density * r!;
        sums.blue += density * b!;
      });
      // They meet head on: nothing crosses the plane between them but what a scheme smears. The conservative one smears none.
      if (scheme === 'ppm') expect(sums.mixed).toBe(0);
      else expect(sums.mixed).toBeGreaterThan(50);
      expect(sums.off / sums.mass).toBeLessThan(most);
      // The set-up is the same from both sides.
      expect(sums.red / sums.blue).toBeCloseTo(1, 2);
    });
  }

  it('of a source that holds its amount takes the place of what was there; one that adds is mixed in', () => {
    const still = { lift: 0, sinking: 0, colour: true };
    const later = (mode: 'set' | 'add'): GasSource[] => [
      ball(1.6, [1, 0, 0], { to: 4, heat: null }),
      ball(1.6, [0, 1, 0], { from: 5, heat: null, mode, density: mode === 'add' ? 24 : 1 }),
    ];
    const middle = (mode: 'set' | 'add'): number[] => {
      let found: number[] = [];
      each(last(runGas(team, options(later(mode), { lastFrame: 5, matter: still }))), 'colour', (at, _d, vector) => {
        if (at[0] === 16 && at[1] === 12 && at[2] === 16) found = vector;
      });
      team.reset();
      return found;
    };
    expect(middle('set')[1]).toBeCloseTo(1, 3);
    // A frame of 24 a second is as much as was there.
    expect(middle('add')[0]).toBeCloseTo(0.5, 2);
    expect(middle('add')[1]).toBeCloseTo(0.5, 2);
  });

  it('goes with what a moving solid sweeps, and costs nothing where it is not carried', () => {
    const keys = (from: number, to: number): Move => ({
      kind: 'keys',
      keys: [
        { frame: 1, value: from, then: 'straight', arrive: null, leave: null },
        { frame: 8, value: to, then: 'straight', arrive: null, leave: null },
      ],
    });
    const paddle = solid({
      shape: { kind: 'box', centre: [0.6, 1.2, 1.6], size: [0.3, 1, 1], rotation: [0, 0, 0] },
      moves: { 'shape.centre.x': keys(0.6, 1.4) },
    });
    const swept = options([ball(1.6, [0.2, 0.9, 0.4])], { bounds: { walls: allClosed } });
    const frames = runGas(team, { ...swept, solids: [paddle] });
    each(last(frames), 'colour', (_at, density, [r, g]) => {
      if (density > 0.02) expect(r! / g!).toBeCloseTo(0.2 / 0.9, 1);
    });
    const without = { ...swept, matter: { ...swept.matter, colour: false } };
    team.reset();
    const plain = runGas(team, { ...without, solids: [paddle] });
    expect(last(plain).report.mass.end).toBe(last(frames).report.mass.end);
    expect(last(plain).report.memoryBytes).toBeLessThan(last(frames).report.memoryBytes);
    expect(last(plain).grids.map((g) => g.name)).not.toContain('colour');
  });
});

describe('texture coordinates', () => {
  it('say where in the box of its source matter came from: a still cloud is a ramp, and rising keeps it', () => {
    const source = ball(1.6, [1, 1, 1], {
      shape: { kind: 'box', centre: [1.6, 0.8, 1.6], size: [0.8, 0.8, 0.8], rotation: [0, 0, 0] },
      to: 1,
    });
    const run = (lift: number): GasFrame => last(runGas(team, options([source], { lastFrame: 6, matter: { coordinates: true, lift } })));
    let off = 0;
    each(run(0), 'uvw', (at, density, uvw) => {
      if (density < 0.5) return;
      [1.2, 0.4, 1.2].forEach((low, a) => (off = Math.max(off, Math.abs(((at[a]! + 0.5) * 0.1 - low) / 0.8 - uvw[a]!))));
    });
    expect(off).toBeLessThan(0.02);
    team.reset();
    // Carried upwards, u still tells left from right.
    const [left, right] = [
      [0, 0],
      [0, 0],
    ];
    each(run(0.2), 'uvw', (at, density, [u]) => {
      const side = (at[0]! + 0.5) * 0.1 < 1.6 ? left : right;
      side[0]! += density * u!;
      side[1]! += density;
    });
    expect(left[0]! / left[1]!).toBeLessThan(0.35);
    expect(right[0]! / right[1]!).toBeGreaterThan(0.65);
  });
});

describe('a picture masks emission', () => {
  // Bright on the left of the picture, dark on the right; the upper right corner is grey.
  const picture = { width: 2, height: 2, values: Float32Array.from([1, 0.5, 1, 0]) };
  const box = { kind: 'box', centre: [1.6, 1.2, 1.6], size: [1.6, 1.6, 1.6], rotation: [0, 0, 0] } as const;
  const density = (from: 'front' | 'right' | 'above', place: readonly [number, number, number], inverted = false): number => {
    const mask = { picture: 'p', from, inverted };
    const source: GasSource = { ...base, shape: box, heat: null, mask };
    const frames = runGas(team, options([source], { lastFrame: 1, firstFrameSolved: false }), { pictures: () => picture });
    team.reset();
    const [x, y, z] = place.map((v) => Math.floor(v / 0.1)) as [number, number, number];
    return voxelsOf(last(frames), 'density')(x, y, z);
  };
  it('from the front: left and right as it hangs there, its upper edge up', () => {
    expect(density('front', [0.95, 0.6, 1.6])).toBeCloseTo(1, 2);
    expect(density('front', [2.25, 0.55, 1.6])).toBeLessThan(0.02);
    expect(density('front', [2.25, 1.85, 1.6])).toBeCloseTo(0.5, 1);
  });
  it('from the right its left is the front of the box; from above its upper edge lies at the back', () => {
    expect(density('right', [1.6, 0.55, 2.25])).toBeCloseTo(1, 1);
    expect(density('right', [1.6, 0.55, 0.95])).toBeLessThan(0.05);
    expect(density('above', [2.25, 1.2, 0.95])).toBeCloseTo(0.5, 1);
    expect(density('above', [2.25, 1.2, 2.25])).toBeLessThan(0.05);
  });
  it('inverted, dark places emit; a picture that is missing is said', () => {
    expect(density('front', [2.25, 0.55, 1.6], true)).toBeGreaterThan(0.98);
    const source: GasSource = { ...base, mask: { picture: 'p', from: 'front', inverted: false } };
    expect(() => runGas(team, options([source]))).toThrow(/picture/);
  });
});

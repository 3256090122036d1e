import { describe, expect, it } from 'vitest';
import { allClosed, gasOptions, runGas, solid, voxelsOf, withTeam } from '#testing';
import type { GasFrame, GasSource } from '.';

const emits = (change: Partial<GasSource>): GasSource => ({
  ...gasOptions().sources[0]!,
  heat: null,
  velocity: null,
  noise: null,
  ...change,
});
const run = (source: GasSource, over: Parameters<typeof gasOptions>[0] = {}): Promise<GasFrame[]> =>
  withTeam(1, (team) =>
    runGas(
      team,
      gasOptions({
        lastFrame: 3,
        bounds: { mode: 'dense', limit: { min: [0, 0, 0], max: [1.6, 1.6, 1.6] }, walls: allClosed },
        forces: { windTime: null },
        matter: { lift: 0, sinking: 0, coolingTime: null },
        ...over,
        sources: [source],
      }),
    ),
  );
const last = (f: GasFrame[]): GasFrame => f[f.length - 1]!;
const ball = (x: number, y: number, radius: number) => ({ kind: 'ball' as const, centre: [x, y, 0.8] as const, radius });

describe('what decides about emission besides', () => {
  it('near solids: it emits where a solid or a closed wall is within reach, and nowhere else', async () => {
    const wide = { kind: 'box' as const, centre: [0.8, 0.8, 0.8] as const, size: [1.6, 1.6, 1.6] as const, rotation: [0, 0, 0] as const };
    const frames = await run(emits({ shape: wide, contact: { reach: 0.25, trail: null } }), {
      solids: [solid({ shape: ball(0.8, 0.8, 0.3) })],
    });
    const d = voxelsOf(last(frames), 'density');
    // Beside the ball, by the floor; the middle between ball and corner stays clear.
    expect(d(8, 11, 8)).toBeGreaterThan(0.5);
    expect(d(4, 0, 4)).toBeGreaterThan(0.5);
    expect(d(3, 3, 3)).toBe(0);
    expect(d(12, 12, 3)).toBe(0);
  });

  it('a trail stays where a thing has touched, and fades', async () => {
    // A source that runs over a plate: two frames in touch, then gone.
    const over: GasSource = emits({
      mode: 'add',
      density: 24,
      shape: ball(0.8, 0.35, 0.2),
      contact: { reach: 0.2, trail: 0.2 },
      moves: { 'shape.centre.y': { kind: 'expression', text: 'min(0.9, 0.35 + 8 * max(0, time - 1/24))' } },
    });
    const plate = { kind: 'box' as const, centre: [0.8, 0, 0.8] as const, size: [4, 0.5, 4] as const, rotation: [0, 0, 0] as const };
    const of = (trail: number | null): Promise<GasFrame[]> =>
      run({ ...over, contact: { reach: 0.2, trail } }, { lastFrame: 10, solids: [solid({ shape: plate })] });
    const [with_, without] = [await of(0.2), await of(null)];
    const brought = (f: GasFrame[], n: number): number => f[n]!.report.mass.sources;
    expect(brought(without, 6)).toBe(0);
    expect(brought(with_, 6)).toBeGreaterThan(0);
    // A frame later 1/e^(1/24/0.2) of it.
    expect(brought(with_, 7) / brought(with_, 6)).toBeCloseTo(Math.exp(-1 / 24 / 0.2), 1);
  });

  it('velocity by density leaves thin parts alone', async () => {
    const thin = (byDensity: boolean): Promise<GasFrame[]> =>
      run(emits({ shape: ball(0.8, 0.8, 0.5), density: 0.1, velocity: [2, 0, 0], byDensity }), { lastFrame: 1, firstFrameSolved: true });
    const speed = async (byDensity: boolean): Promise<number> => voxelsOf(last(await thin(byDensity)), 'vel')(8, 8, 8);
    const [all, part] = [await speed(false), await speed(true)];
    expect(part).toBeGreaterThan(0.02 * all);
    expect(part).toBeLessThan(0.2 * all);
  });

  it('stirring gives curls: much motion, little of it along any way', async () => {
    const frames = await run(emits({ shape: ball(0.8, 0.8, 0.6), stir: { speed: 2, size: 0.8, change: 1, octaves: 1, seed: 4 } }), {
      lastFrame: 1,
      firstFrameSolved: true,
    });
    const v = voxelsOf(last(frames), 'vel');
    const mean = [0, 0, 0];
    let sum = 0;
    let count = 0;
    for (let n = 0; n < 512; n++) {
      const p = [4 + (n & 7), 4 + ((n >> 3) & 7), 4 + (n >> 6)] as const;
      for (const a of [0, 1, 2]) {
        mean[a]! += v(...p, a);
        sum += v(...p, a) ** 2;
      }
      count++;
    }
    expect(Math.sqrt(sum / count)).toBeGreaterThan(0.6);
    expect(Math.sqrt(sum / count)).toBeLessThan(6);
    expect(Math.hypot(...mean) / count).toBeLessThan(0.6 * Math.sqrt(sum / count));
  });
});

describe('the time scale', () => {
  it('at a half gives the same states at twice as many frames, keys on the frames of the shot', async () => {
    const key = (frame: number, value: number) => ({ frame, value, then: 'straight' as const, arrive: null, leave: null });
    const plume = (frames: number): GasSource =>
      emits({ heat: 200, moves: { density: { kind: 'keys', keys: [key(1, 1), key(frames, 0.2)] } } });
    const at = (timeScale: number, lastFrame: number, each: number): Promise<GasFrame[]> =>
      run(plume(lastFrame), {
        lastFrame,
        firstFrameSolved: false,
        timeScale,
        framesPerSecond: 24 / timeScale,
        stepping: { minimum: each, maximum: each },
        matter: { lift: 0.02, coolingTime: null },
      });
    const [whole, half] = [await at(1, 4, 2), await at(0.5, 7, 1)];
    // But for the rounding of times, to the bit.
    half[6]!.grids.forEach((g, n) => {
      const other = whole[3]!.grids[n]!.values;
      expect(g.values.reduce((most, v, m) => Math.max(most, Math.abs(v - other[m]!)), 0)).toBeLessThan(1e-3);
    });
    expect(voxelsOf(half[6]!, 'density')(8, 8, 8)).not.toBe(voxelsOf(half[3]!, 'density')(8, 8, 8));
  });
});

describe('a source that holds its amount in still gas', () => {
  it('has it after any number of substeps: no more, no less', async () => {
    await withTeam(1, (team) => {
      const held = (substeps: number): number => {
        team.reset();
        const frames = runGas(
          team,
          gasOptions({
            lastFrame: 12,
            stepping: { minimum: substeps },
            sources: [{ ...gasOptions().sources[0]!, shape: { kind: 'ball', centre: [1.6, 1.6, 1.6], radius: 0.45 }, heat: null }],
            matter: { lift: 0, sinking: 0 },
          }),
        );
        return frames.at(-1)!.report.mass.end;
      };
      // The ball's own volume, to what voxels make of its surface.
      const volume = (4 / 3) * Math.PI * 0.45 ** 3;
      expect(Math.abs(held(1) / volume - 1)).toBeLessThan(0.01);
      expect(held(6)).toBe(held(1));
    });
  });
});

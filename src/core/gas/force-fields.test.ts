import { describe, expect, it } from 'vitest';
import { allClosed, allOpen, gasOptions, runGas, voxelsOf, withTeam } from '#testing';
import { type ForceField } from '#core/flow';
import { type GasFrame, type GasOptions } from '.';

const common = { shape: null, soft: 0, moves: {} } as const;
const calm = { lift: 0, sinking: 0 };
const run = (fields: readonly ForceField[], over: Parameters<typeof gasOptions>[0] = {}): Promise<GasFrame[]> =>
  withTeam(1, (team) => {
    const base = gasOptions({
      lastFrame: 4,
      sources: [],
      bounds: { mode: 'dense', limit: { min: [0, 0, 0], max: [1.6, 1.6, 1.6] }, walls: allClosed },
      matter: calm,
      ...over,
    });
    const options: GasOptions = { ...base, forces: { ...base.forces, windTime: null, fields } };
    return runGas(team, options);
  });
const last = (frames: GasFrame[]): GasFrame => frames[frames.length - 1]!;

describe('the list of forces', () => {
  it('a draught everywhere takes hold exponentially, whatever the substeps', async () => {
    const draught: ForceField = { ...common, kind: 'draught', velocity: [1.5, 0, 0], time: 0.2 };
    for (const minimum of [1, 5]) {
      const frames = await run([draught], {
        bounds: { mode: 'dense', limit: { min: [0, 0, 0], max: [1.6, 1.6, 1.6] }, walls: allOpen },
        stepping: { minimum, maximum: 8 },
      });
      const t = frames.filter((f) => f.report.substepsUsed > 0).length / 24;
      expect(voxelsOf(last(frames), 'vel')(8, 8, 8)).toBeCloseTo(1.5 * -Math.expm1(-t / 0.2), 1);
    }
  });

  it('a guide lends the velocity of its own shape where it is', async () => {
    const guide: ForceField = {
      kind: 'guide',
      shape: { kind: 'box', centre: [0.4, 0.8, 0.8], size: [0.8, 4, 4], rotation: [0, 0, 0] },
      soft: 0,
      factor: 2,
      time: 0.05,
      moves: { 'shape.centre.y': { kind: 'expression', text: '0.8 + 0.3 * time' } } as never,
    };
    const frames = await run([guide], { bounds: { mode: 'dense', limit: { min: [0, 0, 0], max: [1.6, 1.6, 1.6] }, walls: allOpen } });
    const t = frames.filter((f) => f.report.substepsUsed > 0).length / 24;
    const v = voxelsOf(last(frames), 'vel');
    expect(v(3, 8, 8, 1)).toBeGreaterThan(0.8 * 0.6 * -Math.expm1(-t / 0.05));
    expect(v(3, 8, 8, 1)).toBeLessThan(0.61);
    expect(v(14, 8, 8, 1)).toBeLessThan(0.3 * v(3, 8, 8, 1));
  });

  it('turbulence everywhere is the turbulence of old, to the bit', async () => {
    const eddies = { strength: 3, size: 0.8, change: 1, octaves: 2, seed: 3 };
    const listed = await run([{ ...common, kind: 'turbulence', ...eddies }]);
    const old = await withTeam(1, (team) => {
      const base = gasOptions({
        lastFrame: 4,
        sources: [],
        bounds: { mode: 'dense', limit: { min: [0, 0, 0], max: [1.6, 1.6, 1.6] }, walls: allClosed },
        matter: calm,
      });
      return runGas(team, { ...base, forces: { ...base.forces, windTime: null, turbulence: eddies } });
    });
    expect(last(listed).grids.find((g) => g.name === 'vel')?.values).toEqual(last(old).grids.find((g) => g.name === 'vel')?.values);
  });

  it('turbulence in a region moves the air there, and hardly elsewhere', async () => {
    const frames = await run([
      {
        kind: 'turbulence',
        strength: 5,
        size: 0.4,
        change: 1,
        octaves: 1,
        seed: 3,
        shape: { kind: 'box', centre: [0.4, 0.8, 0.8], size: [0.8, 4, 4], rotation: [0, 0, 0] },
        soft: 0.2,
        moves: {},
      },
    ]);
    const v = voxelsOf(last(frames), 'vel');
    const mean = (x: number): number => {
      let squares = 0;
      for (let n = 0; n < 256; n++) for (const c of [0, 1, 2]) squares += v(x, n & 15, n >> 4, c) ** 2;
      return Math.sqrt(squares / 256);
    };
    expect(mean(3)).toBeGreaterThan(0.1);
    expect(mean(14)).toBeLessThan(0.1 * mean(3));
  });

  it('drag slows what moves by its own law', async () => {
    // A draught everywhere in an open box against a drag: they meet at V t_drag / (t_drag + t_draught).
    const frames = await run(
      [
        { ...common, kind: 'draught', velocity: [1, 0, 0], time: 0.02 },
        { ...common, kind: 'drag', time: 0.02 },
      ],
      {
        lastFrame: 12,
        bounds: { mode: 'dense', limit: { min: [0, 0, 0], max: [1.6, 1.6, 1.6] }, walls: allOpen },
        stepping: { minimum: 8, maximum: 8 },
      },
    );
    // Split steps of 1/192 s: after the drag x = V (1 - a) b / (1 - a b), a = b = exp(-dt / 0.02).
    const a = Math.exp(-1 / 192 / 0.02);
    expect(voxelsOf(last(frames), 'vel')(8, 8, 8)).toBeCloseTo(((1 - a) * a) / (1 - a * a), 2);
  });

  it('attraction draws matter to its point, and pushes it away below 0', async () => {
    const blob = {
      sources: [
        {
          ...gasOptions().sources[0]!,
          shape: { kind: 'ball' as const, centre: [0.5, 0.8, 0.8] as const, radius: 0.25 },
          heat: null,
          to: 1,
        },
      ],
    };
    const centre = (f: GasFrame): number => {
      const d = voxelsOf(f, 'density');
      let [sum, moment] = [0, 0];
      for (let n = 0; n < 4096; n++) {
        const v = d(n & 15, (n >> 4) & 15, n >> 8);
        sum += v;
        moment += v * ((n & 15) + 0.5) * 0.1;
      }
      return moment / sum;
    };
    const pull = (strength: number): ForceField => ({ ...common, kind: 'attraction', centre: [1.2, 0.8, 0.8], strength, reach: 0.5 });
    const [to, from, still] = [
      await run([pull(12)], { ...blob, lastFrame: 8 }),
      await run([pull(-12)], { ...blob, lastFrame: 8 }),
      await run([], { ...blob, lastFrame: 8 }),
    ];
    expect(centre(last(to))).toBeGreaterThan(centre(last(still)) + 0.05);
    expect(centre(last(from))).toBeLessThan(centre(last(still)) - 0.02);
    expect(last(to).report.energy.forces).toBeGreaterThan(0);
  });

  it('curls in a region are those of the whole where the region is all there is', async () => {
    const spin = { kind: 'turbulence', strength: 6, size: 0.8, change: 1, octaves: 2, seed: 3, ...common } as const;
    const all = await run([spin, { ...common, kind: 'curls', confinement: 1 }]);
    const half = await run([
      spin,
      {
        kind: 'curls',
        confinement: 1,
        shape: { kind: 'box', centre: [0, 0, 0], size: [40, 40, 40], rotation: [0, 0, 0] },
        soft: 0.2,
        moves: {},
      },
    ]);
    const none = await run([spin]);
    expect(last(half).report.energy.kinetic).toBeCloseTo(last(all).report.energy.kinetic, 6);
    expect(last(all).report.energy.kinetic).toBeGreaterThan(1.02 * last(none).report.energy.kinetic);
  });
});

describe('smoothing', () => {
  it('of velocity takes energy and says how much; of heat it spreads and keeps it', async () => {
    const spin = { kind: 'turbulence', strength: 6, size: 0.8, change: 1, octaves: 2, seed: 3, ...common } as const;
    const rough = await run([spin]);
    const smooth = await run([spin], { matter: { ...calm, smoothing: 0.05 } });
    expect(last(smooth).report.energy.smoothing).toBeLessThan(0);
    expect(last(rough).report.energy.smoothing).toBe(0);
    expect(last(smooth).report.energy.kinetic).toBeLessThan(0.8 * last(rough).report.energy.kinetic);
  });
  it('of heat widens a hot spot as the heat equation does, whatever the substeps', async () => {
    const spot = {
      sources: [
        {
          ...gasOptions().sources[0]!,
          shape: { kind: 'ball' as const, centre: [0.8, 0.8, 0.8] as const, radius: 0.3 },
          density: null,
          heat: 100,
          velocity: null,
          noise: null,
          to: 1,
        },
      ],
    };
    const spreads: number[] = [];
    for (const minimum of [1, 4]) {
      const frames = await run([], {
        ...spot,
        lastFrame: 7,
        matter: { ...calm, coolingTime: null, heatSpread: 0.08 },
        stepping: { minimum, maximum: 8 },
      });
      const variance = (f: GasFrame): { total: number; spread: number } => {
        const t = voxelsOf(f, 'temperature');
        let [sum, moment] = [0, 0];
        for (let n = 0; n < 4096; n++) {
          const p = [n & 15, (n >> 4) & 15, n >> 8] as const;
          const heat = t(...p) - gasOptions().matter.ambient;
          sum += heat;
          moment += heat * p.reduce((s, v) => s + ((v + 0.5) * 0.1 - 0.8) ** 2, 0);
        }
        return { total: sum, spread: moment / sum };
      };
      const [from, to] = [variance(frames[0]!), variance(last(frames))];
      expect(to.total / from.total).toBeCloseTo(1, 2);
      // The variance of each axis grows by 2 D t.
      spreads.push((to.spread - from.spread) / (6 * 0.08 * (6 / 24)));
    }
    for (const s of spreads) expect(s).toBeCloseTo(1, 1);
  });
});

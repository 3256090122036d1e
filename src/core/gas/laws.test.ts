import { describe, expect, it } from 'vitest';
import { isRuddleError } from '#core/errors';
import { indexOf } from '#core/grid';
import { createTeam } from '#kernels';
import { allClosed, allOpen, gasOptions, runGas, sumOf, voxelsOf, withTeam, still } from '#testing';
import { type GasFrame, type GasState, solveGas } from '.';

const fill = (names: readonly ('density' | 'temperature' | 'u' | 'v')[], value: number) => (s: GasState) => {
  for (const name of names) s.team.floats(s.fields[name], s.size).fill(value);
};
const last = (frames: readonly GasFrame[]): GasFrame => frames[frames.length - 1] as GasFrame;
const bare = { sources: [], matter: { lift: 0, sinking: 0 } } as const;
const closedBox = { mode: 'dense', limit: { min: [0, 0, 0], max: [1.6, 1.6, 1.6] }, walls: allClosed } as const;

describe('closed forms', () => {
  it('decay is exact for any number of substeps, exponential and at a constant rate', async () => {
    await withTeam(1, (team) => {
      const middle = (substeps: number, matter: object): number => {
        const options = gasOptions({
          ...bare,
          lastFrame: 12,
          bounds: closedBox,
          stepping: { minimum: substeps, maximum: substeps },
          matter: { lift: 0, sinking: 0, ...matter },
        });
        return voxelsOf(last(runGas(team, options, { initial: fill(['density'], 1) })), 'density')(8, 8, 8);
      };
      const time = 12 / 24;
      for (const substeps of [1, 5]) {
        expect(middle(substeps, { decayTime: 0.4 })).toBeCloseTo(Math.exp(-time / 0.4), 5);
        expect(middle(substeps, { decayRate: 0.7 })).toBeCloseTo(1 - 0.7 * time, 5);
      }
    });
  });

  it('heat loss follows its time constant', async () => {
    await withTeam(1, (team) => {
      const options = gasOptions({ ...bare, lastFrame: 12, bounds: closedBox, matter: { lift: 0, sinking: 0, coolingTime: 0.5 } });
      const frames = runGas(team, options, { initial: fill(['temperature'], 393.15) });
      expect(voxelsOf(last(frames), 'temperature')(8, 8, 8)).toBeCloseTo(293.15 + 100 * Math.exp(-1), 2);
    });
  });

  it('a uniformly hot box at rest stays at rest: its lift is a gradient', async () => {
    await withTeam(1, (team) => {
      const options = gasOptions({ ...bare, lastFrame: 6, bounds: closedBox, matter: { lift: 0.03, sinking: 0 } });
      const frames = runGas(team, options, { initial: fill(['temperature'], 493.15) });
      // 6 m/s^2 for a quarter of a second would be 1.5 m/s; the tolerance leaves 1e-4 of each step.
      expect(last(frames).report.fastest).toBeLessThan(2e-3);
    });
  });

  it('buoyancy of a uniform field through open walls accelerates it at lift x heat', async () => {
    await withTeam(1, (team) => {
      const options = gasOptions({
        ...bare,
        lastFrame: 6,
        bounds: { ...closedBox, walls: { ...allClosed, floor: 'open', ceiling: 'open' } },
        matter: { lift: 0.01, sinking: 2, ambient: 293.15, velocityAdvection: 'linear' },
      });
      // A tube open at both ends: nothing holds the column back. 0.01 x 100 - 2 x 0.25 = 0.5 m/s^2. The ends bring ambient air in, so one short look.
      const frames = runGas(
        team,
        { ...options, lastFrame: 1 },
        {
          initial: (s) => {
            fill(['temperature'], 393.15)(s);
            fill(['density'], 0.25)(s);
          },
        },
      );
      // Of 16 voxels of height the end faces carry half a voxel each, at the mean of the tube and the still air outside: (15 + 1/2) / 16.
      expect(voxelsOf(last(frames), 'vel')(8, 8, 8, 1) / ((0.5 / 24) * (15.5 / 16))).toBeCloseTo(1, 3);
    });
  });

  it('still air takes up the wind with its time constant, whatever the substeps', async () => {
    await withTeam(1, (team) => {
      const speed = (substeps: number): number => {
        const options = gasOptions({
          ...bare,
          lastFrame: 1,
          stepping: { minimum: substeps, maximum: substeps },
          bounds: { ...closedBox, walls: allOpen },
          forces: { wind: [2, 0, 0], windTime: 0.1 },
        });
        return voxelsOf(last(runGas(team, options, { initial: fill(['u'], 0) })), 'vel')(8, 8, 8, 0);
      };
      // One frame only: the wind that stands outside pushes through the walls too, and soon more than the relaxation.
      const exact = 2 * -Math.expm1(-1 / 24 / 0.1);
      for (const substeps of [1, 4]) expect(Math.abs(speed(substeps) - exact)).toBeLessThan(0.06 * exact);
    });
  });
});

describe('symmetry, threads, bounds', () => {
  const puff = gasOptions({ lastFrame: 6, bounds: { mode: 'dense' }, forces: { confinement: 0.2 } });

  it('a symmetric set-up stays symmetric', async () => {
    await withTeam(1, (team) => {
      const d = voxelsOf(last(runGas(team, puff)), 'density');
      let worst = 0;
      for (let x = 0; x < 16; x++) {
        for (let y = 0; y < 32; y++) for (let z = 0; z < 32; z++) worst = Math.max(worst, Math.abs(d(x, y, z) - d(31 - x, y, z)));
      }
      expect(worst).toBeLessThan(2e-3);
    });
  });

  it('one thread and two give the same bits', async () => {
    const options = gasOptions({
      lastFrame: 8,
      solids: [still({ kind: 'ball', centre: [1.7, 1.9, 1.6], radius: 0.3 })],
      forces: { wind: [1, 0, 0], windTime: 0.5, confinement: 0.2, turbulence: { strength: 2, size: 0.8, change: 1, octaves: 2, seed: 4 } },
      sources: [
        {
          name: '',
          shape: { kind: 'ball', centre: [1.2, 0.8, 1.6], radius: 0.35 },
          mode: 'set',
          density: 1,
          heat: 200,
          velocity: [0, 2, 0],
          byDensity: false,
          stir: null,
          contact: null,
          blendTime: 1,
          noise: { amount: 0.8, size: 0.3, change: 0.2, octaves: 2, seed: 1 },
          from: null,
          to: null,
          inherits: 1,
          fuel: null,
          colour: [1, 1, 1],
          mask: null,
          shell: null,
          turnsAbout: null,
          moves: {},
        },
      ],
    });
    const one = await withTeam(1, (team) => last(runGas(team, options)));
    const two = await withTeam(2, (team) => last(runGas(team, options)));
    expect(one.grids.map((g) => g.origins)).toEqual(two.grids.map((g) => g.origins));
    one.grids.forEach((g, n) => {
      expect(Buffer.compare(Buffer.from(g.values.buffer), Buffer.from(two.grids[n]!.values.buffer))).toBe(0);
    });
    expect(one.report.mass).toEqual(two.report.mass);
  });

  it('adaptive bounds come nearer to fixed ones as the reach grows', async () => {
    await withTeam(1, (team) => {
      const run = (mode: 'dense' | 'adaptive', reach: number): ((x: number, y: number, z: number) => number) => {
        const options = gasOptions({
          lastFrame: 8,
          bounds: { mode, reach, quietSpeed: 1e-4, limit: { min: [-1.6, 0, -1.6], max: [4.8, 4.8, 4.8] } },
        });
        return voxelsOf(last(runGas(team, options)), 'density');
      };
      const exact = run('dense', 0);
      const error = (reach: number): number => {
        const d = run('adaptive', reach);
        let sum = 0;
        for (let x = 0; x < 32; x++) for (let y = 0; y < 32; y++) for (let z = 0; z < 32; z++) sum += Math.abs(d(x, y, z) - exact(x, y, z));
        return sum;
      };
      const errors = [0.1, 0.8, 2].map(error);
      expect(errors[1]!).toBeLessThan(errors[0]! * 0.5);
      expect(errors[2]!).toBeLessThan(errors[1]! * 0.5);
    });
  });

  it('the window follows the plume and what falls asleep is recorded', async () => {
    await withTeam(1, (team) => {
      const options = gasOptions({
        lastFrame: 40,
        bounds: { limit: { min: [0, 0, 0], max: [3.2, 12.8, 3.2] }, reach: 0.1, quietDensity: 0.05, quietHeat: 20, cutOff: 0 },
        matter: { lift: 0.04, sinking: 0, coolingTime: 0.3, decayTime: 0.3 },
        sources: [
          {
            name: '',
            shape: { kind: 'ball', centre: [1.6, 0.8, 1.6], radius: 0.4 },
            mode: 'set',
            density: 1,
            heat: 200,
            velocity: [0, 3, 0],
            byDensity: false,
            stir: null,
            contact: null,
            blendTime: 1,
            noise: null,
            from: null,
            to: 8,
            inherits: 1,
            fuel: null,
            colour: [1, 1, 1],
            mask: null,
            shell: null,
            turnsAbout: null,
            moves: {},
          },
        ],
      });
      const frames = runGas(team, options);
      const heights = frames.map((f) => f.report.window[1] + f.report.window[4]);
      expect(Math.max(...heights)).toBeGreaterThan(heights[0]!);
      // It fades: in the end nothing is active, and that is no error.
      expect(frames[39]!.report.activeTiles).toBe(0);
      const ledgers = frames.map((f) => f.report.mass);
      for (const m of ledgers) expect(Math.abs(m.remainder)).toBeLessThan(1e-6);
      for (let n = 1; n < ledgers.length; n++) expect(ledgers[n]!.start).toBeCloseTo(ledgers[n - 1]!.end, 9);
      expect(ledgers.reduce((s, m) => s + m.asleep, 0)).toBeGreaterThan(0);
    });
  });
});

describe('a source that emits from its surface', () => {
  it('leaves its inside empty, and emits the volume of its skin', async () => {
    const base = gasOptions();
    const run = async (shell: number | null) =>
      withTeam(1, (team) =>
        runGas(
          team,
          gasOptions({
            voxelSize: 0.05,
            lastFrame: 1,
            firstFrameSolved: false,
            bounds: { mode: 'fixed', limit: { min: [0, 0, 0], max: [3.2, 3.2, 3.2] } },
            sources: [{ ...base.sources[0]!, shell, shape: { kind: 'ball', centre: [1.6, 1.6, 1.6], radius: 0.8 } }],
          }),
        ).pop()!,
      );
    const skin = await run(0.2);
    expect(voxelsOf(skin, 'density')(32, 32, 32)).toBe(0);
    expect(voxelsOf(skin, 'density')(32 + 16, 32, 32)).toBeCloseTo(1, 5);
    const volume = ((4 * Math.PI) / 3) * (0.9 ** 3 - 0.7 ** 3);
    expect(sumOf(skin, 'density') * 0.05 ** 3).toBeCloseTo(volume, 1);
    expect(sumOf(await run(null), 'density') * 0.05 ** 3).toBeCloseTo(((4 * Math.PI) / 3) * 0.8 ** 3, 1);
  });
});

describe('walls and solids', () => {
  it('nothing flows through a closed box or a solid, and matter stays inside', async () => {
    await withTeam(1, (team) => {
      const options = gasOptions({
        lastFrame: 20,
        bounds: { mode: 'fixed', walls: allClosed, limit: { min: [0.04, 0.05, 0.03], max: [3.13, 3.1, 3.16] } },
        solids: [still({ kind: 'box', centre: [1.6, 2, 1.6], size: [1.2, 0.3, 1.2], rotation: [0, 0, 20] })],
      });
      const frames = runGas(team, options);
      const m = last(frames).report.mass;
      expect(Object.values(m.walls).reduce((a, b) => a + b, 0)).toBe(0);
      const d = voxelsOf(last(frames), 'density');
      expect(d(16, 20, 16)).toBe(0);
      expect(last(frames).report.divergence).toBeLessThan(5e-3);
    });
  });

  it('the velocity across a wall or the side of a solid is nothing, while the air moves fast beside it', async () => {
    await withTeam(1, (team) => {
      let state: GasState | null = null;
      // On voxel boundaries: box of 16 x 24 x 16, a slab of 8 x 2 x 8 in it.
      const options = gasOptions({
        lastFrame: 12,
        bounds: { mode: 'dense', walls: allClosed, limit: { min: [0, 0, 0], max: [1.6, 2.4, 1.6] } },
        sources: [{ ...gasOptions().sources[0]!, shape: { kind: 'ball', centre: [0.8, 0.4, 0.8], radius: 0.3 }, velocity: [0, 3, 0] }],
        solids: [still({ kind: 'box', centre: [0.8, 1.3, 0.8], size: [0.8, 0.2, 0.8], rotation: [0, 0, 0] })],
      });
      const frames = runGas(team, options, {
        initial: (s) => {
          state = s;
        },
      });
      const s = state as unknown as GasState;
      const face = (name: 'u' | 'v' | 'w', i: number, j: number, k: number): number =>
        s.team.floats(s.fields[name], s.size)[indexOf(s.window.nx, s.window.ny, i, j, k)]!;
      let [walls, slab, beside] = [0, 0, 0];
      for (let a = 0; a < 16; a++) {
        for (let b = 0; b < 24; b++) {
          walls = Math.max(walls, ...[0, 16].map((x) => Math.abs(face('u', x, b, a))), ...[0, 16].map((z) => Math.abs(face('w', a, b, z))));
          if (b < 16) walls = Math.max(walls, ...[0, 24].map((y) => Math.abs(face('v', a, y, b))));
        }
        for (let k = 4; k < 12; k++) {
          if (a >= 4 && a < 12) slab = Math.max(slab, Math.abs(face('v', a, 12, k)), Math.abs(face('v', a, 14, k)));
        }
      }
      for (let k = 4; k < 12; k++)
        for (const y of [12, 13]) slab = Math.max(slab, Math.abs(face('u', 4, y, k)), Math.abs(face('u', 12, y, k)));
      // Past its edge the air goes round it.
      for (let k = 4; k < 12; k++) for (const x of [1, 2, 13, 14]) beside = Math.max(beside, Math.abs(face('v', x, 13, k)));
      expect(beside).toBeGreaterThan(0.2);
      expect(walls).toBeLessThan(1e-6);
      expect(slab).toBeLessThan(1e-6);
      // What goes up on one side of the slab comes down on the other: nothing is made between.
      expect(Math.abs(last(frames).report.mass.remainder)).toBeLessThan(1e-6);
      let through = 0;
      for (let i = 0; i < 16; i++) for (let k = 0; k < 16; k++) if (i < 4 || i >= 12 || k < 4 || k >= 12) through += face('v', i, 13, k);
      // To the tolerance of the pressure, which is held against the fastest.
      expect(Math.abs(through) / 192).toBeLessThan(2e-3 * last(frames).report.fastest);
    });
  });

  it('what the wind carries out is recorded at its wall, and moving it about changes little', async () => {
    await withTeam(1, (team) => {
      const options = gasOptions({
        ...bare,
        lastFrame: 60,
        bounds: { mode: 'fixed', quietHeat: 1e9, limit: { min: [0, 0, 0], max: [3.2, 1.6, 1.6] } },
        forces: { wind: [2, 0, 0] },
      });
      const blob = (s: GasState): void => {
        const d = s.team.floats(s.fields.density, s.size);
        for (let k = 0; k < 16; k++) {
          for (let j = 0; j < 16; j++) {
            for (let i = 0; i < 32; i++) {
              const r2 = (i - 10) ** 2 + (j - 8) ** 2 + (k - 8) ** 2;
              d[indexOf(s.window.nx, s.window.ny, i, j, k)] = Math.exp(-r2 / 9);
            }
          }
        }
      };
      const source = { ...gasOptions().sources[0]!, from: 500 };
      // Dense, so that the blob is computed from the first frame on.
      const frames = runGas(team, { ...options, sources: [source], bounds: { ...options.bounds, mode: 'dense' } }, { initial: blob });
      const start = frames[0]!.report.mass.start;
      const sum = (pick: (m: GasFrame['report']['mass']) => number): number => frames.reduce((s, f) => s + pick(f.report.mass), 0);
      expect(sum((m) => m.walls.right)).toBeGreaterThan(0.9 * start);
      expect(sum((m) => m.walls.left + m.walls.floor + m.walls.ceiling)).toBeLessThan(0.02 * start);
      expect(Math.abs(sum((m) => m.advection))).toBeLessThan(0.1 * start);
      expect(last(frames).report.mass.end).toBeLessThan(0.02 * start);
      // What the ledger says is inside is what the frames hold.
      expect(sumOf(frames[9]!, 'density') * 1e-3).toBeCloseTo(frames[9]!.report.mass.end, 4);
    });
  });
});

describe('sources', () => {
  const emitted = async (source: object, frames = 4, substeps = 1): Promise<number> =>
    await withTeam(1, (team) => {
      const options = gasOptions({
        lastFrame: frames,
        bounds: closedBox,
        matter: { lift: 0, sinking: 0 },
        stepping: { minimum: substeps, maximum: substeps },
        sources: [
          {
            name: '',
            shape: { kind: 'box', centre: [0.8, 0.8, 0.8], size: [0.4, 0.4, 0.4], rotation: [0, 0, 0] },
            mode: 'add',
            density: 1,
            heat: null,
            velocity: null,
            byDensity: false,
            stir: null,
            contact: null,
            blendTime: 0.2,
            noise: null,
            from: null,
            to: null,
            inherits: 1,
            fuel: null,
            colour: [1, 1, 1],
            mask: null,
            shell: null,
            turnsAbout: null,
            moves: {},
            ...source,
          },
        ],
      });
      return last(runGas(team, options)).report.mass.end;
    });

  it('adding emits its rate, whatever the substeps', async () => {
    const exact = 0.4 ** 3 * (4 / 24);
    expect(await emitted({}, 4, 1)).toBeCloseTo(exact, 6);
    expect(await emitted({}, 4, 7)).toBeCloseTo(exact, 6);
  });
  it('emits in its frames only', async () => {
    expect(await emitted({ from: 3, to: 4 }, 8)).toBeCloseTo(0.4 ** 3 * (2 / 24), 6);
  });
  it('approaching follows its time constant, holding holds', async () => {
    expect(await emitted({ mode: 'blend' }, 4)).toBeCloseTo(0.4 ** 3 * (1 - Math.exp(-(4 / 24) / 0.2)), 5);
    expect(await emitted({ mode: 'set' }, 4)).toBeCloseTo(0.4 ** 3, 5);
  });
  it('noise varies emission and leaves its mean about the same', async () => {
    const noisy = await emitted({ noise: { amount: 1, size: 0.1, change: 0.05, octaves: 2, seed: 3 } }, 12);
    const plain = await emitted({}, 12);
    expect(noisy).not.toBeCloseTo(plain, 6);
    expect(noisy / plain).toBeGreaterThan(0.75);
    expect(noisy / plain).toBeLessThan(1.25);
  });
});

describe('frames and substeps', () => {
  it('pre-roll counts backwards, and the first frame may hold sources only', async () => {
    await withTeam(1, (team) => {
      const frames = runGas(team, gasOptions({ preRoll: 3, firstFrame: 10, lastFrame: 11, firstFrameSolved: false }));
      expect(frames.map((f) => f.report.frame)).toEqual([7, 8, 9, 10, 11]);
      expect(frames.map((f) => f.inRange)).toEqual([false, false, false, true, true]);
      expect(frames[0]!.report.substepsUsed).toBe(0);
      expect(frames[0]!.report.mass.end).toBeGreaterThan(0);
      expect(frames[3]!.report.time).toBeCloseTo(0, 12);
    });
  });
  it('substeps follow the CFL number between their limits, and what was wanted is said', async () => {
    await withTeam(1, (team) => {
      const fast = { sources: [{ ...gasOptions().sources[0]!, velocity: [0, 20, 0] as const }] };
      const frames = runGas(team, gasOptions({ ...fast, lastFrame: 3, stepping: { cfl: 1, minimum: 2, maximum: 4 } }));
      const r = last(frames).report;
      expect(r.substepsUsed).toBe(4);
      expect(r.substepsWanted).toBeGreaterThan(4);
      const free = last(runGas(team, gasOptions({ ...fast, lastFrame: 3, stepping: { cfl: 1, minimum: 2, maximum: 64 } }))).report;
      expect(free.substepsUsed).toBe(free.substepsWanted);
      expect(free.cflReached).toBeLessThan(1.6);
    });
  });
});

describe('refusals', () => {
  it('fixed bounds that do not fit are refused before the run, with what is needed and available', () => {
    const team = createTeam({ threads: 1, arenaBytes: 300e6 });
    const options = gasOptions({ voxelSize: 0.01, bounds: { mode: 'fixed' } });
    expect(() => runGas(team, options)).toThrow(expect.objectContaining({ tag: 'arena-too-small' }) as Error);
    try {
      runGas(team, options);
    } catch (error) {
      if (!isRuddleError(error, 'arena-too-small')) throw error;
      expect(error.fields.neededBytes).toBeGreaterThan(error.fields.availableBytes);
      expect(error.fields.frame).toBeNull();
    }
  });

  it('adaptive bounds that outgrow the arena end the run and keep the frames before', () => {
    const team = createTeam({ threads: 1, arenaBytes: 290e6 });
    const options = gasOptions({
      voxelSize: 0.05,
      lastFrame: 60,
      bounds: { mode: 'adaptive', reach: 3, quietSpeed: 1e-4, limit: { min: [-8, 0, -8], max: [8, 8, 8] } },
    });
    const kept: number[] = [];
    let thrown: unknown = null;
    try {
      for (const f of solveGas(options, { team, clock: () => 0, channels: { names: [] }, cancelled: () => false }))
        kept.push(f.report.frame);
    } catch (error) {
      thrown = error;
    }
    expect(isRuddleError(thrown, 'arena-too-small')).toBe(true);
    expect(isRuddleError(thrown, 'arena-too-small') && thrown.fields.frame).toBe(kept.length + 1);
  });

  it('a value that stops being finite names frame, substep and channel', async () => {
    await withTeam(1, (team) => {
      const poison = (s: GasState): void => {
        s.team.floats(s.fields.temperature, s.size)[indexOf(s.window.nx, s.window.ny, 8, 8, 8)] = NaN;
      };
      expect(() => runGas(team, gasOptions({ ...bare, bounds: closedBox }), { initial: poison })).toThrow(
        expect.objectContaining({ tag: 'not-finite', fields: { frame: 1, substep: 0, channel: 'temperature' } }) as Error,
      );
    });
  });

  it('cancelling ends between substeps with a tagged error', async () => {
    await withTeam(1, (team) => {
      let polls = 0;
      const cancelled = (): boolean => ++polls > 20;
      expect(() => runGas(team, gasOptions({ lastFrame: 100 }), { cancelled })).toThrow(
        expect.objectContaining({ tag: 'cancelled' }) as Error,
      );
    });
  });

  it('keeping the amount leaves nothing to advection itself, and changes the motion of nothing', async () => {
    await withTeam(1, (team) => {
      const run = (keepsMass: boolean): GasFrame[] =>
        runGas(team, gasOptions({ lastFrame: 8, matter: { keepsMass, scalarAdvection: 'maccormack' } }));
      const kept = run(true);
      team.reset();
      const free = run(false);
      const share = (f: GasFrame[]): number =>
        Math.max(...f.map((x) => Math.abs(x.report.mass.advection) / Math.max(x.report.mass.end, 1e-9)));
      expect(share(free)).toBeGreaterThan(1e-4);
      expect(share(kept)).toBeLessThan(1e-5);
      expect(Math.abs(kept[7]!.report.mass.remainder)).toBeLessThan(1e-6 * kept[7]!.report.mass.end);
    });
  });
});

import { takeUpWind } from '#core/flow';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { gasOptions, makeGrid, runGas, voxelsOf, withTeam } from '#testing';
import { type Team, createTeam } from '#kernels';
import type { Key } from '#core/moves';
import { type GasFields } from './fields';
import type { GasOptions } from '.';

let team: Team;
beforeEach(() => {
  team = createTeam({ threads: 1 });
});
afterEach(() => {
  team.stop();
});

const key = (frame: number, value: number): Key => ({ frame, value, then: 'straight', arrive: null, leave: null });
const windy = (keys: readonly Key[], more: Parameters<typeof gasOptions>[0] = {}): GasOptions =>
  gasOptions({
    lastFrame: 12,
    matter: { lift: 0, sinking: 0 },
    forces: { windTime: 0.05, moves: { 'wind.x': { kind: 'keys', keys } } },
    ...more,
  });

describe('a wind that moves', () => {
  it('is what the air does outside, and what the air inside takes up; nothing tears at the rim between', () => {
    const frames = runGas(team, windy([key(1, 0), key(6, 2), key(12, 2)]));
    const last = frames[11]!;
    const vel = voxelsOf(last, 'vel');
    expect(last.grids.find((g) => g.name === 'vel')!.background).toEqual([2, 0, 0]);
    // In the matter, at its rim, and past it.
    for (const x of [10, 16, 22, 28]) expect(vel(x, 8, 16)).toBeCloseTo(2, 1);
    // Wind that all of the air takes part in has no divergence to push against.
    expect(last.report.fastest).toBeLessThan(2.2);
    expect(Math.max(...frames.map((f) => f.report.divergence))).toBeLessThan(0.01);
  });

  it('is taken up with its time constant, from the wind of each substep’s own middle', () => {
    // One substep a frame, a wind of 10 m/s more each second, all of the box alike: the recurrence is all that happens.
    const dense = { bounds: { mode: 'dense' }, stepping: { minimum: 1, maximum: 1 }, sources: [], lastFrame: 6 } as const;
    const moves = { 'wind.x': { kind: 'expression', text: '10 * time' } } as const;
    const frames = runGas(team, gasOptions({ ...dense, matter: { lift: 0, sinking: 0 }, forces: { windTime: 0.1, moves } }));
    const dt = 1 / 24;
    let expected = voxelsOf(frames[0]!, 'vel')(16, 16, 16);
    for (let n = 1; n < 6; n++) {
      const middle = 10 * (n - 0.5) * dt;
      expected = middle + (expected - middle) * Math.exp(-dt / 0.1);
      expect(voxelsOf(frames[n]!, 'vel')(16, 16, 16), `frame ${String(n + 1)}`).toBeCloseTo(expected, 1);
    }
  });

  it('that is a key for every frame of the same speed is the wind that stands', () => {
    const standing = runGas(team, gasOptions({ lastFrame: 6, forces: { wind: [1, 0, 0], windTime: 0.5 } }));
    team.reset();
    const moves = { 'wind.x': { kind: 'keys', keys: [key(1, 1), key(12, 1)] } } as const;
    const keyed = runGas(team, gasOptions({ lastFrame: 6, forces: { wind: [1, 0, 0], windTime: 0.5, moves } }));
    expect(keyed.map((f) => f.report.mass)).toEqual(standing.map((f) => f.report.mass));
  });
});

it('tiles that wake with the wind in them are no energy from nowhere', () => {
  const frames = runGas(
    team,
    gasOptions({ lastFrame: 10, forces: { wind: [2, 0, 0] }, matter: { lift: 0, sinking: 0 }, bounds: { reach: 0.3 } }),
  );
  // The bounds grow, and the air in them with it.
  expect(frames[9]!.report.activeTiles).toBeGreaterThan(frames[1]!.report.activeTiles);
  for (const { report } of frames.slice(1)) expect(report.energy.loss / 24).toBeLessThan(0.002 * report.energy.kinetic);
});

describe('the air takes up the wind', () => {
  it('along the wind only, whichever way it blows; what goes across it keeps its speed', async () => {
    await withTeam(1, (own) => {
      for (const wind of [
        [1.2, 0, 1.6],
        [0, -2, 0],
      ] as const) {
        own.reset();
        const grid = makeGrid(own, [24, 24, 24]);
        const names = ['u', 'v', 'w', 'a', 'b', 'c'] as const;
        const f = Object.fromEntries(names.map((name) => [name, grid.field()])) as Record<(typeof names)[number], number>;
        const before = [0.5, 1, -0.2];
        [f.u, f.v, f.w].forEach((p, a) => own.floats(p, grid.size).fill(before[a]!));
        takeUpWind(own, grid.hierarchy.finest, f as unknown as GasFields, wind, 0.25);
        const after = [f.u, f.v, f.w].map((p) => own.floats(p, grid.size)[grid.at(12, 12, 12)]!);
        const speed = Math.hypot(...wind);
        const along = (v: readonly number[]): number => v.reduce((s, x, a) => s + (x * wind[a]!) / speed, 0);
        expect(along(after)).toBeCloseTo(speed - 0.25 * (speed - along(before)), 5);
        before.forEach((v, a) => {
          const across = (x: readonly number[]): number => x[a]! - (along(x) * wind[a]!) / speed;
          expect(across(after), String(v)).toBeCloseTo(across(before), 5);
        });
      }
    });
  });

  it('and without a wind nothing is slowed: the same bits as with no time set', () => {
    const front = (windTime: number | null): readonly unknown[] => {
      team.reset();
      const frames = runGas(team, gasOptions({ lastFrame: 6, forces: { windTime } }));
      return frames.map(({ report }) => [report.fastest, report.mass.end, report.energy.kinetic]);
    };
    expect(front(0.3)).toEqual(front(null));
  });
});

import { describe, expect, it } from 'vitest';
import { body, boxOf, liquidOptions, runLiquid, solid, withTeam } from '#testing';
import type { LiquidFrame } from './solver';
import type { LiquidOptions } from './options';

const G = 9.80665;
const ANGLE = Math.atan(0.2);
const DOWN_THE_SLOPE = [G * Math.sin(ANGLE), -G * Math.cos(ANGLE), 0] as const;

/** Mean velocity along x after the last frame, m/s, of what began in the middle of a slab: its ends and sides spread. */
async function middleSpeed(options: LiquidOptions, from: readonly [number, number], travels: number): Promise<number> {
  let last: LiquidFrame | null = null;
  return await withTeam(1, (team) => {
    runLiquid(team, options, { each: (frame) => (last = frame) });
    const { count, places, motions } = last!.cloud();
    let [sum, held] = [0, 0];
    for (let n = 0; n < count; n++) {
      const [x, z] = [places[4 * n]! - travels, places[4 * n + 2]!];
      if (x < from[0] || x > from[1] || z < 0.6 || z > 1) continue;
      sum += motions[4 * n]!;
      held++;
    }
    return sum / held;
  });
}

const WIDE = 1.6;
const slab = (friction: number, voxels: number, changes: Parameters<typeof liquidOptions>[0] = {}): LiquidOptions =>
  liquidOptions({
    lastFrame: 13,
    bounds: { limit: { min: [-1, 0, 0], max: [4, 1, WIDE] } },
    sources: [body(boxOf([0, 0, 0], [1.6, 0.05 * voxels, WIDE]))],
    forces: { gravity: DOWN_THE_SLOPE },
    matter: { friction },
    ...changes,
  });

/** Of a slab that slides, after half a second. */
const coulomb = (friction: number): number => Math.max(0, Math.sin(ANGLE) - friction * Math.cos(ANGLE)) * G * 0.5;

describe('friction', () => {
  it.each([
    [0, 2, {}],
    [0.1, 2, {}],
    [0.1, 4, {}],
    [0.1, 4, { stepping: { minimum: 5 } }],
    [0.1, 4, { matter: { friction: 0.1, transfer: 'flip' as const } }],
    [1, 4, {}],
  ])('of %d holds back a slab of %i voxels as Coulomb says %o', async (friction, voxels, changes) => {
    const speed = await middleSpeed(slab(friction, voxels, changes), [0.6, 1], coulomb(friction) / 4);
    expect(Math.abs(speed - coulomb(friction))).toBeLessThan(0.04);
  });

  it('takes a slab along with the floor that moves under it', async () => {
    const belt = solid({
      shape: boxOf([-2, -0.4, -0.4], [4, 0.1, 2]),
      moves: { 'shape.centre.x': { kind: 'expression', text: '1 + 1.5 * time' } } as never,
    });
    const options = liquidOptions({
      lastFrame: 7,
      bounds: { limit: { min: [-1, -0.2, 0], max: [3, 1, WIDE] } },
      sources: [body(boxOf([0, 0.1, 0], [1.6, 0.2, WIDE]))],
      solids: [belt],
      matter: { friction: 0.1 },
    });
    expect(Math.abs((await middleSpeed(options, [0.6, 1], 0.03)) - 0.1 * G * 0.25)).toBeLessThan(0.03);
  });
});

describe('a particle by itself', () => {
  it.each([
    [0, 0],
    [0.5, 0.1],
    [1, 0.1],
  ])('comes back from a wall with its part of the speed (%d), and loses along it what the blow allows (%d)', async (bounce, friction) => {
    const told: { readonly v: number; readonly u: number }[] = [];
    await withTeam(1, (team) =>
      runLiquid(
        team,
        liquidOptions({
          lastFrame: 13,
          forces: { gravity: [0, 0, 0] },
          bounds: { limit: { min: [0, 0, 0], max: [1, 1, 1] } },
          sources: [body({ kind: 'ball', centre: [0.512, 0.712, 0.512], radius: 0.012 }, { velocity: [0.5, -2, 0] })],
          matter: { bounce, friction },
        }),
        {
          each: ({ cloud }) => {
            const { count, motions } = cloud();
            expect(count).toBe(1);
            told.push({ u: motions[0]!, v: motions[1]! });
          },
        },
      ),
    );
    const [before, after] = [told[7]!, told[12]!];
    expect(before.v).toBeCloseTo(-2, 4);
    if (bounce === 0) expect(Math.abs(after.v)).toBeLessThan(0.05);
    else {
      expect(after.v).toBeCloseTo(2 * bounce, 3);
      expect(after.u).toBeCloseTo(0.5 - friction * (1 + bounce) * 2, 3);
    }
  });
});

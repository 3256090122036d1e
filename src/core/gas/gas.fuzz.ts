import fc from 'fast-check';
import { expect, it } from 'vitest';
import { isRuddleError } from '#core/errors';
import { resolvePlan, solveSchema, shotFieldsSchema } from '#core/shot';
import { runGas, withTeam } from '#testing';
import { fuzz } from '#testing/fuzz';

const number = (min: number, max: number): fc.Arbitrary<number> => fc.double({ min, max, noNaN: true });
const point = fc.tuple(number(-1, 3), number(-1, 3), number(-1, 3));
const shape = fc.oneof(
  fc.record({ kind: fc.constant('ball'), centre: point, radius: number(0.02, 1.5) }),
  fc.record({
    kind: fc.constant('box'),
    centre: point,
    size: fc.tuple(number(0.02, 3), number(0.02, 3), number(0.02, 3)),
    rotation: fc.tuple(number(-180, 180), number(-180, 180), number(-180, 180)),
  }),
);
const wall = fc.constantFrom('open', 'closed');

/** Shots within what the sheet allows, chosen without any taste. */
const settings = fc.record({
  detail: fc.record({ voxelSize: number(0.16, 0.4) }),
  stepping: fc.record({ cfl: number(0.5, 5), minSubsteps: fc.constantFrom(1, 2), maxSubsteps: fc.constantFrom(2, 4) }),
  bounds: fc.record({
    mode: fc.constantFrom('adaptive', 'fixed', 'dense'),
    limit: fc.constant({ min: [0, 0, 0], max: [2, 2.4, 1.6] }),
    reach: number(0.1, 1),
    walls: fc.record({ left: wall, right: wall, floor: wall, ceiling: wall, back: wall, front: wall }),
  }),
  sources: fc.array(
    fc.record({
      shape,
      mode: fc.constantFrom('set', 'add', 'blend'),
      density: fc.oneof(fc.constant(null), number(-5, 50)),
      heat: fc.oneof(fc.constant(null), number(-200, 3000)),
      velocity: fc.oneof(fc.constant(null), fc.tuple(number(-60, 60), number(-60, 60), number(-60, 60))),
    }),
    { maxLength: 2 },
  ),
  solids: fc.array(fc.record({ shape }), { maxLength: 2 }),
  forces: fc.record({
    wind: fc.tuple(number(-20, 20), number(-5, 5), number(-20, 20)),
    windTime: fc.oneof(fc.constant(null), number(0.02, 5)),
    confinement: number(0, 3),
    turbulence: fc.oneof(fc.constant(null), fc.record({ strength: number(0, 40) })),
  }),
  matter: fc.record({
    lift: number(-0.1, 0.3),
    sinking: number(-5, 5),
    velocityAdvection: fc.constantFrom('linear', 'maccormack', 'reflection'),
    scalarAdvection: fc.constantFrom('linear', 'maccormack'),
    keepsMass: fc.boolean(),
  }),
});

it('whatever the sheet allows is computed: every figure is a number, the ledger balances, the same again gives the same', async () => {
  const shot = shotFieldsSchema.parse({ name: 'Fuzz', lastFrame: 3 });
  let computed = 0;
  await withTeam(1, (team) => {
    fc.assert(
      fc.property(settings, (given) => {
        const parsed = solveSchema.safeParse(given);
        if (!parsed.success) return;
        const once = (): string[] => {
          team.reset();
          const rows: string[] = [];
          try {
            for (const { report, grids } of runGas(team, resolvePlan(shot, parsed.data, 'final').options)) {
              const numbers = [
                ...Object.values(report.mass).filter((v) => typeof v === 'number'),
                ...Object.values(report.energy),
                ...Object.values(report.maxima),
                report.residual,
                report.divergence,
                report.memoryBytes,
              ];
              expect(numbers.every(Number.isFinite), JSON.stringify(report)).toBe(true);
              const { mass } = report;
              const scale = Math.max(1e-6, Math.abs(mass.start), Math.abs(mass.end), Math.abs(mass.sources));
              expect(Math.abs(mass.remainder) / scale, JSON.stringify(mass)).toBeLessThan(1e-4);
              for (const g of grids) for (const v of g.values) if (!Number.isFinite(v)) throw new Error(`${g.name} is not finite`);
              rows.push(JSON.stringify(report.mass));
            }
          } catch (error) {
            if (!isRuddleError(error)) throw error;
            rows.push(error.message);
          }
          return rows;
        };
        const first = once();
        expect(once()).toEqual(first);
        computed++;
      }),
      fuzz(220),
    );
  });
  expect(computed).toBeGreaterThan(150);
});

import { describe, expect, it } from 'vitest';
import type { Fire } from '#core/gas';
import { allClosed, gasOptions, runGas, sumOf, withTeam } from '#testing';
import type { GasOptions } from './options';

const fire: Fire = { ignition: 500, burnTime: 0.2, heat: 1000, soot: 0.5, expansion: 0, loss: 0 };
const base = gasOptions();
/** A closed box full of fuel at one temperature: nothing moves, so that what burns has a closed form. */
const uniform = (changes: Partial<Fire>, substeps: number, frames = 6): GasOptions =>
  gasOptions({
    lastFrame: frames,
    sources: [],
    stepping: { minimum: substeps, maximum: substeps },
    bounds: { mode: 'dense', limit: { min: [0, 0, 0], max: [1.6, 1.6, 1.6] }, walls: allClosed },
    matter: { lift: 0, sinking: 0, ambient: 293.15, fire: { ...fire, ...changes } },
  });
const burnt = async (temperature: number, changes: Partial<Fire>, substeps: number) =>
  withTeam(1, (team) => {
    const options = uniform(changes, substeps);
    const frames = runGas(team, options, {
      initial: ({ team: t, fields, size }) => {
        t.floats(fields.fuel, size).fill(1);
        t.floats(fields.temperature, size).fill(temperature);
      },
    });
    return frames[frames.length - 1]!;
  });

describe('fire', () => {
  it('burns as its time says, whatever the substeps, and gives the heat and soot of what burnt', async () => {
    const left = Math.exp(-(6 / 24) / fire.burnTime);
    for (const substeps of [1, 4]) {
      const { report } = await burnt(600, {}, substeps);
      expect(report.maxima.density, `${String(substeps)} substeps`).toBeCloseTo(0.5 * (1 - left), 3);
      expect(report.maxima.temperature).toBeCloseTo(600 + 1000 * (1 - left), 0);
    }
  });

  it('records the soot', async () => {
    const { report, grids } = await burnt(600, {}, 2);
    expect(report.mass.burning).toBeGreaterThan(0);
    expect(Math.abs(report.mass.remainder)).toBeLessThan(1e-5 * report.mass.end);
    expect(sumOf({ grids }, 'density') * 1e-3).toBeCloseTo(report.mass.end, 4);
  });

  it('does not catch below its ignition', async () => {
    const { report } = await burnt(480, {}, 1);
    expect(report.maxima.density).toBe(0);
    expect(report.maxima.temperature).toBeCloseTo(480, 2);
  });

  it('cools with the fourth power, in its closed form', async () => {
    for (const substeps of [1, 5]) {
      const { report } = await burnt(1293.15, { ignition: 5000, loss: 2000 }, substeps);
      // theta^-3 grows by 3 loss t / 1000^4.
      const theta = (1000 ** -3 + (3 * 2000 * (6 / 24)) / 1000 ** 4) ** (-1 / 3);
      expect(report.maxima.temperature - 293.15).toBeCloseTo(theta, 0);
    }
  });

  it('takes room: gas flows out of a burning cloud', async () => {
    const run = async (expansion: number) =>
      withTeam(1, (team) => {
        const frames = runGas(
          team,
          gasOptions({
            lastFrame: 4,
            matter: { lift: 0, fire: { ...fire, heat: 0, expansion } },
            bounds: { mode: 'fixed' },
            sources: [{ ...base.sources[0]!, density: null, heat: 400, fuel: 1 }],
          }),
        );
        return frames[frames.length - 1]!.report;
      });
    const still = await run(0);
    const bursting = await run(2);
    expect(still.fastest).toBeLessThan(0.05);
    expect(bursting.fastest).toBeGreaterThan(0.5);
    expect(bursting.converged).toBe(true);
    // A ball of radius R that makes e volumes a second: e R / 3 at its rim.
    const e = 2 / fire.burnTime;
    expect(bursting.fastest).toBeLessThan(((e * 0.5) / 3) * 1.6);
  });

  it('keeps cold fuel awake, so that it is there when the flame comes', async () => {
    const frames = await withTeam(1, (team) =>
      runGas(
        team,
        gasOptions({
          lastFrame: 6,
          bounds: { quietDensity: 1e-3, reach: 0.2 },
          matter: { lift: 0, fire },
          sources: [{ ...base.sources[0]!, density: null, heat: null, fuel: 1, velocity: [0, 3, 0], to: 2 }],
        }),
      ),
    );
    expect(frames[frames.length - 1]!.report.matterTiles).toBeGreaterThan(0);
  });
});

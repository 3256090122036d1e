import { describe, expect, it } from 'vitest';
import { body, liquidOptions, runLiquid, withTeam } from '#testing';
import type { LiquidCloud } from './cloud';
import { tensionStep } from './tension';

const TENSION = 0.072;
const DENSITY = 1000;
const RADIUS = 0.008;

/** How much longer than wide, as second moments; and where its middle is. */
function shapeOf({ count, places, motions }: LiquidCloud): {
  readonly long: number;
  readonly middle: number;
  readonly volume: number;
  readonly ball: number;
} {
  const moment = (axis: number, about: number, power: number): number => {
    let sum = 0;
    for (let n = 0; n < count; n++) sum += motions[4 * n + 3]! * (places[4 * n + axis]! - about) ** power;
    return sum;
  };
  const volume = moment(0, 0, 0);
  const square = (axis: number): number => moment(axis, moment(axis, 0, 1) / volume, 2);
  const [x, y, z] = [square(0), square(1), square(2)];
  // Of a ball the mean square of the radius is 3/5 of its own.
  const ball = ((4 * Math.PI) / 3) * ((5 / 3) * ((x + y + z) / volume)) ** 1.5;
  return { long: (y - (x + z) / 2) / (x + y + z), middle: moment(1, 0, 1) / volume, volume, ball };
}

/** A drop without gravity: balls in a row are one that is longer than wide. */
const drop = (voxelSize: number, stretched: number, frames: number): ReturnType<typeof liquidOptions> =>
  liquidOptions({
    voxelSize,
    framesPerSecond: 128,
    lastFrame: frames,
    bounds: { limit: { min: [-3 * RADIUS, -3 * RADIUS, -3 * RADIUS], max: [3 * RADIUS, 3 * RADIUS, 3 * RADIUS] } },
    forces: { gravity: [0, 0, 0] },
    matter: { tension: TENSION, density: DENSITY, volumeTime: 0.01 },
    stepping: { maximum: 64 },
    sources: [-2, -1, 0, 1, 2].map((n) => body({ kind: 'ball', centre: [0, n * stretched * RADIUS, 0], radius: RADIUS })),
  });

describe('surface tension', () => {
  it.each([RADIUS / 6, RADIUS / 8])('makes a drop swing with the period of Rayleigh, and not louder; voxels of %f m', async (h) => {
    const told: ReturnType<typeof shapeOf>[] = [];
    await withTeam(1, (team) => {
      runLiquid(team, drop(h, 0.08, 34), { each: (frame) => told.push(shapeOf(frame.cloud())) });
    });
    const long = told.map((t) => t.long);
    const crossings = long.flatMap((v, n) => (n > 0 && long[n - 1]! * v < 0 ? [n - 1 + long[n - 1]! / (long[n - 1]! - v)] : []));
    expect(crossings.length).toBeGreaterThanOrEqual(2);
    const measured = (2 * (crossings[crossings.length - 1]! - crossings[0]!)) / (crossings.length - 1) / 128;
    // Rayleigh 1879, second mode: omega^2 = 8 tension / (density radius^3), of the radius that its volume has.
    const period = 2 * Math.PI * Math.sqrt((DENSITY * 3 * told[0]!.volume) / (4 * Math.PI * 8 * TENSION));
    expect(Math.abs(measured / period - 1)).toBeLessThan(0.05);
    expect(Math.max(...long.map(Math.abs))).toBeLessThan(1.02 * long[0]!);
    for (const { middle } of told) expect(Math.abs(middle)).toBeLessThan(0.02 * RADIUS);
  });

  it('leaves a round drop round and at rest', async () => {
    const speeds: number[] = [];
    const shapes: number[] = [];
    await withTeam(1, (team) => {
      runLiquid(team, drop(RADIUS / 6, 0, 40), {
        each: ({ report, cloud }) => {
          speeds.push(Math.sqrt((2 * report.energy.kinetic) / (DENSITY * report.expectedVolume)));
          shapes.push(Math.abs(shapeOf(cloud()).long));
          // By how far its particles lie apart, whatever the level set makes of so small a drop.
          const { ball, volume } = shapeOf(cloud());
          expect(Math.abs(ball / volume - 1)).toBeLessThan(0.025);
          expect(Math.abs(report.surfaceVolume / report.expectedVolume - 1)).toBeLessThan(0.04);
        },
      });
    });
    // Of the speed that its tension can give it, a twentieth.
    expect(Math.max(...speeds)).toBeLessThan(0.05 * Math.sqrt(TENSION / (DENSITY * RADIUS)));
    expect(Math.max(...shapes)).toBeLessThan(0.005);
  });

  it('shortens the substeps as its shortest waves ask, and nothing without it', async () => {
    const options = drop(RADIUS / 6, 0, 3);
    const used = await withTeam(1, (team) => runLiquid(team, options).map((f) => f.report.substepsUsed));
    const wanted = Math.ceil(1 / 128 / tensionStep(options));
    expect(wanted).toBeGreaterThan(3);
    expect(used.slice(1)).toEqual([wanted, wanted]);
    expect(tensionStep({ ...options, voxelSize: 4 * options.voxelSize }) / tensionStep(options)).toBeCloseTo(8, 6);
    expect(tensionStep({ ...options, matter: { ...options.matter, tension: 0 } })).toBe(Infinity);
    const capped = { ...options, stepping: { ...options.stepping, maximum: 2 } };
    const held = await withTeam(1, (team) => runLiquid(team, capped).map((f) => f.report));
    expect(held[2]!.substepsUsed).toBe(2);
    expect(held[2]!.substepsWanted).toBe(wanted);
  });
});

import { describe, expect, it } from 'vitest';
import { body, boxOf, liquidOptions, runLiquid, withTeam } from '#testing';
import type { LiquidOptions } from './options';
import type { LiquidFrame } from './solver';

const H = 0.05;

interface Told {
  readonly report: LiquidFrame['report'];
  readonly count: number;
  readonly volume: number;
  readonly momentum: readonly [number, number, number];
  readonly centre: readonly [number, number, number];
  /** Largest particle, voxels, within so many voxels of the highest in its column of four voxels. */
  readonly largestAtTop: number;
  readonly largest: number;
  readonly bulk: number;
}

function tell({ report, cloud }: LiquidFrame): Told {
  const { count, places, motions } = cloud();
  const sums = [0, 0, 0, 0, 0, 0, 0];
  const tops = new Map<string, number>();
  const column = (n: number): string =>
    `${String(Math.floor(places[4 * n]! / (4 * H)))} ${String(Math.floor(places[4 * n + 2]! / (4 * H)))}`;
  for (let n = 0; n < count; n++) {
    const v = motions[4 * n + 3]!;
    sums[6] = sums[6]! + v;
    for (const a of [0, 1, 2]) {
      sums[a] = sums[a]! + v * motions[4 * n + a]!;
      sums[3 + a] = sums[3 + a]! + v * places[4 * n + a]!;
    }
    tops.set(column(n), Math.max(tops.get(column(n)) ?? -9, places[4 * n + 1]!));
  }
  let [largest, largestAtTop] = [0, 0];
  for (let n = 0; n < count; n++) {
    const v = motions[4 * n + 3]! / H ** 3;
    largest = Math.max(largest, v);
    if (places[4 * n + 1]! > tops.get(column(n))! - 2 * H) largestAtTop = Math.max(largestAtTop, v);
  }
  const xs = Array.from({ length: count }, (_v, n) => [places[4 * n]!, motions[4 * n + 3]!] as const).sort((a, b) => a[0] - b[0]);
  let [below, bulk] = [0, 0];
  for (const [x, v] of xs) {
    below += v;
    if (below <= 0.95 * sums[6]!) bulk = x;
  }
  return {
    report,
    count,
    volume: sums[6]!,
    momentum: [sums[0]! / sums[6]!, sums[1]! / sums[6]!, sums[2]! / sums[6]!],
    centre: [sums[3]! / sums[6]!, sums[4]! / sums[6]!, sums[5]! / sums[6]!],
    largest,
    largestAtTop,
    bulk,
  };
}

const run = (options: LiquidOptions): Promise<Told[]> =>
  withTeam(1, (team) => {
    const told: Told[] = [];
    runLiquid(team, options, { each: (frame) => told.push(tell(frame)) });
    return told;
  });

describe('fewer particles inside', () => {
  it('a pool that sloshes moves as with all of them: front, height, volume within 2 %, its energy too', async () => {
    const pool = (particles: Partial<LiquidOptions['particles']>): LiquidOptions =>
      liquidOptions({
        lastFrame: 25,
        particles,
        bounds: { limit: { min: [0, 0, 0], max: [32 * H, 32 * H, 20 * H] } },
        sources: [body(boxOf([0, 0, 0], [32 * H, 18 * H, 20 * H])), body(boxOf([0, 0, 0], [16 * H, 24 * H, 20 * H]))],
        matter: { volumeTime: 0.05 },
      });
    const all = await run(pool({}));
    const few = await run(pool({ band: 3 }));
    const start = few[0]!.report.energy;
    let given = 0;
    few.forEach((told, n) => {
      const other = all[n]!;
      expect(Math.abs(told.bulk / other.bulk - 1)).toBeLessThan(0.02);
      expect(Math.abs(told.centre[1] / other.centre[1] - 1)).toBeLessThan(0.02);
      expect(Math.abs(told.centre[0] - other.centre[0])).toBeLessThan(0.02 * 0.2);
      expect(told.volume / other.volume).toBeCloseTo(1, 5);
      expect(Math.abs(told.report.surfaceVolume / other.report.surfaceVolume - 1)).toBeLessThan(0.02);
      given += told.report.energy.correction;
      expect(told.report.energy.kinetic + told.report.energy.potential - given).toBeLessThan(1.005 * (start.kinetic + start.potential));
      expect(told.report.particles).toBe(told.count);
      expect(told.report.volume.end).toBeCloseTo(told.volume, 6);
    });
    // Deep ones stand for a voxel each, none of them near the surface; in a pool that is 18 voxels deep and narrow, 4 of 10 go.
    expect(few[24]!.count).toBeLessThan(0.62 * all[24]!.count);
    expect(few[24]!.largest).toBeGreaterThan(0.9);
    expect(few[24]!.largestAtTop).toBeLessThan(0.2);
    expect(few[24]!.report.lie!.empty).toBeLessThan(5);
  });

  it.each<[string, Partial<LiquidOptions['particles']>]>([
    ['8 and 1', { band: 3 }],
    ['27 and 8', { along: 3, inside: 2, band: 3 }],
  ])('merging and splitting keep volume and momentum: %s in a voxel', async (_name, particles) => {
    // Thrown, no gravity, and cut open by a drain: what was deep comes to the surface and is split.
    const options = liquidOptions({
      lastFrame: 5,
      particles,
      forces: { gravity: [0, 0, 0] },
      bounds: { limit: { min: [-2, -2, -2], max: [2, 2, 2] } },
      sources: [
        body({ kind: 'ball', centre: [0, 0, 0], radius: 0.6 }, { velocity: [1, 0.5, -0.25] }),
        body({ kind: 'ball', centre: [0.1, 0, 0], radius: 0.6 }),
        body(boxOf([-2, 0.1, -2], [2, 2, 2]), { act: 'drains', from: 3, to: 3 }),
      ],
    });
    const told = await run(options);
    const joined = told[0]!.volume;
    // Two balls that are counted once where they overlap.
    const d = 0.1;
    const lens = (Math.PI * (4 * 0.6 + d) * (2 * 0.6 - d) ** 2) / 12;
    expect(joined / ((8 / 3) * Math.PI * 0.6 ** 3 - lens)).toBeCloseTo(1, 1.5);
    expect(told[1]!.volume / joined).toBeCloseTo(1, 5);
    for (const a of [0, 1, 2] as const) expect(told[1]!.momentum[a]).toBeCloseTo(told[0]!.momentum[a], 2);
    expect(told[1]!.largest).toBeGreaterThan(0.9 / (particles.inside ?? 1) ** 3);
    const cut = told[4]!;
    expect(cut.volume / joined).toBeLessThan(0.75);
    expect(cut.largestAtTop).toBeLessThan(1.5 / (particles.along ?? 2) ** 3);
  });

  it('is off where the inside is to be as fine as the surface', async () => {
    const few = liquidOptions({ lastFrame: 2, particles: { band: 3, inside: 2 } });
    const all = liquidOptions({ lastFrame: 2 });
    expect((await run(few))[1]!.count).toBe((await run(all))[1]!.count);
  });
});

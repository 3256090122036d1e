import { describe, expect, it } from 'vitest';
import { body, boxOf, liquidOptions, runLiquid, withTeam } from '#testing';
import type { LiquidOptions, LiquidSource } from './options';
import type { LiquidReport } from './report';

/** Columns of half a voxel whose tops follow a height: with fills that are exact, a wave without stairs. */
const columns = (length: number, width: number, step: number, height: (x: number) => number): LiquidSource[] =>
  Array.from({ length: Math.round(length / step) }, (_v, n) =>
    body(boxOf([n * step, 0, 0], [(n + 1) * step, height((n + 0.5) * step), width])),
  );

/** Strength of the first standing wave across a box, frame by frame, metres: linear in how high the surface stands. */
async function firstMode(options: LiquidOptions, length: number, width: number): Promise<number[]> {
  const told: number[] = [];
  await withTeam(1, (team) =>
    runLiquid(team, options, {
      each: ({ cloud }) => {
        const { count, places, motions } = cloud();
        let sum = 0;
        for (let n = 0; n < count; n++) sum += motions[4 * n + 3]! * Math.cos((Math.PI * places[4 * n]!) / length);
        told.push((2 * sum) / (length * width));
      },
    }),
  );
  return told;
}

/** Times of the crests and troughs between frames, and how large they are, by parabolas. */
function extremes(values: readonly number[]): { readonly at: number; readonly size: number }[] {
  return values.flatMap((v, n) => {
    const [a, b] = [values[n - 1], values[n + 1]];
    if (a === undefined || b === undefined || Math.abs(v) < Math.abs(a) || Math.abs(v) <= Math.abs(b)) return [];
    const bend = a - 2 * v + b;
    const off = bend === 0 ? 0 : (a - b) / 2 / bend;
    return [{ at: n + off, size: Math.abs(v - ((a - b) * off) / 4) }];
  });
}

const LENGTH = 1;
const WIDTH = 0.2;
const DEEP = 0.5;
const wave = (h: number, matter: Partial<LiquidOptions['matter']> = {}, stepping: Partial<LiquidOptions['stepping']> = {}): LiquidOptions =>
  liquidOptions({
    voxelSize: h,
    lastFrame: 80,
    bounds: { limit: { min: [0, 0, 0], max: [LENGTH, 1, WIDTH] } },
    sources: columns(LENGTH, WIDTH, h / 2, (x) => DEEP + 0.03 * Math.cos((Math.PI * x) / LENGTH)),
    matter,
    stepping,
  });

describe('a small standing wave', () => {
  it.each<[string, LiquidOptions]>([
    ['by affine transfers', wave(0.05)],
    ['by FLIP', wave(0.05, { transfer: 'flip' })],
    ['in four substeps', wave(0.05, {}, { minimum: 4, maximum: 4 })],
  ])('never grows, is damped by a few per cent a period, and has its period: %s', async (_name, options) => {
    const found = extremes(await firstMode(options, LENGTH, WIDTH));
    expect(found.length).toBeGreaterThanOrEqual(5);
    const [first, last] = [found[0]!, found[found.length - 1]!];
    const periods = (found.length - 1) / 2;
    const k = Math.PI / LENGTH;
    const period = (2 * Math.PI) / Math.sqrt(9.80665 * k * Math.tanh(k * DEEP));
    const loss = 1 - (last.size / first.size) ** (1 / periods);
    expect(Math.abs((last.at - first.at) / periods / 24 / period - 1)).toBeLessThan(0.05);
    expect(loss).toBeGreaterThan(-0.005);
    expect(loss).toBeLessThan(0.05);
  });
});

describe('a slosh of a third of its depth', () => {
  it('has not gained after ten seconds, what the volume correction gives included', async () => {
    const told: LiquidReport[] = [];
    await withTeam(1, (team) =>
      runLiquid(
        team,
        liquidOptions({
          lastFrame: 241,
          bounds: { limit: { min: [0, 0, 0], max: [1.2, 1, 0.3] } },
          sources: columns(1.2, 0.3, 0.025, (x) => 0.45 + 0.15 * Math.cos((Math.PI * x) / 1.2)),
          matter: { volumeTime: 0.05 },
        }),
        { each: ({ report }) => told.push(report) },
      ),
    );
    const energy = told.map((r) => r.energy.kinetic + r.energy.potential);
    // Of the wave alone: over that of the same water at rest. It was 60 % more, and lived on the correction.
    const rest = 1000 * 9.80665 * 1.2 * 0.3 * 0.45 * 0.225;
    expect(Math.max(...energy) - rest).toBeLessThan(1.2 * (energy[0]! - rest));
    expect(told.reduce((n, r) => n + (r.energy.paid ?? 0), 0)).toBeGreaterThan(1);
  });
});

describe('a pool', () => {
  it.each([0.4, 0.41, 0.425, 0.437])('of a depth of %d m holds exactly that, and comes to rest', async (depth) => {
    const told: LiquidReport[] = [];
    await withTeam(1, (team) => {
      runLiquid(
        team,
        liquidOptions({
          lastFrame: 97,
          bounds: { limit: { min: [0, 0, 0], max: [0.4, 0.8, 0.4] } },
          sources: [body(boxOf([0, 0, 0], [0.4, depth, 0.4]))],
        }),
        { each: ({ report }) => told.push(report) },
      );
    });
    expect(Math.abs(told[0]!.volume.end / (0.16 * depth) - 1)).toBeLessThan(0.005);
    // From the second second on: what the seeds' irregularity stirs up dies down from there.
    const rms = told.slice(49).map((r) => Math.sqrt((2 * r.energy.kinetic) / (1000 * r.volume.end)));
    expect(Math.max(...rms)).toBeLessThan(0.004);
    expect(Math.abs(told[96]!.surfaceVolume / told[96]!.expectedVolume - 1)).toBeLessThan(0.01);
  });
});

describe('a viscous pool', () => {
  it.each([
    [0.01, 0.4],
    [0.01, 0.425],
    [1, 0.4],
  ])('of %d m2/s comes to rest, %d m deep: its walls hold nothing up that the pressure holds', async (viscosity, depth) => {
    const speeds: number[] = [];
    await withTeam(1, (team) =>
      runLiquid(
        team,
        liquidOptions({
          lastFrame: 60,
          bounds: { limit: { min: [0, 0, 0], max: [0.6, 0.6, 0.3] } },
          sources: [body(boxOf([0, 0, 0], [0.6, depth, 0.3]))],
          matter: { viscosity },
        }),
        { each: ({ report }) => speeds.push(Math.sqrt((2 * report.energy.kinetic) / (1000 * report.volume.end))) },
      ),
    );
    // It was 9 cm/s.
    expect(Math.max(...speeds.slice(48))).toBeLessThan(0.002);
  });
});

describe('bodies', () => {
  /** Litres of some bodies at their first frame. */
  const filled = (sources: LiquidSource[]): Promise<number> =>
    withTeam(1, (team) => runLiquid(team, liquidOptions({ lastFrame: 1, sources }))[0]!.report.volume.end * 1000);

  it('that overlap are counted once, and side by side they add up, wherever they meet', async () => {
    const ball = { kind: 'ball', centre: [0.6, 0.6, 0.2], radius: 0.18 } as const;
    const one = await filled([body(ball)]);
    expect(Math.abs(one / ((4000 / 3) * Math.PI * 0.18 ** 3) - 1)).toBeLessThan(0.003);
    expect(await filled([body(ball), body(ball), body(ball)])).toBeCloseTo(one, 5);
    const halves = [body(boxOf([0.1, 0, 0], [0.413, 0.31, 0.4])), body(boxOf([0.413, 0, 0], [0.7, 0.31, 0.4]))];
    expect(Math.abs((await filled(halves)) / (600 * 0.31 * 0.4) - 1)).toBeLessThan(0.002);
  });
});

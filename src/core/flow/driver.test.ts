import { describe, expect, it } from 'vitest';
import { gasOptions, body, boxOf, liquidOptions, runGas, runLiquid, withTeam } from '#testing';
import { actingOf, actsDuring, timeOfFrame } from './clock';
import { type FrameSpan, frameSpans, takeSubsteps } from './driver';

const RATES = [24, 20, 30, 24000 / 1001, 25 / 3];

describe('the clock', () => {
  it('lets a source act in its frames and in no other, at any rate', () => {
    for (const framesPerSecond of RATES) {
      const options = { ...gasOptions(), framesPerSecond, firstFrame: 1, lastFrame: 300, preRoll: 0 };
      const spans = [...frameSpans(options, null)];
      for (let f = 1; f <= 240; f++) {
        const acting = actingOf({ from: f, to: f }, options);
        const during = spans.filter((s) => s.end > s.begin && actsDuring(acting, s.begin, s.end - s.begin)).map((s) => s.frame);
        expect(during, `${String(framesPerSecond)} a second`).toEqual([f]);
      }
    }
  });

  it('a gas source that ends gives nothing more, and one that moves no jet', async () => {
    // 49 is one of the frames whose time is a rounding later than what the next step begins with.
    const clock = { firstFrame: 1, framesPerSecond: 24, timeScale: 1 };
    const late = Array.from({ length: 60 }, (_v, n) => n + 2).find((f) => timeOfFrame(f + 1, clock) - 1 / 24 < timeOfFrame(f, clock)) ?? 0;
    expect(late).toBeGreaterThan(1);
    const moves = { 'shape.centre.x': { kind: 'expression', text: '1.2 + time' } } as never;
    const options = gasOptions({
      firstFrame: late - 1,
      lastFrame: late + 1,
      matter: { lift: 0 },
      sources: [{ ...gasOptions().sources[0]!, from: late, to: late, moves }],
    });
    // The clock counts from the first frame: the same frame needs the same distance from it.
    const shifted = { ...options, firstFrame: 1, preRoll: 0, lastFrame: late + 1, sources: options.sources };
    const frames = await withTeam(1, (team) => runGas(team, { ...shifted, voxelSize: 0.2 }));
    const sources = frames.map((f) => f.report.mass.sources > 0);
    expect(sources).toEqual(frames.map((f) => f.report.frame === late));
    expect(frames[frames.length - 1]!.report.fastest).toBeLessThan(2);
    expect(frames[frames.length - 1]!.report.substepsWanted).toBe(frames[frames.length - 1]!.report.substepsUsed);
  });

  it('noise of emission knows the time of the computation: another time scale is the same matter in other frames', async () => {
    const noise = { amount: 0.8, size: 0.2, change: 0.1, octaves: 2, seed: 3 };
    const puff = gasOptions({ lastFrame: 3, voxelSize: 0.2, sources: [{ ...gasOptions().sources[0]!, noise }] });
    const jet = body(boxOf([0.1, 0.8, 0.1], [0.3, 1, 0.3]), { act: 'emits', velocity: [1, 0, 0], noise });
    const pour = liquidOptions({ lastFrame: 4, sources: [jet] });
    const of = async (timeScale: number): Promise<unknown[]> => [
      await withTeam(1, (team) => runGas(team, { ...puff, timeScale }).map((f) => f.grids[0]!.values)),
      await withTeam(1, (team) => runLiquid(team, { ...pour, timeScale }).map((f) => [f.cloud().places, f.cloud().motions])),
    ];
    expect(await of(0.25)).toEqual(await of(1));
  });
});

describe('substeps', () => {
  const span: FrameSpan = { frame: 7, begin: 0, end: 1 / 24, inRange: true };
  const limits = { voxelSize: 0.1, cancelled: () => false };
  /** A solver whose matter has these speeds, substep by substep. */
  const taken = (speeds: readonly number[], stepping: { cfl: number; minimum: number; maximum: number }) => {
    const steps: number[] = [];
    const found = takeSubsteps(
      span,
      { ...limits, stepping },
      { fastest: () => speeds[steps.length] ?? 0, acceleration: () => 0, step: (_t, dt) => void steps.push(dt) },
    );
    return { ...found, steps };
  };

  it('come to the frame, as many as the speed needs', () => {
    const { steps, used, wanted } = taken([9.6, 9.6, 9.6, 9.6], { cfl: 1, minimum: 1, maximum: 8 });
    expect([used, wanted, steps.length]).toEqual([4, 4, 4]);
    expect(steps.reduce((a, b) => a + b, 0)).toBeCloseTo(1 / 24, 12);
  });

  it('of a frame that slows down are not called too few: nothing was forbidden', () => {
    expect(taken([9.6, 0.1], { cfl: 1, minimum: 1, maximum: 8 })).toMatchObject({ used: 2, wanted: 2 });
    expect(taken([48, 48, 48], { cfl: 1, minimum: 1, maximum: 3 })).toMatchObject({ used: 3, wanted: 20 });
    expect(taken([0, 0, 0], { cfl: 1, minimum: 3, maximum: 8 })).toMatchObject({ used: 3, wanted: 3 });
  });
});

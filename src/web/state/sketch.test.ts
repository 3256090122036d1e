import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { type Plan, solveSchema, shotFieldsSchema } from '#core/shot';
import type { SketchMessage } from '#protocol';
import { makeReport } from '#testing/values';
import { createSketch } from './sketch';

const shot = shotFieldsSchema.parse({ name: 'Puff', lastFrame: 8 });
const settings = (voxelSize: number): ReturnType<typeof solveSchema.parse> => solveSchema.parse({ detail: { voxelSize } });

/** A worker that only remembers what it was asked for; the test speaks for it. */
/** As many voxels as a Sketch wants, four times as coarse as a Final of 0.1 m. */
const usual = (h: number): number => 30_000 * (0.4 / h) ** 3;

function open(expected = usual) {
  const plans: Plan[] = [];
  let send: (message: SketchMessage) => void = () => undefined;
  const sketch = createSketch(
    1,
    (_threads, receive) => {
      send = receive;
      return { start: ({ plan }) => plans.push(plan), stop: () => undefined, close: () => undefined };
    },
    (plan) => expected(plan.options.voxelSize),
  );
  const frame = (n: number, activeVoxels: number): void => {
    const data = new Uint8Array(8).fill(n);
    const preview = { size: [2, 2, 2] as const, origin: [0, 0, 0] as const, step: 1, low: 0, high: 1, components: 1 as const, data };
    send({
      kind: 'frame',
      generation: plans.length,
      report: makeReport({ frame: n, activeVoxels }),
      points: null,
      inRange: n > 0,
      previews: [{ bounds: 0, channel: 'density', preview }],
    });
  };
  const size = (): number => plans[plans.length - 1]?.options.voxelSize ?? NaN;
  return {
    sketch,
    plans,
    frame,
    size,
    done: () => {
      send({ kind: 'done', generation: plans.length });
    },
  };
}

beforeEach(() => {
  vi.useFakeTimers();
  vi.stubGlobal('requestAnimationFrame', (f: () => void) => setTimeout(f, 16));
});
afterEach(() => {
  vi.useRealTimers();
  vi.unstubAllGlobals();
});

describe('a Sketch', () => {
  it('keeps frames and pictures, and tells of several at once', () => {
    const { sketch, frame, done } = open();
    sketch.show(shot, settings(0.1));
    vi.runAllTimers();
    let told = 0;
    sketch.subscribe(() => told++);
    for (let n = 0; n < 6; n++) frame(n, 20_000);
    expect(told).toBe(0);
    vi.advanceTimersByTime(400);
    expect(told).toBe(1);
    // The frame before the first is computed and not for looking at.
    expect(sketch.getState().frames.map((f) => f.stored)).toEqual([false, true, true, true, true, true]);
    expect(sketch.preview(3, 'density')?.data[0]).toBe(3);
    done();
    expect(sketch.getState().computing).toBe(false);
  });

  it('waits until the hand rests before it begins anew', () => {
    const { sketch, plans, size } = open();
    sketch.show(shot, settings(0.1));
    vi.runAllTimers();
    for (const v of [0.11, 0.12, 0.13]) {
      sketch.show(shot, settings(v));
      vi.advanceTimersByTime(50);
    }
    expect(plans).toHaveLength(1);
    vi.runAllTimers();
    expect(plans).toHaveLength(2);
    // It stays as fine as is live, whatever the Final's voxels.
    expect(size()).toBeCloseTo(0.4, 9);
    expect(sketch.getState().factor).toBeCloseTo(0.4 / 0.13, 9);
  });

  it('is as fine as stays live by what the settings promise, and never finer than the Final', () => {
    const { sketch, size } = open();
    sketch.show(shot, settings(0.1));
    vi.runAllTimers();
    expect(size()).toBeCloseTo(0.4, 9);
    sketch.stop();
    sketch.show(shot, settings(0.05));
    vi.runAllTimers();
    expect(size()).toBeCloseTo(0.4, 2);
    const small = open(() => 50);
    small.sketch.show(shot, settings(0.1));
    vi.runAllTimers();
    expect(small.size()).toBeCloseTo(0.1, 9);
    expect(small.sketch.getState().factor).toBe(1);
  });

  it('coarsens when there are too many voxels, is computed again when there were few, and forgets it at the next start', () => {
    const { sketch, plans, frame, done, size } = open();
    sketch.show(shot, settings(0.1));
    vi.runAllTimers();
    expect(size()).toBeCloseTo(0.4, 9);
    frame(1, 240_000);
    // Eight times as many as aimed at: twice as coarse, and said.
    expect(size()).toBeCloseTo(0.8, 9);
    expect(sketch.getState().factor).toBeCloseTo(8, 9);
    frame(1, 3_750);
    done();
    expect(plans).toHaveLength(3);
    expect(size()).toBeCloseTo(0.4, 9);
    expect(sketch.getState().computing).toBe(true);
    frame(1, 29_000);
    done();
    expect(plans).toHaveLength(3);
    expect(sketch.getState().computing).toBe(false);
    frame(1, 240_000);
    sketch.stop();
    // Another shot, ten times as small: nothing of the last one clings to it.
    sketch.show(shot, settings(0.01));
    vi.runAllTimers();
    expect(size()).toBeCloseTo(0.4, 2);
  });

  it('ends where a little finer is too much and a little coarser too little', () => {
    const { sketch, plans, frame, done } = open();
    sketch.show(shot, settings(0.1));
    vi.runAllTimers();
    for (let n = 0; n < 10 && sketch.getState().computing; n++) {
      frame(1, 19_000);
      done();
      if (sketch.getState().computing) frame(1, 46_000);
    }
    expect(sketch.getState().computing).toBe(false);
    expect(plans.length).toBeLessThan(9);
  });
});

import { describe, expect, it } from 'vitest';
import { makePrediction } from '#testing/values';
import { allAhead, aheadOf } from '.';

const range = (likely: number) => ({ low: likely / 2, likely, high: likely * 2 });
const prediction = makePrediction({ time: range(100), disk: range(1000) });
const run = { state: 'running', frameCount: 10, framesDone: 4, seconds: 30, bytes: 300, prediction };

describe('what a run will still take', () => {
  it('is its prediction less its cost until now', () => {
    expect(aheadOf(run)).toEqual({ seconds: 70, bytes: 700 });
    expect(aheadOf({ ...run, state: 'queued', framesDone: 0, seconds: 0, bytes: 0 })).toEqual({ seconds: 100, bytes: 1000 });
  });
  it('is as much a frame as it took until now, where it was not predicted or takes more than that', () => {
    expect(aheadOf({ ...run, prediction: null })).toEqual({ seconds: 45, bytes: 450 });
    expect(aheadOf({ ...run, seconds: 200, bytes: 1000 })).toEqual({ seconds: 300, bytes: 1500 });
    expect(aheadOf({ ...run, prediction: { ...prediction, time: null } })).toEqual({ seconds: 45, bytes: 700 });
  });
  it('is nothing of one that is over, has all its frames, or of which nothing is known', () => {
    for (const state of ['done', 'cancelled', 'interrupted', 'failed'])
      expect(aheadOf({ ...run, state })).toEqual({ seconds: 0, bytes: 0 });
    expect(aheadOf({ ...run, framesDone: 10 })).toEqual({ seconds: 0, bytes: 0 });
    expect(aheadOf({ ...run, framesDone: 0, seconds: 0, bytes: 0, prediction: null })).toEqual({ seconds: 0, bytes: 0 });
  });
  it('of a shot is the sum over its unfinished runs', () => {
    expect(allAhead([run, { ...run, state: 'paused' }, { ...run, state: 'done' }])).toEqual({ seconds: 140, bytes: 1400, runs: 2 });
  });
});

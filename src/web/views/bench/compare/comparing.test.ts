import { describe, expect, it } from 'vitest';
import type { DetailedPrediction } from '#core/cost';
import { makeReport } from '#testing/values';
import { changeShort, changeText } from '../runs/change-text';
import { GAS_FIGURES } from '../gas/compare-figures';
import { sharedFrames } from '../frames/shared-frames';

const range = (likely: number): { low: number; likely: number; high: number } => ({ low: likely / 2, likely, high: likely * 2 });
const predicted = (time: number | null, memory: number, disk: number, voxels = 1e5): DetailedPrediction => ({
  voxels: range(voxels),
  memory: range(memory),
  disk: range(disk),
  time: time === null ? null : range(time),
  basis: 'same',
  from: 'run 1',
  frames: [],
});

describe('what a change costs, in words', () => {
  it('names what moves, and only that', () => {
    expect(changeText(predicted(100, 50, 20), predicted(240, 110, 20.5))).toBe('time × 2.4, memory × 2.2');
    expect(changeText(predicted(100, 50, 20), predicted(4, 50, 20))).toBe('time × 0.04');
    expect(changeShort(predicted(100, 50, 20), predicted(1200, 50, 20))).toBe('time × 12');
  });
  it('says so when nothing does, and goes by voxels while no time is known', () => {
    expect(changeText(predicted(100, 50, 20), predicted(102, 51, 20))).toBe('same cost');
    expect(changeShort(predicted(100, 50, 20), predicted(102, 51, 20))).toBeNull();
    expect(changeText(predicted(null, 50, 20, 1e5), predicted(null, 50, 20, 3e5))).toBe('time × 3.0');
  });
});

describe('frames of two runs', () => {
  const set = (from: number, to: number): Set<number> => new Set(Array.from({ length: to - from + 1 }, (_v, n) => from + n));
  it('are those that both hold, thinned evenly with both ends', () => {
    expect(sharedFrames(set(1, 10), set(5, 20), 25)).toEqual([5, 6, 7, 8, 9, 10]);
    const thin = sharedFrames(set(1, 97), set(1, 97), 25);
    expect(thin).toHaveLength(25);
    expect([thin[0], thin[1], thin[24]]).toEqual([1, 5, 97]);
    expect(sharedFrames(set(1, 4), set(9, 12), 25)).toEqual([]);
  });
});

describe('figures of a frame', () => {
  it('each has a number of the report and words for it', () => {
    const report = makeReport({ mass: { start: 10, advection: -0.2 }, residual: 5e-5 });
    const shown = Object.fromEntries(GAS_FIGURES.map((f) => [f.id, f.show(f.of(report))]));
    expect(shown).toMatchObject({ numerical: '-2.00 %', residual: '5.0e-5', substeps: '2', voxels: '100 k', fastest: '3 m/s' });
  });
});

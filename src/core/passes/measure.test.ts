import { describe, expect, it } from 'vitest';
import { makeShot, settingsOf } from '#testing/values';
import { Chain, type PassMeasure, factorsOf, measureOf, predictPass } from '.';

const settings = settingsOf({}, [{ id: 'coarse', kind: 'resample', name: 'Coarse', settings: { voxelFactor: 2 } }]);
const plan = new Chain(makeShot().fields, settings, { run: () => null, folder: () => null }).entry('coarse', 'test').plan!;
const voxels = (frame: number): number => 1000 * frame;
const none = (): number => 0;
/** Of three channels that hold nothing. */
const EMPTY = 30_000;
/** A run that took so much for each voxel that it read. */
const run = (by: { seconds?: number; kept?: number; bytes?: number; memory?: number } = {}, pass: string | null = 'coarse'): PassMeasure =>
  measureOf(
    plan,
    pass,
    [1, 2, 3, 4].map((frame) => ({
      frame,
      seconds: (by.seconds ?? 2e-6) * voxels(frame),
      kept: (by.kept ?? 0.1) * voxels(frame),
      bytes: EMPTY + (by.bytes ?? 5) * (by.kept ?? 0.1) * voxels(frame),
      memoryBytes: (by.memory ?? 30) * voxels(frame),
    })),
    voxels,
    none,
  )!;

describe('what a pass took', () => {
  it('is what is predicted of the same frames again', () => {
    const factors = factorsOf('resample', 'coarse', [run()]);
    const p = predictPass(plan, voxels, factors, 1);
    const all = 1000 * 24 * 12.5;
    expect(p.from).toBe('this pass');
    expect(p.seconds).toBeCloseTo(2e-6 * all, 6);
    expect(p.bytes).toBeCloseTo(0.5 * all + 24 * EMPTY, 3);
    expect(p.memoryBytes).toBeCloseTo(30 * 24_000, 3);
    expect(p.gives.get(7)).toBeCloseTo(700, 6);
    expect([p.ranges.time.likely, p.ranges.disk.likely, p.ranges.memory.likely]).toEqual([p.seconds, p.bytes, p.memoryBytes]);
    for (const { low, likely, high } of Object.values(p.ranges)) expect(low < likely && likely < high).toBe(true);
  });

  it('of this pass says more than of others; of others the middle counts, and how far they lie apart', () => {
    const others = [1, 2, 4].map((n) => run({ seconds: n * 1e-6 }, null));
    const kind = factorsOf('resample', 'coarse', others);
    expect(kind.from).toBe('its kind');
    expect(kind.factors.secondsPerElement.likely / others[1]!.secondsPerElement).toBeCloseTo(1, 6);
    const alike = factorsOf('resample', 'coarse', [others[1]!, others[1]!]).factors.secondsPerElement;
    const width = ({ low, high }: { low: number; high: number }): number => high / low;
    expect(width(kind.factors.secondsPerElement)).toBeGreaterThan(1.5 * width(alike));
    const own = factorsOf('resample', 'coarse', [...others, run({ seconds: 9e-6 })]);
    expect(own.factors.secondsPerElement.likely / others[0]!.secondsPerElement).toBeCloseTo(9, 6);
    expect(width(own.factors.secondsPerElement)).toBeLessThan(width(alike));
    // The newest of its own.
    const newer = factorsOf('resample', 'coarse', [run({ seconds: 9e-6 }), run({ seconds: 3e-6 })]);
    expect(newer.factors.secondsPerElement.likely / others[0]!.secondsPerElement).toBeCloseTo(3, 6);
  });

  it('of other kinds says nothing: then it is what the definition knows, within a factor of three', () => {
    const { factors, from } = factorsOf('detail', 'fine', [run()]);
    expect(from).toBe('nothing');
    expect(factors.secondsPerElement.high / factors.secondsPerElement.likely).toBe(3);
  });

  it('says nothing where nothing was', () => {
    expect(measureOf(plan, null, [], voxels, none)).toBeNull();
    expect(measureOf(plan, null, [{ frame: 1, seconds: 1, bytes: 9, kept: 9, memoryBytes: 9 }], none, none)).toBeNull();
  });
});

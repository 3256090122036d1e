import { describe, expect, it } from 'vitest';
import { makePassRun, settingsOf } from '#testing/values';
import { tooLarge } from './fits';

const planOf = (kind: 'detail' | 'resample', settings: object) =>
  makePassRun(settingsOf({ keep: { vel: true } }, [{ id: 'finer', kind, name: 'Finer', settings }]), 'finer').plan;

describe('a pass that is too large', () => {
  it('is told the factor that fits, which then does fit', () => {
    const refusal = tooLarge(planOf('detail', { factor: 8 }), 2e6, 4e9);
    expect(refusal?.message).toMatch(/^Detail needs about \d+ GB of memory, and 4 GB are there\. A factor of [\d.]+ fits/);
    const fits = Number(/factor of ([\d.]+) fits/.exec(refusal!.message)![1]);
    expect(fits).toBeGreaterThan(1.5);
    expect(tooLarge(planOf('detail', { factor: fits }), 2e6, 4e9)).toBeNull();
  });

  it('without a factor is told to read less; one that may fit is let through', () => {
    expect(tooLarge(planOf('resample', {}), 1e9, 4e9)?.message).toMatch(/Let it read a coarser or smaller cache/);
    expect(tooLarge(planOf('detail', { factor: 2 }), 1e5, 4e9)).toBeNull();
  });
});

import { describe, expect, it } from 'vitest';
import { makePassRun, makeRun, settingsOf } from '#testing/values';
import { sidesOf } from './sides';

const passes = [
  { id: 'finer', kind: 'detail', name: 'Finer smoke' },
  { id: 'held', kind: 'held', name: 'Held' },
  { id: 'coarse', kind: 'resample', name: 'Coarse' },
] as Parameters<typeof settingsOf>[1];
const settings = settingsOf({ keep: { vel: true, density: true, temperature: true } }, passes);
const [finer, held, coarse] = ['finer', 'held', 'coarse'].map((id) => makePassRun(settings, id)) as [
  ReturnType<typeof makePassRun>,
  ReturnType<typeof makePassRun>,
  ReturnType<typeof makePassRun>,
];
const base = makeRun();
const titles = (...args: Parameters<typeof sidesOf>): string[] => sidesOf(...args).map((s) => s.title);
const name = (id: string): string => id;

describe('what stands beside a finer pass', () => {
  it('is its base, itself, what else was made finer of that base, and the same solve computed finer', () => {
    const plain = makeRun({ id: 'run-9', number: 9, rung: 'final' });
    const fine = { ...plain, plan: { ...plain.plan, options: { ...plain.plan.options, voxelSize: base.plan.options.voxelSize / 2 } } };
    expect(titles(finer, [base, fine], [finer, held, coarse], name)).toEqual(['Base: Test, run 1', 'finer', 'held', 'Plain: Final, run 9']);
  });

  it('leaves out what was freed, what reads another run, and has nothing for passes that make nothing finer', () => {
    expect(titles(finer, [base], [finer, { ...held, freed: true }], name)).toEqual(['Base: Test, run 1', 'finer']);
    expect(titles(finer, [base], [finer, { ...held, inputs: ['run-7'] }], name)).toEqual(['Base: Test, run 1', 'finer']);
    expect(titles(finer, [{ ...base, freed: true }], [finer, held], name)).toEqual([]);
    expect(titles(coarse, [base], [finer, coarse], name)).toEqual([]);
    expect(titles(null, [base], [], name)).toEqual([]);
  });
});

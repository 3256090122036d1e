import { describe, expect, it } from 'vitest';
import { stepBetween, stepped } from './history';

const before = {
  fields: { name: 'Yard' },
  settings: { voxelSize: 0.1, sources: [{ name: 'a', at: [0, 1, 2] }], noise: null as null | object },
};

describe('history', () => {
  it('keeps an edit as patches no larger than it, and goes both ways', () => {
    const after = { ...before, settings: { ...before.settings, voxelSize: 0.08, noise: { size: 1 } } };
    const step = stepBetween(before, after, 'Voxel size')!;
    expect(step.forward.map((p) => p.path.join('.'))).toEqual(['settings.voxelSize', 'settings.noise']);
    expect(stepped(before, step.forward)).toEqual(after);
    expect(stepped(after, step.back)).toEqual(before);
  });

  it('arrays that grow and shrink come back whole', () => {
    const after = { ...before, settings: { ...before.settings, sources: [...before.settings.sources, { name: 'b', at: [3, 4, 5] }] } };
    const step = stepBetween(before, after, 'Add')!;
    expect(stepped(stepped(before, step.forward), step.back)).toEqual(before);
    const less = stepBetween(after, before, 'Remove')!;
    expect(stepped(stepped(after, less.forward), less.back)).toEqual(after);
  });

  it('a key that is taken out is gone, in both ways: a strict shape reads what comes out', () => {
    const keys = { moves: { fuel: { kind: 'keys', keys: [1, 2] } } };
    const typed = { moves: { fuel: { kind: 'expression', text: 'value' } } };
    const step = stepBetween<object>(keys, typed, 'Expression')!;
    expect(stepped<object>(keys, step.forward)).toStrictEqual(typed);
    expect(stepped<object>(typed, step.back)).toStrictEqual(keys);
  });

  it('items of unlike kinds that change places are what they were, with what is null in them', () => {
    const one = { kind: 'stills', settings: { camera: null, width: 480 } };
    const two = { kind: 'particles', settings: { source: null, life: 4 } };
    const [from, to] = [{ passes: [one, two] as object[] }, { passes: [two, one] as object[] }];
    const step = stepBetween(from, to, 'Order')!;
    expect(stepped(from, step.forward)).toStrictEqual(to);
    expect(stepped(to, step.back)).toStrictEqual(from);
  });

  it('an edit that changes nothing is none', () => {
    expect(stepBetween(before, structuredClone(before), 'Nothing')).toBeNull();
  });
});

import { describe, expect, it } from 'vitest';
import { type FollowerKind, followersOf, settingsSchema } from '#core/shot';
import { settingsOf } from '#testing/values';
import { changePass, movedPass, withPass, withoutPass } from './pass-edits';

const settings = settingsOf({}, [
  { id: 'coarse', kind: 'resample', name: 'Coarse' },
  { id: 'sparks', kind: 'particles', name: 'Sparks' },
  { id: 'look', kind: 'stills', name: 'Look', input: { pass: 'coarse', rung: 'test', run: 'run-9' } },
]);
const chain = followersOf(settings);
const readable = (passes: readonly object[]): boolean =>
  settingsSchema.safeParse({ ...settings, passes: [settings.passes[0], ...passes] }).success;
const ids = (passes: readonly { id: string }[] | null): string[] | null => passes && passes.map((p) => p.id);

describe('edits of the passes', () => {
  it('a pass that is added has a name and an id of its own', () => {
    const one = withPass([], 'stills', 'solve');
    expect(one).toMatchObject({
      id: 'stills',
      passes: [{ id: 'stills', name: 'Stills', kind: 'stills', input: { pass: 'solve', rung: 'same', run: null, folder: null } }],
    });
    const two = withPass(one.passes, 'stills', 'solve');
    expect(two.passes.map((p) => [p.id, p.name])).toEqual([
      ['stills', 'Stills'],
      ['stills-2', 'Stills 2'],
    ]);
    expect(readable(two.passes)).toBe(true);
  });

  it('a pass that is added reads the solve, or what it can read at all, what was looked at first', () => {
    const reads = (kind: FollowerKind, looked: string) => withPass(chain, kind, looked).passes[3]!.input.pass;
    expect(reads('detail', 'coarse')).toBe('solve');
    expect(reads('refill', 'sparks')).toBe('sparks');
    expect(reads('fed', 'coarse')).toBe('sparks');
    expect(withPass([], 'refill', 'solve').passes[0]!.input.pass).toBe('solve');
  });

  it('what read a pass that is taken out reads what that read, and is pinned to nothing', () => {
    const left = withoutPass(chain, 'coarse');
    expect(ids(left)).toEqual(['sparks', 'look']);
    expect(left[1]!.input).toEqual({ pass: 'solve', rung: 'test', run: null, folder: null });
    expect(readable(left)).toBe(true);
  });

  it('counts all that a pass reads: when one is taken out, and when it is moved', () => {
    const two = followersOf(
      settingsOf({}, [
        { id: 'sparks', kind: 'particles', name: 'Sparks' },
        { id: 'fine', kind: 'detail', name: 'Fine' },
        { id: 'spray', kind: 'refill', name: 'Spray', input: { pass: 'sparks' }, velocity: { pass: 'fine', run: 'run-3' } },
      ]),
    );
    expect(withoutPass(two, 'fine')[1]).toMatchObject({ input: { pass: 'sparks' }, velocity: { pass: 'solve', run: null } });
    expect(withoutPass(two, 'sparks')[1]).toMatchObject({ input: { pass: 'solve' }, velocity: { pass: 'fine', run: 'run-3' } });
    expect(ids(movedPass(two, 1, 0))).toEqual(['fine', 'sparks', 'spray']);
    expect(movedPass(two, 2, 1)).toBeNull();
    expect(movedPass(two, 1, 2)).toBeNull();
  });

  it('a pass moves as far as what it reads, and what reads it, allow', () => {
    expect(ids(movedPass(chain, 1, 0))).toEqual(['sparks', 'coarse', 'look']);
    expect(ids(movedPass(chain, 1, 2))).toEqual(['coarse', 'look', 'sparks']);
    // Before what it reads.
    expect(movedPass(chain, 2, 0)).toBeNull();
    expect(movedPass(chain, 0, 2)).toBeNull();
    expect(movedPass(chain, 0, -1)).toBeNull();
    expect(movedPass(chain, 2, 3)).toBeNull();
  });

  it('changes one and leaves the others what they are', () => {
    const changed = followersOf(changePass(settings, 'sparks', (p) => ({ ...p, enabled: false })));
    expect(changed[1]!.enabled).toBe(false);
    expect(changed[0]).toBe(chain[0]);
  });

  it('settings refuse a pass that reads one behind it, itself or nothing, and two of an id', () => {
    const read = (id: string, pass: string): object => ({ id, kind: 'resample', name: id, input: { pass } });
    for (const passes of [
      [read('a', 'b'), read('b', 'solve')],
      [read('a', 'a')],
      [read('a', 'x')],
      [read('a', 'solve'), read('a', 'solve')],
      [read('solve', 'solve')],
    ])
      expect(readable(passes)).toBe(false);
  });
});

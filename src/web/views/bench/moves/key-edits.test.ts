import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { Key } from '#core/moves';
import { keysWithin, movedKeys, slopeOf, withKey, withoutKeys } from './key-edits';

const key = (frame: number, value: number): Key => ({ frame, value, then: 'smooth', arrive: null, leave: null });
const keys = [key(1, 0), key(10, 5), key(20, 2)];

describe('editing keys', () => {
  it('adds in order, and gives a key that is there the new value', () => {
    expect(withKey(keys, 15, 9).keys.map((k) => k.frame)).toEqual([1, 10, 15, 20]);
    const again = withKey(keys, 10, 9);
    expect(again.keys).toHaveLength(3);
    expect(again.keys[again.index]).toMatchObject({ frame: 10, value: 9 });
  });

  it('moves several together, past others, and over one that is then gone', () => {
    const past = movedKeys(keys, new Set([0]), 12, 1);
    expect(past.keys.map((k) => [k.frame, k.value])).toEqual([
      [10, 5],
      [13, 1],
      [20, 2],
    ]);
    expect([...past.picked]).toEqual([1]);
    const over = movedKeys(keys, new Set([0, 1]), 10, 0);
    expect(over.keys.map((k) => [k.frame, k.value])).toEqual([
      [11, 0],
      [20, 5],
    ]);
    expect([...over.picked]).toEqual([0, 1]);
  });

  it('keeps the frames ascending, each once, whatever is dragged where', () => {
    fc.assert(
      fc.property(
        fc.uniqueArray(fc.integer({ min: -20, max: 20 }), { minLength: 1, maxLength: 8 }),
        fc.integer({ min: -30, max: 30 }),
        fc.nat(255),
        (frames, by, mask) => {
          const list = [...frames].sort((a, b) => a - b).map((f) => key(f, f));
          const picked = new Set(list.flatMap((_k, n) => ((mask >> n) & 1 ? [n] : [])));
          const result = movedKeys(list, picked, by, 0).keys;
          expect(result.length).toBeGreaterThan(0);
          result.forEach((k, n) => n > 0 && expect(k.frame).toBeGreaterThan(result[n - 1]!.frame));
        },
      ),
    );
  });

  it('never takes the last key', () => {
    expect(withoutKeys(keys, new Set([0, 1, 2]))).toHaveLength(1);
    expect(withoutKeys(keys, new Set([1])).map((k) => k.frame)).toEqual([1, 20]);
  });

  it('picks by a box drawn in any direction, and says slopes', () => {
    expect([...keysWithin(keys, [12, 0], [6, -1])]).toEqual([0, 1]);
    expect(slopeOf(keys, 1, 'leave')).toBe(0);
    expect(slopeOf([{ ...key(1, 0), leave: 3 }, key(2, 1)], 0, 'leave')).toBe(3);
  });
});

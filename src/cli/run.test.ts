import { describe, expect, it } from 'vitest';
import { UsageError } from './exit';
import { parseRunArguments } from './run';

describe('arguments of ruddle run', () => {
  it('have their defaults', () => {
    const a = parseRunArguments(['shot.json', '--out', 'x']);
    expect(a).toMatchObject({ file: 'shot.json', variant: null, rung: 'final', frames: null, json: false });
    expect(a.threads).toBeGreaterThan(0);
    expect(a.out.endsWith('x')).toBe(true);
  });
  it('are read', () => {
    const a = parseRunArguments([
      's.json',
      '--out',
      'x',
      '--variant',
      'Finer',
      '--rung',
      'test',
      '--frames=-3-12',
      '--threads',
      '2',
      '--json',
    ]);
    expect(a).toMatchObject({ variant: 'Finer', rung: 'test', frames: [-3, 12], threads: 2, json: true });
  });
  it('that are wrong are refused with what can be', () => {
    const wrong: [string[], RegExp][] = [
      [['s.json', '--out', 'x', '--pass', 'look', '--rung', 'sketch'], /A Sketch has no passes/],
      [['s.json', '--out', 'x', '--pass', 'look', '--frames', '1-4'], /over its whole range/],
      [['--out', 'x'], /one shot file/],
      [['a', 'b', '--out', 'x'], /one shot file/],
      [['a'], /--out DIR/],
      [['a', '--out', 'x', '--rung', 'best'], /sketch, test or final/],
      [['a', '--out', 'x', '--frames', '1..4'], /1-48/],
      [['a', '--out', 'x', '--threads', '0'], /1 to 64/],
      [['a', '--out', 'x', '--threads', 'two'], /1 to 64/],
    ];
    for (const [args, message] of wrong) {
      expect(() => parseRunArguments(args)).toThrow(UsageError);
      expect(() => parseRunArguments(args)).toThrow(message);
    }
    expect(() => parseRunArguments(['a', '--colour', 'red'])).toThrow(/colour/);
  });
});

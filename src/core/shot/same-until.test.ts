import { describe, expect, it } from 'vitest';
import { type Key, valueOfKeys } from '#core/moves';
import { parseShotFile, resolvePlan, sameUntil, gasSolveOf, type GasPlan } from '.';

type Short = readonly [frame: number, value: number, then?: 'smooth' | 'straight' | 'hold'];
const plan = (heat: readonly Short[], more: object = {}, source: object = {}): GasPlan => {
  const shot = parseShotFile(
    JSON.stringify({
      ruddle: 1,
      name: 'Puff',
      lastFrame: 100,
      variants: [
        {
          name: 'One',
          settings: {
            bounds: { limit: { min: [0, 0, 0], max: [4, 4, 4] } },
            sources: [
              {
                name: 'Vent',
                shape: { kind: 'ball', centre: [2, 1, 2], radius: 0.5 },
                moves: { heat: { kind: 'keys', keys: heat.map(([frame, value, then = 'smooth']) => ({ frame, value, then })) } },
                ...source,
              },
            ],
            ...more,
          },
        },
      ],
    }),
    'puff.json',
  );
  return resolvePlan(shot, gasSolveOf(shot.variants[0]!.settings), 'test');
};
const keysOf = (p: GasPlan): readonly Key[] => {
  const move = p.options.sources[0]!.moves['heat'];
  if (move?.kind !== 'keys') throw new Error('no keys');
  return move.keys;
};
/** The first is the largest: from the largest amount follows what counts as quiet, from the first frame on. */
const BASE: readonly Short[] = [
  [10, 900],
  [30, 500],
  [50, 200],
  [70, 600],
];

describe('two plans', () => {
  it.each([
    ['a later value', [...BASE.slice(0, 3), [70, 650]]],
    ['a later frame', [...BASE.slice(0, 3), [72, 600]]],
    ['one more key at the end', [...BASE, [90, 100]]],
    ['one less', BASE.slice(0, 3)],
    ['one in between', [...BASE.slice(0, 2), [40, 800], ...BASE.slice(2)]],
    ['another way on', [BASE[0]!, [30, 500, 'hold'], ...BASE.slice(2)]],
    ['the second key', [BASE[0]!, [30, 510], ...BASE.slice(2)]],
  ] as readonly (readonly [string, readonly Short[]])[])('with %s have the same curve as far as is said', (_what, keys) => {
    const [a, b] = [plan(BASE), plan(keys)];
    const until = sameUntil(a, b)!;
    expect(until).toBeGreaterThanOrEqual(10);
    expect(until).toBe(sameUntil(b, a));
    const at = (p: GasPlan, frame: number): number => valueOfKeys(keysOf(p), frame);
    for (let frame = -10; frame <= until; frame += 0.125) expect(at(a, frame)).toBe(at(b, frame));
    // It says nothing of a curve that stays the same.
    const frames = Array.from({ length: 800 }, (_v, n) => until + (n + 1) * 0.125);
    expect(frames.some((f) => at(a, f) !== at(b, f))).toBe(true);
  });

  it('that are equal but for names and the last frame are the same throughout', () => {
    const a = plan(BASE);
    expect(sameUntil(a, { ...a, options: { ...a.options, lastFrame: 240 } })).toBe(Infinity);
    expect(sameUntil(a, plan(BASE, {}, { name: 'Chimney' }))).toBe(Infinity);
  });

  it.each([
    ['the first key', plan([[10, 910], ...BASE.slice(1)])],
    ['the largest amount', plan([...BASE.slice(0, 3), [70, 1000]])],
    ['a number that does not move', plan(BASE, { detail: { voxelSize: 0.05 } })],
    ['what is kept', plan(BASE, { keep: { vel: false } })],
    [
      'limits of a move',
      plan(BASE, {}, { moves: { heat: { kind: 'keys', limits: [0, 900], keys: BASE.map(([frame, value]) => ({ frame, value })) } } }),
    ],
    ['an expression', plan(BASE, {}, { moves: { heat: { kind: 'expression', text: '300 + frame' } } })],
    ['another source', plan(BASE, {}, { density: 0.5 })],
  ])('that differ in %s have nothing in common', (_what, other) => {
    expect(sameUntil(plan(BASE), other)).toBeNull();
  });
});

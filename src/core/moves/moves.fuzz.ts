import fc from 'fast-check';
import { expect, it } from 'vitest';
import { fuzz, within } from '#testing/fuzz';
import { FUNCTIONS, type Move, VARIABLES, parseExpression, valueOfMove, whyNoValue } from '.';

const moment = { time: 0.5, firstFrame: 1, framesPerSecond: 24 };

/** A text that is an expression, and its value by a reference that never sees the text. */
interface Written {
  readonly text: string;
  readonly value: number;
}
const VALUES: Readonly<Record<(typeof VARIABLES)[number], number>> = { time: 0.5, frame: 13, fps: 24, pi: Math.PI, value: 7 };
const OPS: Readonly<Record<string, (a: number, b: number) => number>> = {
  '+': (a, b) => a + b,
  '-': (a, b) => a - b,
  '*': (a, b) => a * b,
  '/': (a, b) => a / b,
  '<': (a, b) => (a < b ? 1 : 0),
  '>': (a, b) => (a > b ? 1 : 0),
  '<=': (a, b) => (a <= b ? 1 : 0),
  '>=': (a, b) => (a >= b ? 1 : 0),
  '==': (a, b) => (a === b ? 1 : 0),
  '!=': (a, b) => (a === b ? 0 : 1),
};
const within01 = (t: number): number => Math.min(1, Math.max(0, t));
const CALLS: readonly (readonly [string, number, (...v: number[]) => number])[] = [
  ...(['sin', 'cos', 'tan', 'abs', 'floor', 'sqrt', 'exp', 'log'] as const).map((name) => [name, 1, (x = 0) => Math[name](x)] as const),
  ['min', 2, (...v) => v.reduce((a, b) => Math.min(a, b), Infinity)],
  ['max', 3, (...v) => v.reduce((a, b) => Math.max(a, b), -Infinity)],
  ['clamp', 3, (x = 0, low = 0, high = 0) => Math.min(high, Math.max(low, x))],
  ['mix', 3, (a = 0, b = 0, t = 0) => a + (b - a) * t],
  [
    'smoothstep',
    3,
    (low = 0, high = 0, x = 0) => {
      const t = within01((x - low) / (high - low));
      return 3 * t ** 2 - 2 * t ** 3;
    },
  ],
];
const written = fc.letrec<{ tree: Written }>((tie) => ({
  tree: fc.oneof(
    { depthSize: 'small', withCrossShrink: true },
    fc.double({ min: 0, max: 9, noNaN: true }).map((v) => ({ text: v.toFixed(3), value: Number(v.toFixed(3)) })),
    fc.constantFrom(...VARIABLES).map((text) => ({ text, value: VALUES[text] })),
    fc
      .tuple(fc.constantFrom(...Object.entries(OPS)), tie('tree'), tie('tree'))
      .map(([[op, apply], a, b]) => ({ text: `(${a.text}) ${op} (${b.text})`, value: apply(a.value, b.value) })),
    // Without brackets: powers bind before minus, times before plus.
    tie('tree').map((a) => ({ text: `-2 ^ 2 + 3 * (${a.text})`, value: -4 + 3 * a.value })),
    fc.constantFrom(...CALLS).chain(([name, count, apply]) =>
      fc.array(tie('tree'), { minLength: count, maxLength: count }).map((args) => ({
        text: `${name}(${args.map((a) => a.text).join(', ')})`,
        value: apply(...args.map((a) => a.value)),
      })),
    ),
  ),
})).tree;

it('what is written in the language has the value that it has elsewhere', () => {
  let read = 0;
  fc.assert(
    fc.property(written, ({ text, value: wanted }) => {
      const parsed = parseExpression(text);
      if (!parsed.ok) {
        // Too long or too deep: the only reasons.
        expect(parsed.message).toMatch(/longer than|too many brackets/);
        return;
      }
      read++;
      const move: Move = { kind: 'expression', text };
      const value = within(200, () => valueOfMove(move, 7, moment, {}));
      if (Number.isNaN(wanted)) expect(value).toBeNaN();
      else if (Math.abs(wanted) < 1e6) expect(value).toBeCloseTo(wanted, 6);
    }),
    fuzz(1500),
  );
  expect(read).toBeGreaterThan(500);
});

const piece = fc.oneof(
  fc.constantFrom(
    ...VARIABLES,
    ...Object.keys(FUNCTIONS),
    ...Object.keys(OPS),
    '(',
    ')',
    ',',
    '.',
    '^',
    '[0]',
    'sources[0].heat',
    ' ',
    '1e',
    '1e308',
    '0',
  ),
  fc.string({ maxLength: 3 }),
);

it('whatever else is typed is an expression or a mistake with its place; what has no value says why, and where', () => {
  fc.assert(
    fc.property(fc.array(piece, { maxLength: 40 }), (pieces) => {
      const text = pieces.join('');
      within(200, () => {
        const parsed = parseExpression(text);
        if (!parsed.ok) {
          expect(parsed.column).toBeGreaterThan(0);
          expect(parsed.column).toBeLessThanOrEqual(text.length + 1);
          return;
        }
        const move: Move = { kind: 'expression', text };
        const value = valueOfMove(move, 7, moment, { 'sources[0].heat': { value: 3, move: null } });
        const why = whyNoValue(move, 7, moment, { 'sources[0].heat': { value: 3, move: null } });
        expect(why === null).toBe(Number.isFinite(value));
      });
    }),
    fuzz(3000),
  );
});

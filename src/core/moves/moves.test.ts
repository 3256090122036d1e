import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { type Key, type Move, atMoment, parseExpression, readBy, valueOfKeys, valueOfMove } from '.';

const moment = (time: number) => ({ time, firstFrame: 1, framesPerSecond: 24 });
const at = (text: string, time = 0, value = 0): number => valueOfMove({ kind: 'expression', text }, value, moment(time), {});
const mistake = (text: string): { column: number; message: string } => {
  const parsed = parseExpression(text);
  if (parsed.ok) throw new Error(`${text} was read`);
  return parsed;
};

describe('expressions', () => {
  it('keep the order of arithmetic', () => {
    expect(at('1 + 2 * 3 - 4 / 2')).toBe(5);
    expect(at('-2^2')).toBe(-4);
    expect(at('2^-1')).toBe(0.5);
    expect(at('2^3^2')).toBe(512);
    expect(at('(1 + 2) * -3')).toBe(-9);
    expect(at('1 + 1 < 3')).toBe(1);
    expect(at('2 * 3 == 7')).toBe(0);
  });

  it('know time, frame, rate, pi and the value on the sheet', () => {
    expect(at('time', 1.5)).toBe(1.5);
    expect(at('frame', 1.5)).toBe(37);
    expect(at('fps')).toBe(24);
    expect(at('value * 2', 0, 7)).toBe(14);
    expect(at('sin(pi / 2)')).toBeCloseTo(1, 12);
  });

  it('have the functions of the list', () => {
    expect(at('clamp(5, 0, 2) + mix(1, 3, 0.5) + smoothstep(0, 1, 0.5)')).toBe(4.5);
    expect(at('min(3, 1, 2) + max(3, 1, 2) + abs(-1) + floor(1.9)')).toBe(6);
    expect(at('sqrt(9) + exp(0) + log(1)')).toBe(4);
    expect(at('random(3, 1)')).toBe(at('random(3.9, 1)'));
    expect(at('random(3, 1)')).not.toBe(at('random(3, 2)'));
    const noise = Array.from({ length: 200 }, (_, n) => at('noise(time * 3, 4)', n / 24));
    expect(Math.max(...noise.map(Math.abs))).toBeLessThanOrEqual(1.5);
    expect(Math.max(...noise) - Math.min(...noise)).toBeGreaterThan(0.4);
    expect(Math.max(...noise.slice(1).map((v, n) => Math.abs(v - (noise[n] ?? 0))))).toBeLessThan(0.5);
  });

  it('say where a mistake is', () => {
    expect(mistake('1 + foo(2)')).toMatchObject({ column: 5, message: 'there is no function "foo"' });
    expect(mistake('2 * tim')).toMatchObject({ column: 5, message: '"tim" is not known' });
    expect(mistake('sin + 1')).toMatchObject({ column: 1, message: expect.stringContaining('wants brackets') as string });
    expect(mistake('(1 + 2')).toMatchObject({ column: 1 });
    expect(mistake('1 +')).toMatchObject({ column: 4 });
    expect(mistake('1 2')).toMatchObject({ column: 3 });
    expect(mistake('mix(1, 2)')).toMatchObject({ column: 1, message: 'mix takes 3 numbers, not 2' });
    expect(mistake('  ')).toMatchObject({ column: 1 });
    expect(mistake('('.repeat(100) + '1' + ')'.repeat(100)).message).toContain('brackets');
  });

  it('cannot reach anything but what is listed', () => {
    for (const text of ['constructor', 'toString()', '__proto__()', 'hasOwnProperty(1)', 'this', 'value = 3', '"a"', 'time; time']) {
      expect(parseExpression(text).ok, text).toBe(false);
    }
  });

  it('never throw and never hang, whatever is typed', () => {
    fc.assert(
      fc.property(fc.string({ maxLength: 60 }), (text) => {
        const parsed = parseExpression(text);
        if (parsed.ok) expect(typeof at(text)).toBe('number');
        else expect(parsed.column).toBeGreaterThan(0);
      }),
    );
  });

  it('read other settings, moving ones too, and have no value in a circle', () => {
    const move: Move = { kind: 'expression', text: 'sources[0].heat / 2 + matter.lift' };
    expect(readBy(move)).toEqual([
      { path: 'sources[0].heat', column: 1 },
      { path: 'matter.lift', column: 23 },
    ]);
    const followed = {
      'sources[0].heat': { value: 100, move: { kind: 'expression', text: 'value * time' } as const },
      'matter.lift': { value: 1, move: null },
    };
    expect(valueOfMove(move, 0, moment(2), followed)).toBe(101);
    const circle = { 'matter.lift': { value: 1, move: { kind: 'expression', text: 'matter.lift + 1' } as const } };
    expect(valueOfMove({ kind: 'expression', text: 'matter.lift' }, 0, moment(0), circle)).toBeNaN();
  });
});

const key = (frame: number, value: number, more: Partial<Key> = {}): Key => ({
  frame,
  value,
  then: 'smooth',
  arrive: null,
  leave: null,
  ...more,
});

describe('keys', () => {
  it('are met exactly, and hold outside', () => {
    const keys = [key(1, 2), key(10, 5), key(20, -1)];
    for (const k of keys) expect(valueOfKeys(keys, k.frame)).toBe(k.value);
    expect(valueOfKeys(keys, -50)).toBe(2);
    expect(valueOfKeys(keys, 50)).toBe(-1);
  });

  it('go straight, hold, or follow slopes that were set', () => {
    expect(valueOfKeys([key(0, 0, { then: 'straight' }), key(10, 5)], 4)).toBe(2);
    expect(valueOfKeys([key(0, 3, { then: 'hold' }), key(10, 5)], 9.99)).toBe(3);
    const set = [key(0, 0, { leave: 1 }), key(10, 10, { arrive: 1 })];
    for (const f of [2, 5, 7.5]) expect(valueOfKeys(set, f)).toBeCloseTo(f, 12);
  });

  it('never overshoot when the slopes are left to the curve', () => {
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.integer({ min: 1, max: 20 }), fc.integer({ min: -50, max: 50 })), { minLength: 2, maxLength: 6 }),
        (steps) => {
          let frame = 0;
          const keys = steps.map(([gap, value]) => key((frame += gap), value));
          for (let n = 0; n + 1 < keys.length; n++) {
            const [a, b] = [keys[n] as Key, keys[n + 1] as Key];
            for (let m = 0; m <= 8; m++) {
              const v = valueOfKeys(keys, a.frame + ((b.frame - a.frame) * m) / 8);
              expect(v).toBeGreaterThanOrEqual(Math.min(a.value, b.value) - 1e-9);
              expect(v).toBeLessThanOrEqual(Math.max(a.value, b.value) + 1e-9);
            }
          }
        },
      ),
    );
  });
});

describe('an item', () => {
  it('moves where it is told to, and shares the rest', () => {
    const item = { density: 1, shape: { kind: 'ball', centre: [1, 2, 3] as [number, number, number] }, noise: { size: 2 } };
    const moved = atMoment(
      item,
      {
        density: { kind: 'expression', text: 'value + time' },
        'shape.centre.y': { kind: 'keys', keys: [key(1, 0, { then: 'straight' }), key(25, 4)] },
        'not.there': { kind: 'expression', text: '1' },
      },
      moment(0.5),
      {},
    );
    expect(moved).toEqual({ density: 1.5, shape: { kind: 'ball', centre: [1, 2, 3] }, noise: { size: 2 } });
    expect(moved.noise).toBe(item.noise);
  });
});

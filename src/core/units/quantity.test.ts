import { describe, expect, it } from 'vitest';
import { formatBytes, formatCount, formatQuantity, formatRange, formatSeconds, parseQuantity } from '.';

const value = (text: string, unit: Parameters<typeof parseQuantity>[1]): number | string => {
  const p = parseQuantity(text, unit);
  return p.ok ? p.value : p.message;
};

describe('quantities', () => {
  it('are typed with units, as fractions, with a comma', () => {
    expect(value('12cm', 'metre')).toBeCloseTo(0.12, 12);
    expect(value('0.5 s', 'second')).toBe(0.5);
    expect(value('1/24', 'second')).toBeCloseTo(1 / 24, 12);
    expect(value('20', 'celsius')).toBeCloseTo(293.15, 9);
    expect(value('300 K', 'celsius')).toBe(300);
    expect(value('36 km/h', 'speed')).toBeCloseTo(10, 9);
    expect(value('0,25', 'metre')).toBe(0.25);
    expect([value('12,5 cm', 'metre'), value(',5', 'none'), value('5,', 'none'), value('0,250', 'metre')]).toEqual([0.125, 0.5, 5, 0.25]);
    expect(value('1e-4', 'none')).toBe(1e-4);
    expect(value('2 h', 'hour')).toBe(7200);
  });
  it('have commas between thousands; where one may be either, nothing is guessed', () => {
    expect(value('1,200,000', 'none')).toBe(1_200_000);
    expect(value('12,345.5', 'none')).toBe(12_345.5);
    expect(value('1,2345', 'none')).toBe(1.2345);
    expect(value('1,200', 'none')).toBe('"1,200" may mean 1200 or 1.2: write it without the comma');
    expect(value('2 * 1,250 m', 'metre')).toMatch(/"1,250" may mean 1250 or 1.25/);
    for (const odd of ['1,2,3', '1,20,000', '1.2,3', ',', '1,,2']) expect(value(odd, 'none')).toMatch(/not a number/);
  });
  it('are reckoned with as they are typed', () => {
    expect(value('2 * 3cm + 0.1', 'metre')).toBeCloseTo(0.16, 12);
    expect(value('(1 + 2) / 4 s', 'second')).toBeCloseTo(0.75, 12);
    expect(value('1/24 s', 'second')).toBeCloseTo(1 / 24, 12);
    expect(value('1.2 m / 8', 'metre')).toBeCloseTo(0.15, 12);
    expect(value('30cm / 10cm', 'none')).toMatch(/not a unit/);
    expect(value('-(2 - 5)', 'none')).toBe(3);
    expect(value('20 °C + 5', 'celsius')).toBeCloseTo(298.15, 9);
    expect(value('2h - 30min', 'hour')).toBe(5400);
    expect(value('2 * (3', 'none')).toMatch(/not closed/);
    expect(value('2m * 3m', 'metre')).toMatch(/two units/);
    expect(value('3 4', 'none')).toMatch(/too much/);
    expect(value('2 +', 'none')).toMatch(/not a number/);
  });

  it('say what is wrong with them', () => {
    expect(value('twelve', 'metre')).toContain('not a number');
    expect(value('3 kg', 'metre')).toMatch(/"kg" is not a unit here; use m, cm/);
    expect(value('1/0', 'metre')).toContain('finite');
  });
  it('are shown with theirs, and read back', () => {
    expect(formatQuantity(0.09, 'metre')).toBe('0.09 m');
    expect(formatQuantity(293.15, 'celsius')).toBe('20 °C');
    expect(formatQuantity(0.0001, 'none')).toBe('0.0001');
    expect(formatQuantity(12345678, 'none')).toBe('1.235e7');
    expect(formatBytes(1.4e9)).toBe('1.4 GB');
    expect(formatBytes(512)).toBe('512 B');
    expect(formatCount(178_400)).toBe('178 k');
    expect([formatSeconds(0.34), formatSeconds(4.2), formatSeconds(180), formatSeconds(4800)]).toEqual([
      '340 ms',
      '4.2 s',
      '3 min',
      '1 h 20 min',
    ]);
    for (const v of [0.09, 3, 0.333]) expect(value(formatQuantity(v, 'metre'), 'metre')).toBeCloseTo(v, 9);
  });
});

describe('a range', () => {
  it('names its unit once where both ends have the same, and is one value where they read alike', () => {
    expect(formatRange(13, 18, formatSeconds)).toBe('13–18 s');
    expect(formatRange(50, 130, formatSeconds)).toBe('50 s–2 min');
    expect(formatRange(3600, 4800, formatSeconds)).toBe('1 h–1 h 20 min');
    expect(formatRange(24e6, 24.2e6, formatBytes)).toBe('24 MB');
    expect(formatRange(900, 1300, formatCount)).toBe('900–1.3 k');
  });
});

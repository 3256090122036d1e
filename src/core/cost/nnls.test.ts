import { describe, expect, it } from 'vitest';
import { nonNegativeLeastSquares, robustFit } from './nnls';

const rows = Array.from({ length: 40 }, (_v, n) => [1000 * (n + 1), ((n * 7) % 11) + 1, 1]);
const product = (x: readonly number[]): number[] => rows.map((r) => r.reduce((s, v, i) => s + v * (x[i] ?? 0), 0));

describe('non-negative least squares', () => {
  it('finds coefficients that were planted, of very different sizes', () => {
    const planted = [2e-6, 3e-3, 0.5];
    nonNegativeLeastSquares(rows, product(planted)).forEach((v, i) => {
      expect(v / planted[i]!).toBeCloseTo(1, 6);
    });
  });

  it('holds at zero what would have to be negative, and fits the rest as well as it can', () => {
    const x = nonNegativeLeastSquares(rows, product([2e-6, -3e-3, 0.5]));
    expect(x[1]).toBe(0);
    expect(x[0]).toBeGreaterThan(0);
    expect(x.every((v) => v >= 0)).toBe(true);
  });

  it('robust: every fifth frame ten times too slow moves nothing much', () => {
    const planted = [2e-6, 3e-3, 0.02];
    const b = product(planted).map((v, n) => (n % 5 === 2 ? v * 10 : v * (1 + 0.01 * Math.sin(n))));
    const { x, sigma } = robustFit(rows, b);
    const fitted = product(x);
    product(planted).forEach((v, n) => {
      expect(Math.abs(fitted[n]! / v - 1)).toBeLessThan(0.05);
    });
    expect(sigma).toBeLessThan(0.05);
    // The plain fit is far off: this is what the weights are for.
    const plain = nonNegativeLeastSquares(rows, b);
    expect(Math.max(...product(plain).map((v, n) => v / product(planted)[n]!))).toBeGreaterThan(1.5);
  });

  it('noise that multiplies does not pull the fit down: the middle of what was measured, not its lower half', () => {
    // Equal frames that take between half and twice as long, as often the one as the other.
    const rows = Array.from({ length: 60 }, () => [1]);
    const b = rows.map((_r, n) => Math.exp(0.69 * Math.sin(n * 2.4)));
    const { x } = robustFit(rows, b);
    // The mean of such times is 1.12, their middle 1; fitted to 1 / measured it would be 0.77.
    expect(x[0]).toBeGreaterThan(0.98);
    expect(x[0]).toBeLessThan(1.15);
  });
});

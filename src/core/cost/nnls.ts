/**
 * Non-negative least squares: minimises |A x - b| with x >= 0 (Lawson and Hanson 1974, active set), on the normal equations: there are a handful of
 * columns only. Costs must not be negative, whatever the noise says.
 */
export function nonNegativeLeastSquares(rows: readonly (readonly number[])[], b: readonly number[], weights?: readonly number[]): number[] {
  const n = rows[0]?.length ?? 0;
  const gram = Array.from({ length: n }, () => new Float64Array(n));
  const rhs = new Float64Array(n);
  // Columns of very different sizes (voxels beside substeps): scaled to one length first.
  const scale = new Float64Array(n);
  rows.forEach((row, r) => {
    const w = weights?.[r] ?? 1;
    for (let i = 0; i < n; i++) scale[i] = (scale[i] ?? 0) + w * (row[i] ?? 0) ** 2;
  });
  for (let i = 0; i < n; i++) scale[i] = Math.sqrt(scale[i] ?? 0) || 1;
  rows.forEach((row, r) => {
    const w = weights?.[r] ?? 1;
    for (let i = 0; i < n; i++) {
      const a = (row[i] ?? 0) / (scale[i] ?? 1);
      rhs[i] = (rhs[i] ?? 0) + w * a * (b[r] ?? 0);
      const line = gram[i] as Float64Array;
      for (let j = 0; j < n; j++) line[j] = (line[j] ?? 0) + (w * a * (row[j] ?? 0)) / (scale[j] ?? 1);
    }
  });
  const x = new Float64Array(n);
  const free = new Set<number>();
  const gradient = (i: number): number => (rhs[i] ?? 0) - x.reduce((s, v, j) => s + (gram[i]?.[j] ?? 0) * v, 0);
  const tolerance = 1e-10 * Math.max(1e-300, ...rhs.map(Math.abs));
  for (let turn = 0; turn < 4 * n + 4; turn++) {
    let best = -1;
    for (let i = 0; i < n; i++) if (!free.has(i) && gradient(i) > tolerance && (best < 0 || gradient(i) > gradient(best))) best = i;
    if (best < 0) break;
    free.add(best);
    for (;;) {
      const index = [...free];
      const solved = solve(
        index.map((i) => index.map((j) => (gram[i]?.[j] ?? 0) + (i === j ? 1e-12 : 0))),
        index.map((i) => rhs[i] ?? 0),
      );
      if (solved.every((v) => v > 0)) {
        index.forEach((i, k) => (x[i] = solved[k] ?? 0));
        break;
      }
      // As far as the first one that would become negative; that one is held at 0.
      let step = 1;
      index.forEach((i, k) => {
        const to = solved[k] ?? 0;
        if (to <= 0) step = Math.min(step, (x[i] ?? 0) / Math.max(1e-300, (x[i] ?? 0) - to));
      });
      index.forEach((i, k) => {
        x[i] = (x[i] ?? 0) + step * ((solved[k] ?? 0) - (x[i] ?? 0));
        if ((x[i] ?? 0) <= 1e-14) {
          x[i] = 0;
          free.delete(i);
        }
      });
      if (free.size === 0) break;
    }
  }
  return [...x].map((v, i) => v / (scale[i] ?? 1));
}

/** Gaussian elimination with partial pivoting. */
function solve(matrix: number[][], right: number[]): number[] {
  const n = right.length;
  const a = matrix.map((row, i) => [...row, right[i] ?? 0]);
  for (let c = 0; c < n; c++) {
    let pivot = c;
    for (let r = c + 1; r < n; r++) if (Math.abs(a[r]?.[c] ?? 0) > Math.abs(a[pivot]?.[c] ?? 0)) pivot = r;
    [a[c], a[pivot]] = [a[pivot] as number[], a[c] as number[]];
    const head = a[c] as number[];
    for (let r = c + 1; r < n; r++) {
      const row = a[r] as number[];
      const f = (row[c] ?? 0) / (head[c] || 1e-300);
      for (let k = c; k <= n; k++) row[k] = (row[k] ?? 0) - f * (head[k] ?? 0);
    }
  }
  const x = new Array<number>(n).fill(0);
  for (let r = n - 1; r >= 0; r--) {
    const row = a[r] as number[];
    let v = row[n] ?? 0;
    for (let k = r + 1; k < n; k++) v -= (row[k] ?? 0) * (x[k] ?? 0);
    x[r] = v / (row[r] || 1e-300);
  }
  return x;
}

export const median = (values: readonly number[]): number => {
  if (values.length === 0) return NaN;
  const s = [...values].sort((a, b) => a - b);
  const m = s.length >> 1;
  return s.length % 2 === 1 ? (s[m] ?? NaN) : ((s[m - 1] ?? NaN) + (s[m] ?? NaN)) / 2;
};

/**
 * The same with outliers held down (Huber's weights on relative residuals, a few rounds): a frame that the machine was taken away from must
 * not raise the cost of all. Rows are weighted by 1 / what is fitted to them, so that a small frame counts as much as a large one; by 1 / b the short ones
 * of equal frames would count most, and all be fitted a fifth too low.
 */
export function robustFit(rows: readonly (readonly number[])[], b: readonly number[]): { x: number[]; sigma: number } {
  // A floor of a twentieth of the median: what takes no time at all has no relative error.
  const floor = 0.05 * Math.max(1e-9, median(b.map(Math.abs)));
  const fitted = (x: readonly number[], r: number): number => rows[r]?.reduce((s, v, i) => s + v * (x[i] ?? 0), 0) ?? 0;
  let size = b.map((v) => Math.max(floor, Math.abs(v)));
  let huber = b.map(() => 1);
  let x: number[] = [];
  let sigma = 0;
  for (let round = 0; round < 8; round++) {
    x = nonNegativeLeastSquares(
      rows,
      b,
      size.map((v, r) => (huber[r] ?? 1) / v ** 2),
    );
    size = b.map((_v, r) => Math.max(floor, fitted(x, r)));
    const residuals = b.map((v, r) => (fitted(x, r) - v) / (size[r] ?? 1));
    sigma = 1.4826 * median(residuals.map(Math.abs));
    const limit = HELD * Math.max(sigma, 1e-6);
    huber = residuals.map((v) => Math.min(1, limit / Math.max(1e-12, Math.abs(v))));
  }
  return { x, sigma };
}

/** Standard deviations beyond which a residual counts less: 95 % as good as least squares where nothing is out of order (Huber 1964). */
const HELD = 1.345;

/**
 * Open fraction of a square face from the signed distances at its corners (a, b, c, d in order around it; positive = open): the
 * area of the polygon left by linear interpolation along the edges (Batty, Bertails, Bridson 2007).
 * Fractions under 2 % count as closed, over 98 % as open.
 */
export function faceFraction(a: number, b: number, c: number, d: number): number {
  if (a > 0 && b > 0 && c > 0 && d > 0) return 1;
  if (a <= 0 && b <= 0 && c <= 0 && d <= 0) return 0;
  // A corner on the surface belongs to the open side: in the edge of a box, where two walls meet, a face has three such corners and is open whole.
  // Twice the area by the shoelace formula, over the polygon's corners in order.
  const phi = [a, b, c, d] as const;
  let area = 0;
  let firstX = 0;
  let firstY = 0;
  let lastX = 0;
  let lastY = 0;
  let count = 0;
  const push = (x: number, y: number): void => {
    if (count === 0) {
      firstX = x;
      firstY = y;
    } else {
      area += lastX * y - x * lastY;
    }
    lastX = x;
    lastY = y;
    count++;
  };
  for (let e = 0; e < 4; e++) {
    const p = phi[e as 0 | 1 | 2 | 3];
    const q = phi[((e + 1) & 3) as 0 | 1 | 2 | 3];
    const x0 = e === 1 || e === 2 ? 1 : 0;
    const y0 = e >= 2 ? 1 : 0;
    const x1 = e === 0 || e === 1 ? 1 : 0;
    const y1 = e === 1 || e === 2 ? 1 : 0;
    if (p >= 0) push(x0, y0);
    if (p >= 0 !== q >= 0) {
      const t = p / (p - q);
      push(x0 + (x1 - x0) * t, y0 + (y1 - y0) * t);
    }
  }
  area += lastX * firstY - firstX * lastY;
  const fraction = Math.abs(area) / 2;
  return fraction < 0.02 ? 0 : fraction > 0.98 ? 1 : fraction;
}

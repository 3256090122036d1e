import { expect, it } from 'vitest';
import type { Box3, Distance } from '#core/geometry';
import { mulberry32 } from '#core/math';
import { measureOf, seed } from './seeds';

/** A thin plate that stands across its box from corner to corner: m. */
const thick = 0.004;
const plate: Distance = (x, y, z) => {
  const [along, off] = [(x + y) / Math.SQRT2, (x - y) / Math.SQRT2];
  const q = [Math.abs(along) - 1, Math.abs(off) - thick, Math.abs(z) - 1];
  return Math.hypot(...q.map((v) => Math.max(0, v))) + Math.min(0, Math.max(...q));
};
const box: Box3 = { min: [-0.8, -0.8, -1], max: [0.8, 0.8, 1] };

/** Every cell looked at, in the same order of chance. */
function plainly(where: 'volume' | 'surface', count: number): number[][] {
  const measure = measureOf(plate, box);
  const random = mulberry32(7);
  const edge = where === 'volume' ? Math.cbrt(measure.volume / count) : Math.sqrt(measure.area / count);
  const room = where === 'volume' ? 0 : edge / 2;
  const start = box.min.map((v) => v - room - edge * random());
  const cells = box.max.map((v, a) => Math.ceil((v + room - start[a]!) / edge));
  const found: number[][] = [];
  for (let n = 0; n < cells[0]! * cells[1]! * cells[2]!; n++) {
    const at = [Math.floor(n / cells[2]! / cells[1]!), Math.floor(n / cells[2]!) % cells[1]!, n % cells[2]!];
    const [x, y, z] = at.map((c, a) => start[a]! + (c + random()) * edge) as [number, number, number];
    const d = plate(x, y, z);
    if (where === 'volume' ? d < 0 : Math.abs(d) < room) found.push([x, y, z]);
  }
  return found;
}

it.each([
  ['volume', 20000],
  ['surface', 20000],
] as const)('of a thin shape in a large box are those of every cell looked at (%s), and few are', (where, count) => {
  let looks = 0;
  const found: number[][] = [];
  const counted: Distance = (x, y, z) => {
    looks++;
    return plate(x, y, z);
  };
  seed(counted, box, where, measureOf(plate, box), count, mulberry32(7), (...at) => found.push(at));
  const plain = plainly(where, count);
  expect(plain.length).toBeGreaterThan(count / 5);
  expect(found).toHaveLength(plain.length);
  // Those of a surface were moved onto it, by less than a cell.
  found.forEach((p, n) => {
    expect(Math.hypot(...p.map((v, a) => v - plain[n]![a]!))).toBeLessThan(where === 'volume' ? 1e-12 : 0.2);
  });
  const edge = where === 'volume' ? Math.cbrt(measureOf(plate, box).volume / count) : Math.sqrt(measureOf(plate, box).area / count);
  const cells = (1.6 * 1.6 * 2) / edge ** 3;
  expect(looks).toBeLessThan(0.25 * cells);
});

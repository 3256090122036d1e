import type { Box3, Distance } from '#core/geometry';

/** Samples a side for the measure of a shape. */
const LOOKS = 40;

/** Room of a shape and its surface, from samples on a grid over its box: m^3 and m^2. */
export function measureOf(distance: Distance, box: Box3): { readonly volume: number; readonly area: number } {
  const size = [0, 1, 2].map((a) => Math.max(1e-6, (box.max[a] ?? 0) - (box.min[a] ?? 0))) as [number, number, number];
  // Room around it, so that the band around the surface lies inside.
  const step = size.map((s) => (1.2 * s) / LOOKS) as [number, number, number];
  const cell = step[0] * step[1] * step[2];
  const band = Math.max(...step);
  let inside = 0;
  let near = 0;
  for (let i = 0; i < LOOKS; i++) {
    const x = box.min[0] - 0.1 * size[0] + (i + 0.5) * step[0];
    for (let j = 0; j < LOOKS; j++) {
      const y = box.min[1] - 0.1 * size[1] + (j + 0.5) * step[1];
      for (let k = 0; k < LOOKS; k++) {
        const d = distance(x, y, box.min[2] - 0.1 * size[2] + (k + 0.5) * step[2]);
        if (d < 0) inside++;
        if (Math.abs(d) < band) near++;
      }
    }
  }
  return { volume: inside * cell, area: (near * cell) / (2 * band) };
}

/**
 * About `count` places in a shape or on its surface, evenly: the box is cut into cells of which each has one place by chance (stratified sampling), and
 * those that lie inside, or within half a cell of the surface, are taken; the latter are moved onto it. The cells lie elsewhere each time. Calls `take`
 * with each.
 */
export function seed(
  distance: Distance,
  box: Box3,
  where: 'volume' | 'surface',
  measure: { readonly volume: number; readonly area: number },
  count: number,
  random: () => number,
  take: (x: number, y: number, z: number) => void,
): void {
  if (count <= 0) return;
  const edge = where === 'volume' ? Math.cbrt(measure.volume / count) : Math.sqrt(measure.area / count);
  if (!(edge > 0)) return;
  const room = where === 'volume' ? 0 : edge / 2;
  const start = [0, 1, 2].map((a) => (box.min[a] ?? 0) - room - edge * random()) as [number, number, number];
  const cells = [0, 1, 2].map((a) => Math.ceil(((box.max[a] ?? 0) + room - (start[a] ?? 0)) / edge)) as [number, number, number];
  for (let i = 0; i < cells[0]; i++) {
    for (let j = 0; j < cells[1]; j++) {
      for (let k = 0; k < cells[2]; k++) {
        const x = start[0] + (i + random()) * edge;
        const y = start[1] + (j + random()) * edge;
        const z = start[2] + (k + random()) * edge;
        const d = distance(x, y, z);
        if (where === 'volume') {
          if (d < 0) take(x, y, z);
        } else if (Math.abs(d) < room) {
          const e = edge * 0.01;
          const n = [
            distance(x + e, y, z) - distance(x - e, y, z),
            distance(x, y + e, z) - distance(x, y - e, z),
            distance(x, y, z + e) - distance(x, y, z - e),
          ] as const;
          const length = Math.hypot(...n);
          if (length > 0) take(x - (n[0] / length) * d, y - (n[1] / length) * d, z - (n[2] / length) * d);
        }
      }
    }
  }
}

import type { Box3, Distance } from '#core/geometry';
import type { Random } from '#core/math';

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

/** Cells a side of a block that is looked at as a whole; and blocks a side of a group, which is looked at first. */
const BLOCK = 4;
const GROUP = 8;
/** Distances of shapes from files are sampled: a block is left out only when it lies this much farther off. */
const SURE = 1.25;

/**
 * About `count` places in a shape or on its surface, evenly: the box is cut into cells of which each has one place by chance (stratified sampling), and
 * those that lie inside, or within half a cell of the surface, are taken; the latter are moved onto it. The cells lie elsewhere each time. Calls `take`
 * with each. Blocks of cells that no part of the shape is near to are passed over, together with their numbers of chance: a thin shape in a large box has 50 million
 * cells a frame, and a thousandth of them count.
 */
export function seed(
  distance: Distance,
  box: Box3,
  where: 'volume' | 'surface',
  measure: { readonly volume: number; readonly area: number },
  count: number,
  random: Random,
  take: (x: number, y: number, z: number) => void,
): void {
  if (count <= 0) return;
  const edge = where === 'volume' ? Math.cbrt(measure.volume / count) : Math.sqrt(measure.area / count);
  if (!(edge > 0)) return;
  const room = where === 'volume' ? 0 : edge / 2;
  const start = [0, 1, 2].map((a) => (box.min[a] ?? 0) - room - edge * random()) as [number, number, number];
  const cells = [0, 1, 2].map((a) => Math.ceil(((box.max[a] ?? 0) + room - (start[a] ?? 0)) / edge)) as [number, number, number];
  const near = nearBlocks(distance, start, cells, edge, where, room);
  const look = (x: number, y: number, z: number): void => {
    const d = distance(x, y, z);
    if (where === 'volume') {
      if (d < 0) take(x, y, z);
      return;
    }
    if (Math.abs(d) >= room) return;
    const e = edge * 0.01;
    const n = [
      distance(x + e, y, z) - distance(x - e, y, z),
      distance(x, y + e, z) - distance(x, y - e, z),
      distance(x, y, z + e) - distance(x, y, z - e),
    ] as const;
    const length = Math.hypot(...n);
    if (length > 0) take(x - (n[0] / length) * d, y - (n[1] / length) * d, z - (n[2] / length) * d);
  };
  const across = Math.ceil(cells[2] / BLOCK);
  for (let i = 0; i < cells[0]; i++) {
    for (let j = 0; j < cells[1]; j++) {
      const row = near[Math.floor(i / BLOCK)]?.[Math.floor(j / BLOCK)];
      if (!row) {
        random.skip(3 * cells[2]);
        continue;
      }
      for (let block = 0; block < across; block++) {
        const [from, to] = [block * BLOCK, Math.min(cells[2], (block + 1) * BLOCK)];
        if (!row[block]) random.skip(3 * (to - from));
        else
          for (let k = from; k < to; k++)
            look(start[0] + (i + random()) * edge, start[1] + (j + random()) * edge, start[2] + (k + random()) * edge);
      }
    }
  }
}

/** Which blocks of cells can hold a place, by their numbers along the axes; undefined: none of the row can. */
function nearBlocks(
  distance: Distance,
  start: readonly [number, number, number],
  cells: readonly [number, number, number],
  edge: number,
  where: 'volume' | 'surface',
  room: number,
): (Uint8Array | undefined)[][] {
  const blocks = cells.map((n) => Math.ceil(n / BLOCK)) as [number, number, number];
  const [nx, ny, nz] = blocks;
  /** Whether a cube of so many cells a side, the (i, j, k)th, can hold one. */
  const isNear = (i: number, j: number, k: number, side: number): boolean => {
    const size = side * edge;
    const d = distance(start[0] + (i + 0.5) * size, start[1] + (j + 0.5) * size, start[2] + (k + 0.5) * size);
    return (where === 'volume' ? d : Math.abs(d)) < SURE * (room + (Math.sqrt(3) / 2) * size);
  };
  const [gx, gy, gz] = blocks.map((n) => Math.ceil(n / GROUP)) as [number, number, number];
  const groups = new Uint8Array(gx * gy * gz);
  for (let n = 0; n < groups.length; n++)
    groups[n] = isNear(Math.floor(n / gz / gy), Math.floor(n / gz) % gy, n % gz, BLOCK * GROUP) ? 1 : 0;
  return Array.from({ length: nx }, (_u, i) =>
    Array.from({ length: ny }, (_v, j) => {
      const row = new Uint8Array(nz);
      const group = (Math.floor(i / GROUP) * gy + Math.floor(j / GROUP)) * gz;
      let any = false;
      for (let k = 0; k < nz; k++) {
        if (!groups[group + Math.floor(k / GROUP)] || !isNear(i, j, k, BLOCK)) continue;
        row[k] = 1;
        any = true;
      }
      return any ? row : undefined;
    }),
  );
}

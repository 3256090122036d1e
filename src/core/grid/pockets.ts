import type { GeometryCache, TileGeometry } from './geometry-cache';
import { RECORD_WORDS, type Level } from './hierarchy';
import type { KernelTeam } from './team';
import { TILE } from './window';

/** A connected region of unknown cells that touches no open face: its pressure is defined up to a constant only. */
export interface Pocket {
  readonly cells: Int32Array;
}

interface Regions {
  readonly count: number;
  /** Region of each of the 512 cells, 255 for cells that hold no fluid; null when the tile is one region. */
  readonly label: Uint8Array | null;
}

const WHOLE: Regions = { count: 1, label: null };
const cache = new WeakMap<TileGeometry, Regions>();

/** Connected regions inside one tile, by its open faces. Static, so worked out once a tile. */
function regionsOf(tile: TileGeometry, team: KernelTeam): Regions {
  if (!tile.status) return WHOLE;
  const known = cache.get(tile);
  if (known) return known;
  const fractions = tile.cut === 0 ? null : team.floats(tile.cut, 6 * 512);
  const label = new Uint8Array(512).fill(255);
  const stack: number[] = [];
  const steps = [-1, 1, -8, 8, -64, 64];
  let count = 0;
  for (let start = 0; start < 512; start++) {
    if (tile.status[start] !== 1 || label[start] !== 255) continue;
    label[start] = count;
    stack.push(start);
    for (let c = stack.pop(); c !== undefined; c = stack.pop()) {
      for (let face = 0; face < 6; face++) {
        const axis = (c >> (3 * (face >> 1))) & 7;
        if ((face & 1) === 0 ? axis === 0 : axis === 7) continue;
        if (fractions && (fractions[face * 512 + c] ?? 0) === 0) continue;
        const next = c + (steps[face] ?? 0);
        if (tile.status[next] !== 1 || label[next] !== 255) continue;
        label[next] = count;
        stack.push(next);
      }
    }
    count = Math.min(count + 1, 254);
  }
  const regions = { count, label };
  cache.set(tile, regions);
  return regions;
}

/** Pockets of the active set. Tiles are joined region by region across their shared faces (union-find). */
export function findPockets(level: Level, geometry: GeometryCache, team: KernelTeam): Pocket[] {
  const w = level.window;
  const records = team.pointers(level.records, level.count * RECORD_WORDS);
  const status = team.bytes(level.status, (w.nz + 2) * level.sp + 16);
  const first = new Int32Array(level.count + 1);
  const tiles: TileGeometry[] = [];
  const byTile = new Map<number, number>();
  for (let t = 0; t < level.count; t++) {
    const r = t * RECORD_WORDS;
    const tile = geometry.tile(
      0,
      ((records[r + 1] ?? 0) + w.ox) / TILE,
      ((records[r + 2] ?? 0) + w.oy) / TILE,
      ((records[r + 3] ?? 0) + w.oz) / TILE,
    );
    tiles.push(tile);
    byTile.set(records[r + 5] ?? 0, t);
    first[t + 1] = (first[t] ?? 0) + regionsOf(tile, team).count;
  }
  // Region 0 is everything open; a tile's region n is first[t] + n + 1.
  const parent = new Int32Array((first[level.count] ?? 0) + 1).map((_, n) => n);
  const find = (n: number): number => {
    let root = n;
    while (parent[root] !== root) {
      parent[root] = parent[parent[root] ?? 0] ?? 0;
      root = parent[root] ?? 0;
    }
    return root;
  };
  const join = (a: number, b: number): void => {
    const x = find(a);
    const y = find(b);
    parent[Math.max(x, y)] = Math.min(x, y);
  };
  const regionAt = (t: number, cell: number): number => {
    const label = regionsOf(tiles[t] as TileGeometry, team).label;
    const n = label ? (label[cell] ?? 255) : 0;
    return n === 255 ? -1 : (first[t] ?? 0) + n + 1;
  };
  const tilesX = w.nx / TILE;
  const tilesY = w.ny / TILE;
  const tileSteps = [-1, 1, -tilesX, tilesX, -tilesX * tilesY, tilesX * tilesY];
  const cellSteps = [-1, 1, -level.sx, level.sx, -level.sp, level.sp];
  for (let t = 0; t < level.count; t++) {
    const r = t * RECORD_WORDS;
    const tile = tiles[t] as TileGeometry;
    const fractions = tile.cut === 0 ? null : team.floats(tile.cut, 6 * 512);
    // Cells beyond an open wall inside the tile make their neighbours open; the tile is then open as far as it is connected.
    for (let face = 0; face < 6; face++) {
      const axis = face >> 1;
      const at = (records[r + 1 + axis] ?? 0) / TILE + ((face & 1) === 0 ? -1 : 1);
      const inside = at >= 0 && at < [w.nx, w.ny, w.nz][axis]! / TILE;
      const other = inside ? byTile.get((records[r + 5] ?? 0) + (tileSteps[face] ?? 0)) : undefined;
      // Whole tiles are one region, and open at every side where no tile is.
      if (!tile.status && (other === undefined || !(tiles[other] as TileGeometry).status)) {
        join((first[t] ?? 0) + 1, other === undefined ? 0 : (first[other] ?? 0) + 1);
        continue;
      }
      for (let n = 0; n < 64; n++) {
        const a = n & 7;
        const b = n >> 3;
        const edge = (face & 1) === 0 ? 0 : 7;
        const cell = axis === 0 ? edge + 8 * a + 64 * b : axis === 1 ? a + 8 * edge + 64 * b : a + 8 * b + 64 * edge;
        const mine = regionAt(t, cell);
        if (mine < 0 || (fractions && (fractions[face * 512 + cell] ?? 0) === 0)) continue;
        const index = (records[r] ?? 0) + (cell >> 6) * level.sp + ((cell >> 3) & 7) * level.sx + (cell & 7);
        const beside = status[index + (cellSteps[face] ?? 0)] ?? 2;
        if (beside === 2 || other === undefined) join(mine, 0);
        else if (beside === 1) {
          const mirrored = cell + (edge === 0 ? 7 : -7) * [1, 8, 64][axis]!;
          const theirs = regionAt(other, mirrored);
          if (theirs >= 0) join(mine, theirs);
        }
      }
    }
    if (tile.reachesBeyond)
      openFromInside(tile, (cell) => {
        const n = regionAt(t, cell);
        if (n >= 0) join(n, 0);
      });
  }
  const cells = new Map<number, number[]>();
  const openRoot = find(0);
  for (let t = 0; t < level.count; t++) {
    const base = records[t * RECORD_WORDS] ?? 0;
    const regions = regionsOf(tiles[t] as TileGeometry, team);
    let closed = false;
    for (let n = 1; n <= regions.count; n++) closed ||= find((first[t] ?? 0) + n) !== openRoot;
    if (!closed) continue;
    for (let c = 0; c < 512; c++) {
      const n = regionAt(t, c);
      if (n < 0) continue;
      const root = find(n);
      if (root === openRoot) continue;
      const list = cells.get(root) ?? [];
      list.push(base + (c >> 6) * level.sp + ((c >> 3) & 7) * level.sx + (c & 7));
      cells.set(root, list);
    }
  }
  return [...cells.values()].map((list) => ({ cells: Int32Array.from(list) }));
}

function openFromInside(tile: TileGeometry, open: (cell: number) => void): void {
  const status = tile.status;
  if (!status) return;
  for (let c = 0; c < 512; c++) {
    if (status[c] !== 1) continue;
    const neighbours = [
      (c & 7) > 0 ? c - 1 : -1,
      (c & 7) < 7 ? c + 1 : -1,
      ((c >> 3) & 7) > 0 ? c - 8 : -1,
      ((c >> 3) & 7) < 7 ? c + 8 : -1,
      c >> 6 > 0 ? c - 64 : -1,
      c >> 6 < 7 ? c + 64 : -1,
    ];
    if (neighbours.some((n) => n >= 0 && status[n] === 2)) open(c);
  }
}

/** Where a cell lies in paired rows (src/kernels/assembly/poisson.ts): groups of eight as 0 2 4 6 | 1 3 5 7; a row begins four entries into a group. */
export function pairedIndex(at: number): number {
  const i = (at - 4) & 7;
  return at - i + (i >> 1) + (i & 1) * 4;
}

/** Takes the mean of each pocket out of a field in paired rows: a right-hand side that a closed region's singular system can have. */
export function removeMeans(field: Float32Array, pockets: readonly Pocket[]): void {
  for (const { cells } of pockets) {
    let sum = 0;
    for (const c of cells) sum += field[pairedIndex(c)] ?? 0;
    const mean = sum / cells.length;
    for (const c of cells) {
      const at = pairedIndex(c);
      field[at] = (field[at] ?? 0) - mean;
    }
  }
}

import { RuddleError } from '#core/errors';
import { formatBytes, formatQuantity } from '#core/units';
import type { GeometryCache } from './geometry-cache';
import type { KernelTeam } from './team';
import { TILE, type Window, entries, indexOf, planeStride, rowStride, windowOf } from './window';

/** i32 words of a tile record, see src/kernels/assembly/layout.ts. */
export const RECORD_WORDS = 8;
const CONTEXT_BYTES = 64;
/** A coarsest level may still be this many voxels of the window wide. */
const COARSEST = 8;

/** One level of the multigrid; level 0 is the grid itself. Pointers are into the team's memory. */
export interface Level {
  readonly index: number;
  window: Window;
  sx: number;
  sp: number;
  readonly context: number;
  readonly records: number;
  /** Active tiles. */
  count: number;
  readonly status: number;
  readonly diagonal: number;
  /** Unknown and right-hand side of coarse levels; 0 on level 0, whose arrays belong to the solver. */
  readonly x: number;
  readonly b: number;
}

interface Capacity {
  readonly entries: number;
  readonly tiles: number;
}

/** Window of the next coarser level: origin and size again multiples of 8 of its own voxels, so that tiles nest. */
export function coarser(w: Window): Window {
  return windowOf([w.ox / 2, w.oy / 2, w.oz / 2], [(w.ox + w.nx) / 2, (w.oy + w.ny) / 2, (w.oz + w.nz) / 2]);
}

export function levelWindows(w: Window): Window[] {
  const windows = [w];
  let extent = Math.max(w.nx, w.ny, w.nz);
  let last = w;
  while (extent > COARSEST) {
    last = coarser(last);
    windows.push(last);
    extent /= 2;
  }
  return windows;
}

/** Entries and tiles that a level may ever need when level 0 is nowhere larger than `limit` and holds at most `cap` entries. */
function capacities(limit: Window, cap: number): Capacity[] {
  // A smaller window can straddle one more tile on a coarse level than the limit's own.
  return levelWindows(limit).map((w, l) => {
    const slack = l === 0 ? 0 : TILE;
    const full = entries(w.nx + slack, w.ny + slack, w.nz + slack);
    const most = l === 0 ? cap : Math.ceil((cap / 8 ** l) * 2) + 65536;
    const size = Math.min(full, most);
    return { entries: size, tiles: Math.ceil(size / 512) + 1 };
  });
}

/** Bytes that the hierarchy allocates, so that a run can be refused before it starts. */
export function hierarchyBytes(limit: Window, cap: number): number {
  let bytes = 0;
  capacities(limit, cap).forEach((c, l) => {
    bytes += c.entries * (2 + (l === 0 ? 0 : 8)) + c.tiles * RECORD_WORDS * 4;
  });
  return bytes;
}

/** The levels' memory, and what the set of active tiles makes of them: records, status bytes, diagonals. */
export class Hierarchy {
  readonly #levels: Level[];
  #used = 1;

  constructor(
    private readonly team: KernelTeam,
    private readonly geometry: GeometryCache,
    limit: Window,
    private readonly capacityEntries: number,
    /** Bytes that an entry of the window takes in all fields of the solver. */
    private readonly bytesAnEntry = 0,
  ) {
    this.#levels = capacities(limit, capacityEntries).map((c, index): Level => ({
      index,
      window: limit,
      sx: 0,
      sp: 0,
      context: team.allocate(CONTEXT_BYTES),
      records: team.allocate(c.tiles * RECORD_WORDS * 4),
      count: 0,
      status: team.allocate(c.entries),
      diagonal: team.allocate(c.entries),
      x: index === 0 ? 0 : team.allocate(c.entries * 4),
      b: index === 0 ? 0 : team.allocate(c.entries * 4),
    }));
  }

  /** Level 0 first, as many as the present window needs. */
  get levels(): readonly Level[] {
    return this.#levels.slice(0, this.#used);
  }

  get finest(): Level {
    return this.#levels[0] as Level;
  }

  /** Whether the memory that was set aside holds a window. */
  holds({ nx, ny, nz }: Window): boolean {
    return entries(nx, ny, nz) <= this.capacityEntries;
  }

  /** Throws `arena-too-small` for a window without room of its own: writing to it would overwrite other fields. */
  mustHold(window: Window): void {
    if (this.holds(window)) return;
    const size = entries(window.nx, window.ny, window.nz);
    const bytes = (n: number): number => n * this.bytesAnEntry + hierarchyBytes(window, n);
    const [neededBytes, availableBytes] = [bytes(size), bytes(this.capacityEntries)];
    let larger = 1;
    // Whole tiles, and one that the same box may straddle.
    const tiled = (n: number): number => Math.ceil(n / larger / TILE + 1) * TILE;
    while (entries(tiled(window.nx), tiled(window.ny), tiled(window.nz)) > this.capacityEntries) larger *= 1.02;
    const fits = this.geometry.voxelSize * larger;
    const text = `The bounds outgrew the memory: ${formatBytes(neededBytes)} are needed, ${formatBytes(availableBytes)} are there. Voxels of ${formatQuantity(fits * 1.005, 'metre', { digits: 3 })} would fit; so would a smaller limit box.`;
    throw new RuddleError('arena-too-small', text, { neededBytes, availableBytes, frame: null });
  }

  /** The one place where a window becomes another, for every solver. */
  setWindow(window: Window): void {
    this.mustHold(window);
    const windows = levelWindows(window);
    this.#used = Math.min(windows.length, this.#levels.length);
    for (let l = 0; l < this.#used; l++) {
      const level = this.#levels[l] as Level;
      const w = windows[l] as Window;
      level.window = w;
      level.sx = rowStride(w.nx);
      level.sp = planeStride(w.nx, w.ny);
      const c = this.team.pointers(level.context, 8);
      c.set([level.sx, level.sp, w.nx, w.ny, w.nz, level.records, level.status, level.diagonal]);
      // What the sampling kernels need of it, ready to be loaded into all lanes.
      this.team.words(level.context + 32, 1)[0] = level.sp + level.sx + 4;
      this.team.floats(level.context + 36, 3).set([w.nx - 0.001, w.ny - 0.001, w.nz - 0.001]);
    }
  }

  /** Rebuilds every level for the active tiles, given as world tile coordinates (x, y, z, x, y, z ...) in a fixed order. */
  setActive(tiles: Int32Array): void {
    let current = tiles;
    for (let l = 0; l < this.#used; l++) {
      const level = this.#levels[l] as Level;
      const next = l + 1 < this.#used ? (this.#levels[l + 1] as Level) : null;
      this.#writeRecords(level, next, current);
      if (l === 0) this.#writeStatus(level);
      else this.#coarsenStatus(this.#levels[l - 1] as Level, level);
      this.team.launch('buildDiagonal', level.count, level.context);
      if (next) current = parents(current);
    }
  }

  /** The finest status bytes were changed in active tiles: those of coarser levels and every diagonal follow. */
  followStatus(): void {
    for (let l = 0; l < this.#used; l++) {
      const level = this.#levels[l] as Level;
      if (l > 0) this.#coarsenStatus(this.#levels[l - 1] as Level, level);
      this.team.launch('buildDiagonal', level.count, level.context);
    }
  }

  #writeRecords(level: Level, next: Level | null, tiles: Int32Array): void {
    const w = level.window;
    const records = this.team.pointers(level.records, (tiles.length / 3) * RECORD_WORDS);
    const [tilesX, tilesY] = [w.nx / TILE, w.ny / TILE];
    let n = 0;
    for (let t = 0; t < tiles.length; t += 3) {
      const [tx, ty, tz] = [tiles[t] ?? 0, tiles[t + 1] ?? 0, tiles[t + 2] ?? 0];
      const tile = this.geometry.tile(level.index, tx, ty, tz);
      if (tile.allSolid) continue;
      const i = tx * TILE - w.ox;
      const j = ty * TILE - w.oy;
      const k = tz * TILE - w.oz;
      records[n] = indexOf(w.nx, w.ny, i, j, k);
      records[n + 1] = i;
      records[n + 2] = j;
      records[n + 3] = k;
      records[n + 4] = tile.cut;
      records[n + 5] = ((k / TILE) * tilesY + j / TILE) * tilesX + i / TILE;
      if (next) {
        const c = next.window;
        records[n + 6] = indexOf(c.nx, c.ny, (tx * TILE) / 2 - c.ox, (ty * TILE) / 2 - c.oy, (tz * TILE) / 2 - c.oz);
      }
      records[n + 7] = tile.reachesBeyond ? 1 : 0;
      n += RECORD_WORDS;
    }
    level.count = n / RECORD_WORDS;
    if (level.x !== 0) {
      const planes = w.nz + 2;
      this.team.launch('fillPlanes', planes, level.x, level.sp, 0);
      this.team.launch('fillPlanes', planes, level.b, level.sp, 0);
    }
  }

  #writeStatus(level: Level): void {
    const w = level.window;
    const status = this.team.bytes(level.status, entries(w.nx, w.ny, w.nz));
    status.fill(2);
    // Solid cells of inactive tiles are solid too: what lies beside an active tile must be known for what it is.
    for (let tz = w.oz / TILE; tz < (w.oz + w.nz) / TILE; tz++) {
      for (let ty = w.oy / TILE; ty < (w.oy + w.ny) / TILE; ty++) {
        for (let tx = w.ox / TILE; tx < (w.ox + w.nx) / TILE; tx++) {
          const tile = this.geometry.tile(0, tx, ty, tz);
          if (tile.cut !== 0) {
            this.#fillTile(status, level, tx * TILE - w.ox, ty * TILE - w.oy, tz * TILE - w.oz, tile.status, 2);
          }
        }
      }
    }
    const records = this.team.pointers(level.records, level.count * RECORD_WORDS);
    for (let n = 0; n < records.length; n += RECORD_WORDS) {
      const [i, j, k] = [records[n + 1] ?? 0, records[n + 2] ?? 0, records[n + 3] ?? 0];
      const tile = this.geometry.tile(0, (i + w.ox) / TILE, (j + w.oy) / TILE, (k + w.oz) / TILE);
      this.#fillTile(status, level, i, j, k, tile.status, 1);
    }
  }

  #fillTile(status: Uint8Array, level: Level, i: number, j: number, k: number, cells: Uint8Array | null, fluid: number): void {
    const base = indexOf(level.window.nx, level.window.ny, i, j, k);
    for (let row = 0; row < 64; row++) {
      const o = base + (row >> 3) * level.sp + (row & 7) * level.sx;
      if (!cells) status.fill(fluid, o, o + TILE);
      else {
        for (let n = 0; n < TILE; n++) {
          const s = cells[row * TILE + n] ?? 0;
          status[o + n] = s === 1 ? fluid : s;
        }
      }
    }
  }

  #coarsenStatus(fine: Level, coarse: Level): void {
    const f = fine.window;
    const c = coarse.window;
    this.team.bytes(coarse.status, entries(c.nx, c.ny, c.nz)).fill(2);
    const to = indexOf(c.nx, c.ny, f.ox / 2 - c.ox, f.oy / 2 - c.oy, f.oz / 2 - c.oz);
    this.team.launch(
      'coarsenStatus',
      f.nz / 2,
      fine.status + indexOf(f.nx, f.ny, 0, 0, 0),
      fine.sx,
      fine.sp,
      coarse.status + to,
      coarse.sx,
      coarse.sp,
      f.ny / 2,
      f.nx / 2,
    );
  }
}

/** World tiles of the next coarser level over some tiles, in the order z, y, x, without repetition. */
export function parents(tiles: Int32Array): Int32Array {
  const seen = new Map<number, [number, number, number]>();
  for (let t = 0; t < tiles.length; t += 3) {
    const p: [number, number, number] = [
      Math.floor((tiles[t] ?? 0) / 2),
      Math.floor((tiles[t + 1] ?? 0) / 2),
      Math.floor((tiles[t + 2] ?? 0) / 2),
    ];
    seen.set(((p[2] + 65536) * 131072 + (p[1] + 65536)) * 131072 + (p[0] + 65536), p);
  }
  const keys = Float64Array.from(seen.keys()).sort();
  const out = new Int32Array(keys.length * 3);
  keys.forEach((key, n) => {
    out.set(seen.get(key) as [number, number, number], n * 3);
  });
  return out;
}

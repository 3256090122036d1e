import { limitWindow, windowAround, windowInto } from '#core/flow';
import { type Distance, union } from '#core/geometry';
import {
  GeometryCache,
  Hierarchy,
  type KernelTeam,
  type Level,
  type MovingSolid,
  RECORD_WORDS,
  TILE,
  type Window,
  entries,
  indexOf,
  planeStride,
  rowStride,
  sameWindow,
  windowOf,
} from '#core/grid';
import type { LiquidOptions } from './options';
import type { Particles } from './particles';
import { WallDistances } from './walls';

/** Fields of a liquid run, float32 in the window's layout; nothing in them but `x` means anything from one substep to the next. */
export const FIELD_NAMES = [
  ...(['u', 'v', 'w', 'u0', 'v0', 'w0', 'ex', 'ey', 'ez', 'thick', 'amount', 'phi'] as const),
  ...(['x', 'y', 'b', 'r', 'z', 'p', 'q', 'best'] as const),
] as const;
/** Those of the pressure: 0 wherever there is no liquid. */
const PRESSED = ['x', 'y', 'b', 'r', 'z', 'p', 'q', 'best'] as const;
export type FieldName = (typeof FIELD_NAMES)[number];
export type LiquidFields = Record<FieldName, number>;

/** Distance of cells that no particle is near to, voxels: see RADIUS in src/kernels/assembly/liquid-skin.ts. */
export const FAR = 1.5;

const CONTEXT_BYTES = 64;
/** Six arrays of 512 open fractions, then the diagonal. */
const BLOCK_FLOATS = 7 * 512;

/** Bytes that an entry of the window takes: fields, kinds, what is known of the three components; the pressure's levels come on top. */
export const BYTES_AN_ENTRY = FIELD_NAMES.length * 4 + 4;

/** The window of the limit box and a voxel all around: the first voxel of a wall must be in it, so that velocities go on into it. */
export function outerWindow({ voxelSize: h, bounds }: Pick<LiquidOptions, 'voxelSize' | 'bounds'>): Window {
  const { min, max } = bounds.limit;
  return limitWindow({
    voxelSize: h,
    bounds: { ...bounds, limit: { min: [min[0] - h, min[1] - h, min[2] - h], max: [max[0] + h, max[1] + h, max[2] + h] } },
  });
}

/**
 * The grid under the particles: a window in memory, the tiles that liquid is near to (solid ones too), and the levels of the pressure. It follows the particles
 * before every substep; tiles that are left hold no liquid and a pressure of 0.
 */
export class LiquidGrid {
  readonly limit: Window;
  readonly geometry: GeometryCache;
  readonly hierarchy: Hierarchy;
  readonly fields: LiquidFields;
  /** Which faces of u, v and w are known: bytes, 0 not, 1 by particles or pressure, more: how many layers further. */
  readonly known: readonly [number, number, number];
  /** Kinds of cells without regard to liquid: 0 solid, 1 can hold it, 2 beyond an open wall or asleep. */
  readonly solid: number;
  /** Context of all tiles that are awake; the pressure's own leaves out those that are all solid. */
  readonly context: number;
  /** Of each slot, the corners' wall distances. */
  readonly sdf: number;
  readonly slotOf: number;
  window: Window;
  /** Tiles that are awake. */
  slots = 0;
  tiles = new Int32Array(0);
  readonly walls: WallDistances;
  /** Whether the window was ever placed around particles. */
  #placed = false;
  readonly #records: number;
  readonly #flags: number;
  #awake: Uint8Array;
  #blocks: number[] = [];
  #blocksUsed = 0;

  constructor(
    private readonly team: KernelTeam,
    options: LiquidOptions,
    stillSolids: readonly Distance[],
    capacity: number,
  ) {
    this.limit = outerWindow(options);
    const tiles = (this.limit.nx * this.limit.ny * this.limit.nz) / 512;
    this.geometry = new GeometryCache(team, options.voxelSize, union(stillSolids), options.bounds.limit, options.bounds.walls);
    this.hierarchy = new Hierarchy(team, this.geometry, this.limit, capacity, BYTES_AN_ENTRY);
    this.walls = new WallDistances(team, this.geometry, options.voxelSize);
    this.fields = Object.fromEntries(FIELD_NAMES.map((name) => [name, team.allocate(capacity * 4)])) as LiquidFields;
    this.known = [team.allocate(capacity), team.allocate(capacity), team.allocate(capacity)];
    this.solid = team.allocate(capacity);
    this.context = team.allocate(CONTEXT_BYTES);
    const most = Math.min(tiles, Math.ceil(capacity / 512) + 1);
    this.#records = team.allocate(most * RECORD_WORDS * 4);
    this.sdf = team.allocate(most * 4);
    this.slotOf = team.allocate(tiles * 4);
    this.#flags = team.allocate(tiles);
    this.#awake = new Uint8Array(tiles);
    this.window = windowOf([this.limit.ox, this.limit.oy, this.limit.oz], [this.limit.ox + 1, this.limit.oy + 1, this.limit.oz + 1]);
    this.#adoptWindow(this.window);
  }

  get size(): number {
    return entries(this.window.nx, this.window.ny, this.window.nz);
  }

  get level(): Level {
    return this.hierarchy.finest;
  }

  /** All tiles that are awake, solid ones too, as a level: for kernels that ask for one. */
  get everywhere(): Level {
    return { ...this.level, context: this.context, records: this.#records, count: this.slots };
  }

  /** Tiles of the window along its axes. */
  get tilesAcross(): readonly [number, number, number] {
    return [this.window.nx / TILE, this.window.ny / TILE, this.window.nz / TILE];
  }

  /** Bytes that the present window takes. */
  get bytes(): number {
    return this.size * BYTES_AN_ENTRY;
  }

  /** Wakes the tiles within `grow` voxels of a particle, and puts moving solids where they are; `stood`: all of them are where they were put last. */
  follow(particles: Particles, grow: number, moving: readonly MovingSolid[], stood: boolean, mode: LiquidOptions['bounds']['mode']): void {
    const { team, limit } = this;
    const count = this.#awake.length;
    const flags = team.bytes(this.#flags, count).fill(mode === 'dense' ? 1 : 0);
    const [nx, ny, nz] = [limit.nx / TILE, limit.ny / TILE, limit.nz / TILE];
    const origin = [limit.ox / TILE, limit.oy / TILE, limit.oz / TILE] as const;
    team.launch(
      'markTiles',
      Math.ceil(particles.count / 1024),
      particles.places,
      particles.motions,
      particles.count,
      this.#flags,
      ...origin,
      nx,
      ny,
      nz,
      grow,
    );
    let same = (moving.length === 0 || stood) && this.slots > 0;
    for (let n = 0; same && n < count; n++) same = flags[n] === this.#awake[n];
    if (same) return;
    this.#awake = flags.slice();
    const tiles: number[] = [];
    let n = 0;
    for (let z = 0; z < nz; z++) {
      for (let y = 0; y < ny; y++) {
        for (let x = 0; x < nx; x++) if (flags[n++]) tiles.push(x + origin[0], y + origin[1], z + origin[2]);
      }
    }
    this.#sleep(flags);
    this.tiles = Int32Array.from(tiles);
    const around = mode === 'adaptive' ? windowAround({ limit, flags, tiles: this.tiles }) : limit;
    const window = around ? windowInto(this.hierarchy, around, this.#placed ? this.window : null, limit) : this.window;
    if (!sameWindow(window, this.window)) this.#adoptWindow(window);
    this.#placed = true;
    this.geometry.setMoving(moving);
    this.walls.forget();
    this.hierarchy.setActive(this.tiles);
    this.#blocksUsed = 0;
    team.bytes(this.solid, this.size).set(team.bytes(this.level.status, this.size));
    this.#writeSlots(moving);
  }

  /** Window and tiles as they were; what lies in them comes next. */
  adopt(window: Window, tiles: Int32Array<ArrayBuffer>): void {
    this.#adoptWindow(window);
    this.tiles = tiles;
    this.#placed = true;
  }

  /** What tiles that go to sleep leave behind: no liquid, no pressure, nothing known. */
  #sleep(flags: Uint8Array): void {
    const { team, fields, window: w, limit, size } = this;
    const [nx, ny] = [limit.nx / TILE, limit.ny / TILE];
    const { sx, sp } = this.level;
    for (let t = 0; t < this.tiles.length; t += 3) {
      const [tx, ty, tz] = [this.tiles[t] ?? 0, this.tiles[t + 1] ?? 0, this.tiles[t + 2] ?? 0];
      if (flags[((tz - limit.oz / TILE) * ny + ty - limit.oy / TILE) * nx + tx - limit.ox / TILE]) continue;
      const base = indexOf(w.nx, w.ny, tx * TILE - w.ox, ty * TILE - w.oy, tz * TILE - w.oz);
      const rows = Array.from({ length: 64 }, (_v, row) => base + (row >> 3) * sp + (row & 7) * sx);
      for (const name of [...PRESSED, 'phi'] as const) {
        const field = team.floats(fields[name], size);
        for (const o of rows) field.fill(name === 'phi' ? FAR : 0, o, o + TILE);
      }
      for (const pointer of this.known) {
        const known = team.bytes(pointer, size);
        for (const o of rows) known.fill(0, o, o + TILE);
      }
    }
    team.words(this.slotOf, this.#windowTiles()).fill(-1);
  }

  #windowTiles(): number {
    const [x, y, z] = this.tilesAcross;
    return x * y * z;
  }

  #adoptWindow(window: Window): void {
    const { team, fields } = this;
    this.hierarchy.setWindow(window);
    this.window = window;
    this.slots = 0;
    const planes = window.nz + 2;
    const plane = planeStride(window.nx, window.ny);
    for (const name of FIELD_NAMES) team.launch('fillPlanes', planes, fields[name], plane, name === 'phi' ? FAR : 0);
    for (const known of this.known) team.bytes(known, this.size).fill(0);
    team.words(this.slotOf, this.#windowTiles()).fill(-1);
  }

  #writeSlots(moving: readonly MovingSolid[]): void {
    const { team, window: w, tiles } = this;
    const records = team.pointers(this.#records, (tiles.length / 3) * RECORD_WORDS);
    const sdf = team.words(this.sdf, tiles.length / 3);
    const slotOf = team.words(this.slotOf, this.#windowTiles());
    const [tilesX, tilesY] = this.tilesAcross;
    for (let t = 0, slot = 0; t < tiles.length; t += 3, slot++) {
      const [tx, ty, tz] = [tiles[t] ?? 0, tiles[t + 1] ?? 0, tiles[t + 2] ?? 0];
      const [i, j, k] = [tx * TILE - w.ox, ty * TILE - w.oy, tz * TILE - w.oz];
      const id = ((k / TILE) * tilesY + j / TILE) * tilesX + i / TILE;
      const r = slot * RECORD_WORDS;
      records[r] = indexOf(w.nx, w.ny, i, j, k);
      records[r + 1] = i;
      records[r + 2] = j;
      records[r + 3] = k;
      records[r + 4] = this.geometry.tile(0, tx, ty, tz).cut;
      records[r + 5] = id;
      records[r + 7] = 0;
      sdf[slot] = this.walls.of(tx, ty, tz, moving);
      slotOf[id] = slot;
    }
    this.slots = tiles.length / 3;
    team
      .pointers(this.context, 8)
      .set([rowStride(w.nx), planeStride(w.nx, w.ny), w.nx, w.ny, w.nz, this.#records, this.level.status, this.level.diagonal]);
  }

  /** Tiles of the pressure that the surface runs through get a cut block of their own where no solid gave them one: their diagonal is not that of whole faces. */
  giveBlocks(flags: Uint8Array): void {
    const { team, level } = this;
    const records = team.pointers(level.records, level.count * RECORD_WORDS);
    for (let t = 0; t < level.count; t++) {
      if (!flags[t] || records[t * RECORD_WORDS + 4] !== 0) continue;
      let block = this.#blocks[this.#blocksUsed];
      if (block === undefined) {
        block = team.allocate(BLOCK_FLOATS * 4);
        team.floats(block, BLOCK_FLOATS).fill(1);
        this.#blocks.push(block);
      }
      this.#blocksUsed++;
      records[t * RECORD_WORDS + 4] = block;
    }
  }
}

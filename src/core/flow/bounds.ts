import {
  type GeometryCache,
  type KernelTeam,
  type MovingSolid,
  type Pocket,
  type Window,
  GeometryCache as Geometry,
  Hierarchy,
  RECORD_WORDS,
  TILE,
  entries,
  findPockets,
  indexOf,
  planeStride,
  rowStride,
  sameWindow,
  windowOf,
} from '#core/grid';
import { type Distance, union } from '#core/geometry';
import type { Vec3 } from '#core/math';
import {
  type ActiveSet,
  type Census,
  activeOf,
  chooseActive,
  windowInto,
  limitWindow,
  matterBox,
  tilesAtHalf,
  windowAround,
} from './activity';
import { findEdges, type EdgeFaces } from './edges';
import { type Contents, type FlowFields, SCRATCH, bytesOfWindow, fillWindow } from './fields';
import type { FlowOptions } from './options';
import { type Swept, type TouchedTile, sweep } from './sweep';

/**
 * Bounds: the window in memory and the active tiles in it. Keeps the promise that everything outside active tiles holds the ambient values,
 * except the faces that sleeping tiles share with active ones.
 */
export class Bounds<F extends FlowFields = FlowFields> {
  readonly limit: Window;
  readonly geometry: GeometryCache;
  readonly hierarchy: Hierarchy;
  window: Window;
  active: ActiveSet;
  edges: EdgeFaces = { owned: [new Int32Array(0), new Int32Array(0), new Int32Array(0)], fluxes: new Int32Array(0) };
  pockets: readonly Pocket[] = [];
  /** Metres around matter and emitting sources when the active set was last chosen. */
  matter: readonly [number, number, number, number, number, number] | null = null;
  /** What the air does outside of active tiles, m/s. */
  wind: Vec3;
  readonly #mayHavePockets: boolean;
  #census: Census | null = null;

  constructor(
    private readonly team: KernelTeam,
    private readonly options: FlowOptions,
    private readonly fields: F,
    private readonly contents: Contents<F>,
    capacity: number,
    stillSolids: readonly Distance[],
  ) {
    this.wind = options.forces.wind;
    this.limit = limitWindow(options);
    this.geometry = new Geometry(team, options.voxelSize, union(stillSolids), options.bounds.limit, options.bounds.walls);
    this.hierarchy = new Hierarchy(team, this.geometry, this.limit, capacity, contents.names.length * 4);
    this.window = this.limit;
    this.active = { limit: this.limit, flags: new Uint8Array(0), tiles: new Int32Array(0) };
    const closed = Object.values(options.bounds.walls).every((w) => w === 'closed');
    this.#mayHavePockets = closed || options.solids.length > 0;
  }

  /** Ambient value of a field. */
  ambientOf(name: keyof F): number {
    const { wind } = this;
    if (name === 'u') return wind[0];
    if (name === 'v') return wind[1];
    return name === 'w' ? wind[2] : (this.contents.ambient[name] ?? 0);
  }

  get size(): number {
    return entries(this.window.nx, this.window.ny, this.window.nz);
  }

  get bytes(): number {
    return bytesOfWindow(this.window, this.contents.names.length);
  }

  /** First window and active set; every field ambient. */
  start(census: Census, moving: readonly MovingSolid[]): void {
    const set = this.#choose(census);
    this.window = this.#fit(set, null);
    this.hierarchy.setWindow(this.window);
    this.geometry.setMoving(moving);
    for (const name of this.contents.names) fillWindow(this.team, this.window, this.fields[name] as number, this.ambientOf(name));
    this.#adopt(set);
  }

  /** Window and active set as they were; every field ambient. */
  restore(window: Window, tiles: Int32Array, moving: readonly MovingSolid[]): void {
    this.window = window;
    this.hierarchy.setWindow(window);
    this.geometry.setMoving(moving);
    for (const name of this.contents.names) fillWindow(this.team, window, this.fields[name] as number, this.ambientOf(name));
    this.#adopt(activeOf(this.limit, tiles));
  }

  /**
   * Follows the matter, and puts moving solids where they are now. Returns whether anything changed, what (x voxels) was in tiles that went to sleep, and
   * what the solids' change of place did (null: none moves).
   */
  follow(census: Census, moving: readonly MovingSolid[]): { changed: boolean; asleep: readonly number[]; swept: Swept | null } {
    const set = this.#choose(census);
    const old = this.active;
    const nothing = this.contents.counted.map(() => 0);
    const same = set.flags.every((f, t) => f === old.flags[t]);
    if (same && moving.length === 0) return { changed: false, asleep: nothing, swept: null };
    const asleep = same ? nothing : this.#putToSleep(set);
    const window = same ? this.window : this.#fit(set, this.window);
    if (!sameWindow(window, this.window)) this.#refit(window);
    if (moving.length === 0) {
      this.#adopt(set);
      return { changed: true, asleep, swept: null };
    }
    const touched = this.#touched(set, moving);
    this.geometry.setMoving(moving);
    this.#adopt(set);
    this.#clearSolidTiles(touched);
    const swept = sweep({
      team: this.team,
      level: this.hierarchy.finest,
      scalars: this.#swept(),
      counted: this.contents.counted.length,
      phi: this.fields.phi,
      touched,
      geometry: this.geometry,
    });
    return { changed: true, asleep, swept };
  }

  /** Scalars that moving solids sweep, those that are counted first. */
  #swept(): { readonly field: number; readonly nothing: number }[] {
    const { counted, riding } = this.contents;
    return [...counted, ...riding].map((name) => ({ field: this.fields[name] as number, nothing: this.ambientOf(name) }));
  }

  /** The wind has become another: the faces outside of active tiles have it at once, those that are shared with active ones stay. */
  setWind(wind: Vec3): void {
    const { team, fields, window } = this;
    const level = this.hierarchy.finest;
    const before = this.wind;
    this.wind = wind;
    (['u', 'v', 'w'] as const).forEach((name, axis) => {
      if (wind[axis] === before[axis]) return;
      const pointer = fields[name];
      const field = team.floats(pointer, this.size);
      const owned = this.edges.owned[axis as 0 | 1 | 2];
      const kept = Float32Array.from({ length: owned.length / 4 }, (_v, n) => field[owned[4 * n] ?? 0] ?? 0);
      team.launch('copyTiles', level.count, level.context, pointer, fields.a);
      fillWindow(team, window, pointer, wind[axis] ?? 0);
      team.launch('copyTiles', level.count, level.context, fields.a, pointer);
      for (let n = 0; n < kept.length; n++) field[owned[4 * n] ?? 0] = kept[n] ?? 0;
    });
  }

  /** Active tiles that moving solids are near to, where they were or where they will be, as they are before these move. */
  #touched({ tiles }: ActiveSet, moving: readonly MovingSolid[]): TouchedTile[] {
    const { geometry, window: w } = this;
    const touched: TouchedTile[] = [];
    for (let n = 0; n < tiles.length; n += 3) {
      const [tx, ty, tz] = [tiles[n] ?? 0, tiles[n + 1] ?? 0, tiles[n + 2] ?? 0];
      if (!geometry.isNear(0, tx, ty, tz) && !geometry.isNear(0, tx, ty, tz, moving)) continue;
      const base = indexOf(w.nx, w.ny, tx * TILE - w.ox, ty * TILE - w.oy, tz * TILE - w.oz);
      touched.push({ tile: [tx, ty, tz], base, before: geometry.tile(0, tx, ty, tz).status });
    }
    return touched;
  }

  /** Tiles that have become all solid are no tiles any more: what lies outside tiles holds the ambient values. */
  #clearSolidTiles(touched: readonly TouchedTile[]): void {
    const level = this.hierarchy.finest;
    for (const { tile, base, before } of touched) {
      if (!this.geometry.tile(0, ...tile).allSolid || (before && !before.includes(1))) continue;
      for (const name of [...SCRATCH, 'phi'] as const) this.#fillTile(this.fields[name], base, level, 0);
    }
  }

  #fillTile(field: number, base: number, level: { readonly sx: number; readonly sp: number }, value: number): void {
    for (let row = 0; row < 64; row++) {
      this.team.floats(field + (base + (row >> 3) * level.sp + (row & 7) * level.sx) * 4, TILE).fill(value);
    }
  }

  /** Voxels that would be active with half the voxel size, for the matter that the present set was chosen for. */
  get finerVoxels(): number {
    const chosen = this.active.tiles.length / 3;
    if (!this.#census || chosen === 0) return 0;
    // Tiles inside solids are chosen and then left out.
    return Math.round(512 * tilesAtHalf(this.options, this.#census) * (this.hierarchy.finest.count / chosen));
  }

  #choose(census: Census): ActiveSet {
    const { bounds, voxelSize } = this.options;
    this.#census = census;
    this.matter = matterBox(census, voxelSize);
    return chooseActive(this.limit, census, bounds.mode, Math.ceil(bounds.reach / voxelSize));
  }

  #adopt(set: ActiveSet): void {
    const before = this.edges;
    this.active = set;
    this.hierarchy.setActive(set.tiles);
    const level = this.hierarchy.finest;
    this.edges = findEdges(this.team, level, this.geometry, this.options.bounds.limit, this.options.voxelSize);
    this.#releaseFaces(before);
    this.pockets = this.#mayHavePockets ? findPockets(level, this.geometry, this.team) : [];
  }

  /** Old edge faces that lie in a sleeping tile and are edge faces no more become ambient. */
  #releaseFaces(before: EdgeFaces): void {
    const level = this.hierarchy.finest;
    const status = this.team.bytes(level.status, this.size);
    const strides = [1, level.sx, level.sp] as const;
    for (const axis of [0, 1, 2] as const) {
      const name = (['u', 'v', 'w'] as const)[axis];
      const field = this.team.floats(this.fields[name], this.size);
      const old = before.owned[axis];
      for (let n = 0; n < old.length; n += 4) {
        const at = old[n] ?? 0;
        if (status[at] !== 1 && status[at - strides[axis]] !== 1) field[at] = this.ambientOf(name);
      }
    }
  }

  /** Window for a set: kept while it fits and is not far too large, else grown with a tile to spare. */
  #fit(set: ActiveSet, current: Window | null): Window {
    const { mode } = this.options.bounds;
    const around = mode === 'adaptive' ? windowAround(set) : this.limit;
    if (!around)
      return current ?? windowOf([this.limit.ox, this.limit.oy, this.limit.oz], [this.limit.ox + 1, this.limit.oy + 1, this.limit.oz + 1]);
    return windowInto(this.hierarchy, around, current, this.limit);
  }

  /** Tiles that are active now and will not be: ambient everywhere, scratch 0. Returns what was in them. */
  #putToSleep(next: ActiveSet): number[] {
    const { team, fields } = this;
    const level = this.hierarchy.finest;
    const records = team.pointers(level.records, level.count * RECORD_WORDS);
    const status = team.bytes(level.status, this.size);
    const [lx, ly] = [this.limit.nx / TILE, this.limit.ny / TILE];
    const counted = this.contents.counted.map((name) => ({
      field: team.floats(fields[name] as number, this.size),
      nothing: this.ambientOf(name),
    }));
    const asleep = counted.map(() => 0);
    for (let r = 0; r < records.length; r += RECORD_WORDS) {
      const tile = [1, 2, 3].map((n) => (records[r + n] ?? 0) / TILE) as [number, number, number];
      const x = tile[0] + (this.window.ox - this.limit.ox) / TILE;
      const y = tile[1] + (this.window.oy - this.limit.oy) / TILE;
      const z = tile[2] + (this.window.oz - this.limit.oz) / TILE;
      if (next.flags[(z * ly + y) * lx + x]) continue;
      const base = records[r] ?? 0;
      for (let row = 0; row < 64; row++) {
        const o = base + (row >> 3) * level.sp + (row & 7) * level.sx;
        for (const [k, { field, nothing }] of counted.entries()) {
          let sum = asleep[k] ?? 0;
          for (let n = o; n < o + TILE; n++) if (status[n] === 1) sum += (field[n] ?? 0) - nothing;
          asleep[k] = sum;
        }
        for (const name of this.contents.names) {
          team.floats((fields[name] as number) + o * 4, TILE).fill(this.ambientOf(name));
        }
      }
    }
    return asleep;
  }

  /** Moves what both windows share; the arrays' capacity was set aside at the start. */
  #refit(next: Window): void {
    const { team, fields, window: old } = this;
    const from = [Math.max(old.ox, next.ox), Math.max(old.oy, next.oy), Math.max(old.oz, next.oz)] as const;
    // One layer more: the edge faces on the high side.
    const to = [
      Math.min(old.ox + old.nx, next.ox + next.nx) + 1,
      Math.min(old.oy + old.ny, next.oy + next.ny) + 1,
      Math.min(old.oz + old.nz, next.oz + next.nz) + 1,
    ] as const;
    const [rows, columns, planes] = [to[1] - from[1], to[0] - from[0], to[2] - from[2]];
    const offset = (w: Window): number => 4 * indexOf(w.nx, w.ny, from[0] - w.ox, from[1] - w.oy, from[2] - w.oz);
    for (const name of this.contents.names) {
      if ((SCRATCH as readonly string[]).includes(name)) continue;
      const target = fields.a;
      fillWindow(team, next, target, this.ambientOf(name));
      if (rows > 0 && columns > 0 && planes > 0) {
        team.launch(
          'copyBox',
          planes,
          (fields[name] as number) + offset(old),
          rowStride(old.nx),
          planeStride(old.nx, old.ny),
          target + offset(next),
          rowStride(next.nx),
          planeStride(next.nx, next.ny),
          rows,
          columns,
        );
      }
      fields.a = fields[name] as number;
      fields[name] = target as F[typeof name];
    }
    this.edges = { owned: this.#moved(old, next), fluxes: this.edges.fluxes };
    this.window = next;
    this.hierarchy.setWindow(next);
    for (const name of SCRATCH) fillWindow(team, next, fields[name], 0);
  }

  /** Edge faces by their index in the new window; those that fell outside are dropped. */
  #moved(old: Window, next: Window): [Int32Array, Int32Array, Int32Array] {
    return this.edges.owned.map((faces) => {
      const out: number[] = [];
      for (let n = 0; n < faces.length; n += 4) {
        const i = (faces[n + 1] ?? 0) + old.ox - next.ox;
        const j = (faces[n + 2] ?? 0) + old.oy - next.oy;
        const k = (faces[n + 3] ?? 0) + old.oz - next.oz;
        const inside = i >= 0 && j >= 0 && k >= 0 && i <= next.nx && j <= next.ny && k <= next.nz;
        if (inside) out.push(indexOf(next.nx, next.ny, i, j, k), i, j, k);
      }
      return Int32Array.from(out);
    }) as [Int32Array, Int32Array, Int32Array];
  }
}

/** What of bounds does not depend on what they hold. */
export type PlainBounds = Pick<Bounds, 'hierarchy' | 'size' | 'window' | 'wind' | 'geometry' | 'limit'>;

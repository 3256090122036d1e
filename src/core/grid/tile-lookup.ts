import { TILE } from './window';

/** Finds tiles by their place: an index over the box of all of them, -1 where there is none. */
export class TileLookup {
  /** Lowest tile, in tiles, and tiles a side. */
  readonly low: readonly [number, number, number];
  readonly size: readonly [number, number, number];
  /** x fastest. */
  readonly index: Int32Array;

  constructor(origins: Int32Array) {
    const count = origins.length / 3;
    const low = [0, 0, 0] as [number, number, number];
    const size = [0, 0, 0] as [number, number, number];
    for (const a of [0, 1, 2] as const) {
      let least = Infinity;
      let most = -Infinity;
      for (let t = 0; t < count; t++) {
        const v = Math.floor((origins[3 * t + a] ?? 0) / TILE);
        if (v < least) least = v;
        if (v > most) most = v;
      }
      low[a] = count > 0 ? least : 0;
      size[a] = count > 0 ? most - least + 1 : 0;
    }
    this.low = low;
    this.size = size;
    this.index = new Int32Array(size[0] * size[1] * size[2]).fill(-1);
    for (let t = 0; t < count; t++) {
      const [x, y, z] = [0, 1, 2].map((a) => Math.floor((origins[3 * t + a] ?? 0) / TILE)) as [number, number, number];
      this.index[((z - low[2]) * size[1] + (y - low[1])) * size[0] + (x - low[0])] = t;
    }
  }

  /** The tile that holds a tile coordinate; -1: none does. */
  at(x: number, y: number, z: number): number {
    const [i, j, k] = [x - this.low[0], y - this.low[1], z - this.low[2]];
    if (i < 0 || j < 0 || k < 0 || i >= this.size[0] || j >= this.size[1] || k >= this.size[2]) return -1;
    return this.index[(k * this.size[1] + j) * this.size[0] + i] ?? -1;
  }
}

/** A tile grid that grows: tiles come where something is put. */
export class TileBuilder {
  readonly #tiles = new Map<number, number>();
  #origins = new Int32Array(3 * 64);
  #values: Float32Array<ArrayBuffer>;
  #masks = new Uint8Array(64 * 64);
  count = 0;

  constructor(private readonly components: 1 | 3) {
    this.#values = new Float32Array(512 * components * 64);
  }

  get values(): Float32Array {
    return this.#values;
  }
  get masks(): Uint8Array {
    return this.#masks;
  }
  get origins(): Int32Array {
    return this.#origins;
  }

  /** Number of the tile at a tile coordinate (within 2^16 of the origin), made when there is none. */
  tile(x: number, y: number, z: number): number {
    const key = ((x + 65536) * 131072 + (y + 65536)) * 131072 + (z + 65536);
    const known = this.#tiles.get(key);
    if (known !== undefined) return known;
    const t = this.count++;
    if (3 * (t + 1) > this.#origins.length) this.#grow();
    this.#origins[3 * t] = x * TILE;
    this.#origins[3 * t + 1] = y * TILE;
    this.#origins[3 * t + 2] = z * TILE;
    this.#tiles.set(key, t);
    return t;
  }

  #grow(): void {
    const twice = <T extends Int32Array | Float32Array | Uint8Array>(from: T, to: T): T => {
      to.set(from);
      return to;
    };
    this.#origins = twice(this.#origins, new Int32Array(2 * this.#origins.length));
    this.#values = twice(this.#values, new Float32Array(2 * this.#values.length));
    this.#masks = twice(this.#masks, new Uint8Array(2 * this.#masks.length));
  }

  /** Bytes that it holds. */
  get bytes(): number {
    return this.#values.byteLength + this.#masks.byteLength + this.#origins.byteLength;
  }

  /** Only the tiles that hold an active voxel. */
  finish(
    name: string,
    background: readonly number[],
  ): { name: string; components: 1 | 3; background: readonly number[]; origins: Int32Array; values: Float32Array; masks: Uint8Array } {
    const { components } = this;
    const used: number[] = [];
    for (let t = 0; t < this.count; t++) {
      for (let b = 0; b < 64; b++) {
        if ((this.#masks[t * 64 + b] ?? 0) !== 0) {
          used.push(t);
          break;
        }
      }
    }
    const origins = new Int32Array(3 * used.length);
    const values = new Float32Array(512 * components * used.length);
    const masks = new Uint8Array(64 * used.length);
    used.forEach((t, n) => {
      origins.set(this.#origins.subarray(3 * t, 3 * t + 3), 3 * n);
      values.set(this.#values.subarray(512 * components * t, 512 * components * (t + 1)), 512 * components * n);
      masks.set(this.#masks.subarray(64 * t, 64 * (t + 1)), 64 * n);
    });
    return { name, components, background, origins, values, masks };
  }
}

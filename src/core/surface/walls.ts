import type { Box3, Distance } from '#core/geometry';
import type { Walls } from '#core/grid';
import { BAND } from './band';
import { MASKS } from './filters';
import type { Level } from './level';

export const MEETINGS = ['contact', 'inside', 'trimmed'] as const;
/** How the skin meets walls: at the contact surface, some way inside the wall, or cut off by it and no more. */
export type Meeting = (typeof MEETINGS)[number];

/** Voxels behind where the skin is to end that it is carried on to: it may be moved before it is cut. */
const BEYOND = 1.8;
/** Voxels from a wall within which its distance is known. */
const FAR = 8;
/** Most voxels that a skin may reach into a wall: the band is as wide. */
export const DEEPEST = 2;

/** How far a point lies inside the limit box from its closed walls, metres; negative beyond one. `open`: from its open walls instead. */
export function boxDistance({ min, max }: Box3, walls: Walls, state: 'closed' | 'open'): Distance {
  const { left, right, floor, ceiling, back, front } = walls;
  const own = (w: 'open' | 'closed'): boolean => w === state;
  return (x, y, z) => {
    let d = Infinity;
    if (own(left)) d = Math.min(d, x - min[0]);
    if (own(right)) d = Math.min(d, max[0] - x);
    if (own(floor)) d = Math.min(d, y - min[1]);
    if (own(ceiling)) d = Math.min(d, max[1] - y);
    if (own(back)) d = Math.min(d, z - min[2]);
    if (own(front)) d = Math.min(d, max[2] - z);
    return d;
  };
}

/** What a frame's skin meets, kept tile by tile in voxels. */
export class WallField {
  readonly #tiles = new Map<number, Float32Array | null>();

  constructor(
    /** Metres, positive where liquid can be. */
    readonly distance: Distance,
    readonly voxelSize: number,
  ) {}

  #of(i: number, j: number, k: number): Float32Array | null {
    const key = ((i / 8 + 65536) * 131072 + (j / 8 + 65536)) * 131072 + (k / 8 + 65536);
    const known = this.#tiles.get(key);
    if (known !== undefined) return known;
    const { distance, voxelSize: h } = this;
    let made: Float32Array | null = null;
    if (distance((i + 4) * h, (j + 4) * h, (k + 4) * h) < (4 * Math.sqrt(3) + FAR) * h) {
      made = new Float32Array(512);
      for (let n = 0; n < 512; n++) {
        const d = distance((i + (n & 7) + 0.5) * h, (j + ((n >> 3) & 7) + 0.5) * h, (k + (n >> 6) + 0.5) * h) / h;
        made[n] = Math.max(-FAR, Math.min(FAR, d));
      }
    }
    this.#tiles.set(key, made);
    return made;
  }

  /** Keeps the walls' distance with a level (`walls`), and where they are near (a mask): for the tiles that it has now. Whether there are any. */
  putInto(level: Level): boolean {
    const { team } = level.pool;
    const record = team.words(level.band.records, level.slots * 4);
    const tiles = Array.from({ length: level.slots }, (_v, s) =>
      this.#of(record[4 * s] ?? 0, record[4 * s + 1] ?? 0, record[4 * s + 2] ?? 0),
    );
    if (!tiles.some((t) => t !== null)) return false;
    const [walls, mask] = [level.room(), level.room()];
    const out = team.floats(walls, level.slots * 512);
    const near = team.floats(mask, level.slots * 512);
    for (let s = 0; s < level.slots; s++) {
      const tile = tiles[s];
      if (!tile) {
        out.fill(FAR, s * 512, s * 512 + 512);
        near.fill(0, s * 512, s * 512 + 512);
        continue;
      }
      out.set(tile, s * 512);
      for (let n = 0; n < 512; n++) near[s * 512 + n] = Math.max(0, Math.min(1, 1.5 - (tile[n] as number) / 2));
    }
    level.keep('walls', walls, FAR);
    level.keep(MASKS.walls, mask, 0);
    return true;
  }
}

/** Reads a level anywhere, in TypeScript: voxels, from its own copy of the values. */
export class Reader {
  readonly #values: Float32Array;
  readonly #slots: Int32Array;
  readonly #origin: readonly [number, number, number];
  readonly #across: readonly [number, number, number];

  constructor(level: Level) {
    const { band } = level;
    this.#values = level.values().slice();
    this.#slots = level.pool.team.words(band.table, band.across[0] * band.across[1] * band.across[2]).slice();
    this.#origin = band.origin;
    this.#across = band.across;
  }

  at(i: number, j: number, k: number): number {
    const [x, y, z] = [(i >> 3) - this.#origin[0], (j >> 3) - this.#origin[1], (k >> 3) - this.#origin[2]];
    const [nx, ny, nz] = this.#across;
    if (x < 0 || y < 0 || z < 0 || x >= nx || y >= ny || z >= nz) return BAND;
    const slot = this.#slots[(z * ny + y) * nx + x] as number;
    if (slot < 0) return slot === -1 ? BAND : -BAND;
    return this.#values[slot * 512 + (((k & 7) << 6) | ((j & 7) << 3) | (i & 7))] as number;
  }

  /** Trilinear, between voxel middles; in voxels. */
  between(x: number, y: number, z: number): number {
    const [i, j, k] = [Math.floor(x - 0.5), Math.floor(y - 0.5), Math.floor(z - 0.5)];
    const [u, v, w] = [x - 0.5 - i, y - 0.5 - j, z - 0.5 - k];
    let sum = 0;
    for (let c = 0; c < 8; c++) {
      const weight = (c & 1 ? u : 1 - u) * (c & 2 ? v : 1 - v) * (c & 4 ? w : 1 - w);
      if (weight > 0) sum += weight * this.at(i + (c & 1), j + ((c >> 1) & 1), k + (c >> 2));
    }
    return sum;
  }
}

/** Whether any wall is near a level's tiles; its distance is kept with the level then. */
export const standsIn = (level: Level, walls: WallField): boolean => level.slots > 0 && walls.putInto(level);

/**
 * Carries the skin on into the walls that it stands at (`standsIn`). Particles end a little before a wall, and so does their skin: it goes on as it is `clear` voxels away, along
 * the wall's normal, further inside than `depth` voxels; where it is to end there is cut off afterwards (`cutAtWalls`).
 */
export function reachIntoWalls(level: Level, { distance, voxelSize: h }: WallField, clear: number, depth: number): void {
  const { team } = level.pool;
  const before = new Reader(level);
  const wall = team.floats(level.beside('walls'), level.slots * 512);
  const values = level.values();
  const record = team.words(level.band.records, level.slots * 4);
  const e = 0.25 * h;
  for (let s = 0; s < level.slots; s++) {
    const [i0, j0, k0] = [record[4 * s] ?? 0, record[4 * s + 1] ?? 0, record[4 * s + 2] ?? 0];
    for (let n = 0; n < 512; n++) {
      const d = wall[s * 512 + n] as number;
      const own = values[s * 512 + n] as number;
      // Deep in the liquid there is nothing to be carried on, and far from it there is no liquid.
      if (d >= clear || d < -depth - BEYOND || own < -1.2 || own >= BAND) continue;
      const [x, y, z] = [i0 + (n & 7) + 0.5, j0 + ((n >> 3) & 7) + 0.5, k0 + (n >> 6) + 0.5];
      const here = d * h;
      const gx = distance(x * h + e, y * h, z * h) - here;
      const gy = distance(x * h, y * h + e, z * h) - here;
      const gz = distance(x * h, y * h, z * h + e) - here;
      const length = Math.sqrt(gx * gx + gy * gy + gz * gz);
      if (length === 0) continue;
      const go = (clear - d) / length;
      values[s * 512 + n] = Math.min(own, before.between(x + go * gx, y + go * gy, z + go * gz));
    }
  }
  level.redistance();
}

/** Cuts what lies further inside a wall than `depth` voxels (`standsIn`). */
export function cutAtWalls(level: Level, walls: WallField, depth: number): void {
  if (!standsIn(level, walls)) return;
  level.pool.team.launch('clipTiles', level.slots, level.field, level.beside('walls'), Math.min(DEEPEST, depth));
  level.redistance();
}

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
const WALLS_OF_CORNER = 3;
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

  /** `field`: another of its fields, instead of the distance. */
  constructor(level: Level, field = level.field) {
    const { band } = level;
    this.#values = level.pool.team.floats(field, level.slots * 512).slice();
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
      // In a corner one wall is left after the other.
      const p: [number, number, number] = [(i0 + (n & 7) + 0.5) * h, (j0 + ((n >> 3) & 7) + 0.5) * h, (k0 + (n >> 6) + 0.5) * h];
      let here = d * h;
      for (let step = 0; step < WALLS_OF_CORNER && here < 0.98 * clear * h; step++) {
        const [x, y, z] = p;
        // From both sides: where two walls are as near, the difference to one side is nothing.
        const g = [
          distance(x + e, y, z) - distance(x - e, y, z),
          distance(x, y + e, z) - distance(x, y - e, z),
          distance(x, y, z + e) - distance(x, y, z - e),
        ] as const;
        const length = Math.sqrt(g[0] * g[0] + g[1] * g[1] + g[2] * g[2]);
        if (length === 0) break;
        const go = (clear * h - here) / length;
        for (const axis of [0, 1, 2] as const) p[axis] += go * g[axis];
        here = distance(p[0], p[1], p[2]);
      }
      values[s * 512 + n] = Math.min(own, before.between(p[0] / h, p[1] / h, p[2] / h));
    }
  }
  level.redistance();
}

/** The six voxels beside one. */
const BESIDE = [
  [1, 0, 0],
  [-1, 0, 0],
  [0, 1, 0],
  [0, -1, 0],
  [0, 0, 1],
  [0, 0, -1],
] as const;

/** Gives what lies less than a voxel inside a wall the value by which the zero line to the liquid before it runs along the wall. */
function putOnWall(level: Level, depth: number): void {
  const { team } = level.pool;
  const values = level.values();
  const wall = team.floats(level.beside('walls'), level.slots * 512);
  const whole = team.floats(level.beside(WHOLE), level.slots * 512);
  const record = team.words(level.band.records, level.slots * 4);
  const [skin, walls] = [new Reader(level), new Reader(level, level.beside('walls'))];
  for (let n = 0; n < values.length; n++) {
    const inside = -((wall[n] as number) + depth);
    if (inside <= 0 || inside >= 1 || (whole[n] as number) > inside) continue;
    const r = 4 * (n >> 9);
    const [i, j, k] = [(record[r] ?? 0) + (n & 7), (record[r + 1] ?? 0) + ((n >> 3) & 7), (record[r + 2] ?? 0) + ((n >> 6) & 7)];
    let [far, film] = [0, 0];
    for (const [x, y, z] of BESIDE) {
      const d = walls.at(i + x, j + y, k + z) + depth;
      const v = skin.at(i + x, j + y, k + z);
      if (v < 0 && d > far) [far, film] = [d, -v];
    }
    if (far > 0) values[n] = Math.min(values[n] as number, inside * Math.min(1, film / far));
  }
}

/** The skin before it is cut, kept with its level while that happens. */
const WHOLE = 'whole';

/**
 * Cuts what lies further inside a wall than `depth` voxels. A film on a wall may be thinner than a voxel: its voxel is nearer to the film's top than to the wall, and the zero line would
 * lie off the wall by up to half a voxel. What lies in the wall then gets a value that puts the line where the wall is.
 */
export function cutAtWalls(level: Level, walls: WallField, depth: number): void {
  if (!standsIn(level, walls)) return;
  const { pool } = level;
  const deep = Math.min(DEEPEST, depth);
  const whole = level.room();
  pool.team.bytes(whole, level.slots * 2048).set(pool.team.bytes(level.field, level.slots * 2048));
  level.keep(WHOLE, whole, BAND);
  pool.team.launch('clipTiles', level.slots, level.field, level.beside('walls'), deep);
  level.redistance();
  if (standsIn(level, walls)) putOnWall(level, deep);
  level.drop(WHOLE);
}

import type { Distance, Box3 } from '#core/geometry';
import { faceFraction } from './fractions';
import type { KernelTeam } from './team';
import { TILE } from './window';

/** The limit box's six sides, in the order -x +x -y +y -z +z. */
export const WALLS = ['left', 'right', 'floor', 'ceiling', 'back', 'front'] as const;
export type Wall = (typeof WALLS)[number];
export type Walls = Readonly<Record<Wall, 'open' | 'closed'>>;

/** What a tile of a level is made of. Worked out once and kept, but for tiles that a moving solid is near. */
export interface TileGeometry {
  /** Pointer to the cut block (6 x 512 open face fractions, then the diagonal), 0 when every face is fully open. */
  readonly cut: number;
  /** Per cell 0 solid, 1 can hold fluid, 2 beyond an open wall; null when all are 1. */
  readonly status: Uint8Array | null;
  readonly allSolid: boolean;
  readonly reachesBeyond: boolean;
}

/** A solid that moves, where it is now. */
export interface MovingSolid {
  readonly distance: Distance;
  readonly bounds: Box3;
  /** Of its material at a point, m/s. */
  readonly velocity: (x: number, y: number, z: number) => readonly [number, number, number];
}

/** Voxels around a moving solid's box within which tiles are worked out anew. */
const NEAR = 2;

const OPEN: TileGeometry = { cut: 0, status: null, allSolid: false, reachesBeyond: false };
const CELLS = TILE * TILE * TILE;
const BLOCK_BYTES = 7 * CELLS * 4;
/** Corner samples of a tile and one layer: 9^3. */
const CORNERS = TILE + 1;

/**
 * Face fractions and cell kinds of tiles, keyed by level and world tile, from the signed distance of the solids and of the closed walls (a closed
 * wall is a half space, so it stands at the limit box itself, to a fraction of a voxel). An open wall is snapped to voxels: cells whose centre
 * lies outside are beyond it. Coarser levels average the fractions of the four finer faces (Batty et al. 2007 on the finest).
 */
export class GeometryCache {
  readonly #tiles: Map<number, TileGeometry>[] = [];
  /** Tiles near moving solids, of this placement of theirs only. */
  #movingTiles: Map<number, TileGeometry>[] = [];
  #moving: readonly MovingSolid[] = [];
  /** Cut blocks of moving tiles: in use, and free to be used again (the arena frees nothing). */
  #lent: number[] = [];
  #free: number[] = [];
  #near = false;
  /** While a tile is sampled: only moving solids count in it. */
  #far = false;
  readonly #corners = new Float64Array(CORNERS ** 3);
  /** Of the tile that is being built. */
  readonly #fractions = new Float32Array(6 * CELLS);
  #solidBlock = 0;

  constructor(
    private readonly team: KernelTeam,
    readonly voxelSize: number,
    private readonly solids: Distance,
    private readonly limit: Box3,
    private readonly walls: Walls,
  ) {}

  /** Puts moving solids where they are now; whatever was worked out near them is forgotten. */
  setMoving(moving: readonly MovingSolid[]): void {
    this.#moving = moving;
    this.#movingTiles = [];
    this.#free.push(...this.#lent);
    this.#lent = [];
  }

  /**
   * Whether a tile of a level lies so near to a moving solid (where it is now, or as given) that it has to be worked out anew each time. `within`: voxels between
   * them.
   */
  isNear(level: number, tx: number, ty: number, tz: number, moving = this.#moving, within = NEAR): boolean {
    const edge = TILE * this.voxelSize * 2 ** level;
    const m = within * this.voxelSize;
    for (const { bounds } of moving) {
      const { min, max } = bounds;
      if (max[0] <= tx * edge - m || min[0] >= (tx + 1) * edge + m) continue;
      if (max[1] <= ty * edge - m || min[1] >= (ty + 1) * edge + m) continue;
      if (max[2] <= tz * edge - m || min[2] >= (tz + 1) * edge + m) continue;
      return true;
    }
    return false;
  }

  /** Open distance of what stands still. */
  stillDistance(x: number, y: number, z: number): number {
    return this.#standing(x, y, z);
  }

  /**
   * Whether what stands still is so far from a tile that no face of it can be nearer to that than to a moving solid that closes a part of the face: what
   * stands still need not be asked there.
   */
  standsFar(level: number, tx: number, ty: number, tz: number): boolean {
    const edge = TILE * this.voxelSize * 2 ** level;
    const centre = this.#standing((tx + 0.5) * edge, (ty + 0.5) * edge, (tz + 0.5) * edge);
    return centre > (Math.sqrt(3) / 2) * edge + 2 * this.voxelSize * 2 ** level;
  }

  /** Open distance at a world position: positive where fluid may be. */
  distance(x: number, y: number, z: number): number {
    let d = this.#far ? Infinity : this.#standing(x, y, z);
    if (this.#near) for (const m of this.#moving) d = Math.min(d, m.distance(x, y, z));
    return d;
  }

  #standing(x: number, y: number, z: number): number {
    let d = this.solids(x, y, z);
    const { min, max } = this.limit;
    const { walls } = this;
    if (walls.left === 'closed') d = Math.min(d, x - min[0]);
    if (walls.right === 'closed') d = Math.min(d, max[0] - x);
    if (walls.floor === 'closed') d = Math.min(d, y - min[1]);
    if (walls.ceiling === 'closed') d = Math.min(d, max[1] - y);
    if (walls.back === 'closed') d = Math.min(d, z - min[2]);
    if (walls.front === 'closed') d = Math.min(d, max[2] - z);
    return d;
  }

  /** Geometry of the tile at world tile coordinates of a level (tile t covers level voxels [8t, 8t + 8)). */
  tile(level: number, tx: number, ty: number, tz: number): TileGeometry {
    const near = this.#moving.length > 0 && this.isNear(level, tx, ty, tz);
    const map = near
      ? (this.#movingTiles[level] ??= new Map<number, TileGeometry>())
      : (this.#tiles[level] ??= new Map<number, TileGeometry>());
    // 17 bits a coordinate: +-65536 tiles.
    const key = ((tx + 65536) * 131072 + (ty + 65536)) * 131072 + (tz + 65536);
    let found = map.get(key);
    if (!found) {
      // Building a coarse tile asks for finer ones, some of them not near: each is built in its own light.
      const before = this.#near;
      this.#near = near;
      found = this.#build(level, tx, ty, tz);
      this.#near = before;
      map.set(key, found);
    }
    return found;
  }

  #build(level: number, tx: number, ty: number, tz: number): TileGeometry {
    const h = this.voxelSize * 2 ** level;
    const edge = TILE * h;
    const centre = this.distance((tx + 0.5) * edge, (ty + 0.5) * edge, (tz + 0.5) * edge);
    // Half the tile's diagonal and a voxel: every corner of it lies on the centre's side.
    const margin = (Math.sqrt(3) / 2) * edge + h;
    if (centre < -margin) return this.#solidTile();
    const status = level === 0 ? this.#beyond(tx, ty, tz) : null;
    if (centre > margin) {
      return status ? { cut: 0, status, allSolid: false, reachesBeyond: true } : OPEN;
    }
    return level === 0 ? this.#sampled(tx, ty, tz, status) : this.#averaged(level, tx, ty, tz);
  }

  #block(): number {
    if (!this.#near) return this.team.allocate(BLOCK_BYTES);
    const block = this.#free.pop() ?? this.team.allocate(BLOCK_BYTES);
    this.#lent.push(block);
    return block;
  }

  #solidTile(): TileGeometry {
    if (this.#solidBlock === 0) this.#solidBlock = this.team.allocate(BLOCK_BYTES);
    return { cut: this.#solidBlock, status: new Uint8Array(CELLS), allSolid: true, reachesBeyond: false };
  }

  /** 2 for cells beyond an open wall, else 1; null when there are none. */
  #beyond(tx: number, ty: number, tz: number): Uint8Array | null {
    const h = this.voxelSize;
    const { min, max } = this.limit;
    const { walls } = this;
    const open = {
      min: [walls.left === 'open', walls.floor === 'open', walls.back === 'open'] as const,
      max: [walls.right === 'open', walls.ceiling === 'open', walls.front === 'open'] as const,
    };
    const origin = [tx * TILE, ty * TILE, tz * TILE] as const;
    const out: boolean[][] = [];
    let any = false;
    for (const a of [0, 1, 2] as const) {
      const line: boolean[] = [];
      for (let n = 0; n < TILE; n++) {
        const c = (origin[a] + n + 0.5) * h;
        const beyond = (open.min[a] && c < min[a]) || (open.max[a] && c > max[a]);
        line.push(beyond);
        any ||= beyond;
      }
      out.push(line);
    }
    if (!any) return null;
    const status = new Uint8Array(CELLS);
    for (let n = 0; n < CELLS; n++) {
      status[n] = out[0]?.[n & 7] || out[1]?.[(n >> 3) & 7] || out[2]?.[n >> 6] ? 2 : 1;
    }
    return status;
  }

  #sampled(tx: number, ty: number, tz: number, beyond: Uint8Array | null): TileGeometry {
    const h = this.voxelSize;
    const phi = this.#corners;
    let n = 0;
    let open = 0;
    this.#far = this.#near && this.standsFar(0, tx, ty, tz);
    for (let k = 0; k < CORNERS; k++) {
      for (let j = 0; j < CORNERS; j++) {
        for (let i = 0; i < CORNERS; i++) {
          const d = this.distance((tx * TILE + i) * h, (ty * TILE + j) * h, (tz * TILE + k) * h);
          // A wall that lies on the lattice must not flicker with rounding.
          phi[n] = Math.abs(d) < 1e-9 * h ? 0 : d;
          if ((phi[n] ?? 0) > 0) open++;
          n++;
        }
      }
    }
    this.#far = false;
    if (open === n) return beyond ? { cut: 0, status: beyond, allSolid: false, reachesBeyond: true } : OPEN;
    if (open === 0) return this.#solidTile();
    const block = this.#fractions.fill(1);
    for (let c = 0; c < CELLS; c++) {
      const o = (c >> 6) * CORNERS * CORNERS + ((c >> 3) & 7) * CORNERS + (c & 7);
      // Corners in the order x, y, z; most cells lie on one side whole.
      const p000 = phi[o] ?? 0;
      const p100 = phi[o + 1] ?? 0;
      const p010 = phi[o + CORNERS] ?? 0;
      const p110 = phi[o + CORNERS + 1] ?? 0;
      const p001 = phi[o + CORNERS * CORNERS] ?? 0;
      const p101 = phi[o + CORNERS * CORNERS + 1] ?? 0;
      const p011 = phi[o + CORNERS * CORNERS + CORNERS] ?? 0;
      const p111 = phi[o + CORNERS * CORNERS + CORNERS + 1] ?? 0;
      if (p000 > 0 && p100 > 0 && p010 > 0 && p110 > 0 && p001 > 0 && p101 > 0 && p011 > 0 && p111 > 0) continue;
      block[c] = faceFraction(p000, p010, p011, p001);
      block[CELLS + c] = faceFraction(p100, p110, p111, p101);
      block[2 * CELLS + c] = faceFraction(p000, p100, p101, p001);
      block[3 * CELLS + c] = faceFraction(p010, p110, p111, p011);
      block[4 * CELLS + c] = faceFraction(p000, p100, p110, p010);
      block[5 * CELLS + c] = faceFraction(p001, p101, p111, p011);
    }
    return this.#finished(block, beyond);
  }

  #averaged(level: number, tx: number, ty: number, tz: number): TileGeometry {
    const children: TileGeometry[] = [];
    for (let n = 0; n < 8; n++) {
      children.push(this.tile(level - 1, 2 * tx + (n & 1), 2 * ty + ((n >> 1) & 1), 2 * tz + (n >> 2)));
    }
    if (children.every((c) => c.cut === 0)) return OPEN;
    if (children.every((c) => c.allSolid)) return this.#solidTile();
    const fractions = children.map((c) => (c.cut === 0 ? null : this.team.floats(c.cut, 6 * CELLS)));
    const block = this.#fractions;
    // A face's four children share a child tile, but for the other axes' offsets: 0, 1 along the first, 0, 8 or 64 along the second.
    for (let c = 0; c < CELLS; c++) {
      const [i, j, k] = [2 * (c & 7), 2 * ((c >> 3) & 7), 2 * (c >> 6)];
      const child = fractions[(i >> 3) + 2 * (j >> 3) + 4 * (k >> 3)];
      const o = ((k & 7) << 6) + ((j & 7) << 3) + (i & 7);
      for (let face = 0; face < 6; face++) {
        const axis = face >> 1;
        const from = face * CELLS + o + (face & 1) * (axis === 0 ? 1 : axis === 1 ? 8 : 64);
        const [a, b] = axis === 0 ? [8, 64] : axis === 1 ? [1, 64] : [1, 8];
        block[face * CELLS + c] = child
          ? ((child[from] ?? 0) + (child[from + a] ?? 0) + (child[from + b] ?? 0) + (child[from + a + b] ?? 0)) / 4
          : 1;
      }
    }
    return this.#finished(block, null);
  }

  #finished(block: Float32Array, beyond: Uint8Array | null): TileGeometry {
    const status = new Uint8Array(CELLS);
    let solid = 0;
    let full = true;
    for (let c = 0; c < CELLS; c++) {
      let sum = 0;
      for (let f = 0; f < 6; f++) sum += block[f * CELLS + c] ?? 0;
      if (sum < 6) full = false;
      if (sum === 0) solid++;
      status[c] = sum === 0 ? 0 : (beyond?.[c] ?? 1);
    }
    if (full) return beyond ? { cut: 0, status: beyond, allSolid: false, reachesBeyond: true } : OPEN;
    if (solid === CELLS) return this.#solidTile();
    const cut = this.#block();
    this.team.floats(cut, 6 * CELLS).set(block);
    return { cut, status, allSolid: false, reachesBeyond: beyond !== null };
  }
}

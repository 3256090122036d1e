import { type GeometryCache, type KernelTeam, type MovingSolid, TILE } from '#core/grid';

/** Corner samples a side of a tile. */
const CORNERS = TILE + 1;
const COUNT = CORNERS ** 3;
/** Voxels from a wall within which tiles know of it: further than anything moves in a substep. */
const NEAR = 10;
/** As far from a tile's middle as still solids are known: farther off a moving solid was not known at all, and what flew at it met it later than a still one. */
const AROUND = (Math.sqrt(3) / 2) * TILE + NEAR;

/** Distance of the solids at the corners of the tiles near to them, in voxels: what particles meet. Tiles near a moving solid are worked out anew each time. */
export class WallDistances {
  readonly #still = new Map<number, number>();
  #moving = new Map<number, number>();
  #lent: number[] = [];
  #free: number[] = [];

  constructor(
    private readonly team: KernelTeam,
    private readonly geometry: GeometryCache,
    private readonly voxelSize: number,
  ) {}

  /** Moving solids are elsewhere now. */
  forget(): void {
    this.#free.push(...this.#lent);
    this.#lent = [];
    this.#moving = new Map();
  }

  /** Pointer to the samples of a world tile; 0: no wall is near. */
  of(tx: number, ty: number, tz: number, moving: readonly MovingSolid[]): number {
    const near = moving.length > 0 && this.geometry.isNear(0, tx, ty, tz, moving, AROUND - TILE / 2);
    const map = near ? this.#moving : this.#still;
    const key = ((tx + 65536) * 131072 + (ty + 65536)) * 131072 + (tz + 65536);
    const known = map.get(key);
    if (known !== undefined) return known;
    const made = this.#build(tx, ty, tz, near ? moving : []);
    map.set(key, made);
    return made;
  }

  #build(tx: number, ty: number, tz: number, moving: readonly MovingSolid[]): number {
    const { geometry, voxelSize: h } = this;
    const distance = (x: number, y: number, z: number): number => {
      let d = geometry.stillDistance(x, y, z);
      for (const m of moving) d = Math.min(d, m.distance(x, y, z));
      return d;
    };
    const middle = distance((tx + 0.5) * TILE * h, (ty + 0.5) * TILE * h, (tz + 0.5) * TILE * h) / h;
    if (middle > AROUND) return 0;
    const block = (moving.length > 0 ? this.#free.pop() : undefined) ?? this.team.allocate(COUNT * 4);
    if (moving.length > 0) this.#lent.push(block);
    const values = this.team.floats(block, COUNT);
    let n = 0;
    for (let k = 0; k < CORNERS; k++) {
      for (let j = 0; j < CORNERS; j++) {
        for (let i = 0; i < CORNERS; i++) values[n++] = distance((tx * TILE + i) * h, (ty * TILE + j) * h, (tz * TILE + k) * h) / h;
      }
    }
    return block;
  }
}

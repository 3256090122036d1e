import type { KernelTeam, TileGrid } from '#core/grid';
import { TileLookup } from '#core/grid';

/** What is read of a frame: its parts (bounds), each with its channels. */
export interface BasePart {
  readonly voxelSize: number;
  readonly grids: readonly TileGrid[];
}

/** Points of the base: middles of its voxels, from `low` on, so many along each axis; x fastest. */
export interface Lattice {
  readonly low: readonly [number, number, number];
  readonly size: readonly [number, number, number];
}

/** Points around what is there, so that what lies outside of it is found at the rim. */
const RIM = 3;

export const pointsOf = ({ size }: Lattice): number => size[0] * size[1] * size[2];

/** Around all tiles of all parts, in voxels of the finest; within a box of those voxels. */
export function latticeAround(parts: readonly BasePart[], voxelSize: number, within: Lattice): Lattice {
  const low = [Infinity, Infinity, Infinity];
  const high = [-Infinity, -Infinity, -Infinity];
  for (const part of parts) {
    const ratio = part.voxelSize / voxelSize;
    for (const { origins } of part.grids) {
      for (let n = 0; n < origins.length; n++) {
        const a = n % 3;
        const v = origins[n] ?? 0;
        low[a] = Math.min(low[a] ?? 0, Math.floor(v * ratio));
        high[a] = Math.max(high[a] ?? 0, Math.ceil((v + 8) * ratio));
      }
    }
  }
  const from = [0, 1, 2].map((a) => Math.max((low[a] ?? 0) - RIM, (within.low[a] ?? 0) - RIM)) as [number, number, number];
  const to = [0, 1, 2].map((a) => Math.min((high[a] ?? 0) + RIM, (within.low[a] ?? 0) + (within.size[a] ?? 0) + RIM));
  const size = from.map((v, a) => (to[a] ?? 0) - v) as [number, number, number];
  // Nothing there, or all of it elsewhere: as little as can be.
  return size.every((n) => n > 2 * RIM) ? { low: from, size } : { low: [...within.low], size: [8, 8, 8] };
}

/** A channel over a lattice, `components` floats a point; the finest part that has a tile there gives it. */
export function fillChannel(into: Float32Array, lattice: Lattice, parts: readonly BasePart[], name: string, voxelSize: number): void {
  const own = [...parts]
    .sort((a, b) => a.voxelSize - b.voxelSize)
    .flatMap(({ voxelSize: h, grids }) =>
      grids.filter((g) => g.name === name).map((grid) => ({ grid, h, lookup: new TileLookup(grid.origins) })),
    );
  const [first] = own;
  const c = first?.grid.components ?? 1;
  const background = first?.grid.background ?? [0];
  const [nx, ny, nz] = lattice.size;
  for (let n = 0; n < nx * ny * nz; n++) for (let m = 0; m < c; m++) into[n * c + m] = background[m] ?? 0;
  // Coarse parts first: finer ones write over them.
  for (const { grid, h, lookup } of own.reverse()) {
    const { origins, values } = grid;
    if (Math.abs(h / voxelSize - 1) < 1e-6) {
      for (let t = 0; t < origins.length / 3; t++) copyTile(into, lattice, origins, values, t, c);
    } else spread(into, lattice, grid, lookup, voxelSize / h);
  }
}

function copyTile(into: Float32Array, { low, size }: Lattice, origins: Int32Array, values: Float32Array, t: number, c: number): void {
  const [x0, y0, z0] = [0, 1, 2].map((a) => (origins[3 * t + a] ?? 0) - (low[a] ?? 0)) as [number, number, number];
  for (let n = 0; n < 512; n++) {
    const [i, j, k] = [x0 + (n >> 6), y0 + ((n >> 3) & 7), z0 + (n & 7)];
    if (i < 0 || j < 0 || k < 0 || i >= size[0] || j >= size[1] || k >= size[2]) continue;
    const o = ((k * size[1] + j) * size[0] + i) * c;
    for (let m = 0; m < c; m++) into[o + m] = values[(t * 512 + n) * c + m] ?? 0;
  }
}

/** A part of larger voxels, trilinear where it has tiles. `ratio`: its voxels a point. */
function spread(
  into: Float32Array,
  { low, size }: Lattice,
  { values, components: c, background }: TileGrid,
  lookup: TileLookup,
  ratio: number,
): void {
  const voxel = (i: number, j: number, k: number, m: number): number => {
    const t = lookup.at(i >> 3, j >> 3, k >> 3);
    return t < 0 ? (background[m] ?? 0) : (values[(t * 512 + ((i & 7) << 6) + ((j & 7) << 3) + (k & 7)) * c + m] ?? 0);
  };
  let o = 0;
  for (let k = 0; k < size[2]; k++) {
    const z = (low[2] + k + 0.5) * ratio - 0.5;
    for (let j = 0; j < size[1]; j++) {
      const y = (low[1] + j + 0.5) * ratio - 0.5;
      for (let i = 0; i < size[0]; i++, o += c) {
        const x = (low[0] + i + 0.5) * ratio - 0.5;
        if (lookup.at(Math.floor((x + 0.5) / 8), Math.floor((y + 0.5) / 8), Math.floor((z + 0.5) / 8)) < 0) continue;
        const [bx, by, bz] = [Math.floor(x), Math.floor(y), Math.floor(z)];
        for (let m = 0; m < c; m++) {
          let sum = 0;
          for (let n = 0; n < 8; n++) {
            const [dx, dy, dz] = [n & 1, (n >> 1) & 1, n >> 2];
            sum +=
              (dx ? x - bx : 1 - x + bx) * (dy ? y - by : 1 - y + by) * (dz ? z - bz : 1 - z + bz) * voxel(bx + dx, by + dy, bz + dz, m);
          }
          into[o + m] = sum;
        }
      }
    }
  }
}

/** What lay on one lattice, on another; points that only the new one has hold `nothing`. */
export function relaid(from: Float32Array, old: Lattice, next: Lattice, c: number, nothing: readonly number[]): Float32Array {
  const out = new Float32Array(pointsOf(next) * c);
  if (nothing.some((v) => v !== 0)) for (let n = 0; n < out.length; n++) out[n] = nothing[n % c] ?? 0;
  const low = [0, 1, 2].map((a) => Math.max(old.low[a] ?? 0, next.low[a] ?? 0)) as [number, number, number];
  const high = [0, 1, 2].map((a) => Math.min((old.low[a] ?? 0) + (old.size[a] ?? 0), (next.low[a] ?? 0) + (next.size[a] ?? 0)));
  const length = (high[0] ?? 0) - low[0];
  if (length <= 0) return out;
  const at = (l: Lattice, j: number, k: number): number =>
    (((k - l.low[2]) * l.size[1] + j - l.low[1]) * l.size[0] + low[0] - l.low[0]) * c;
  for (let k = low[2]; k < (high[2] ?? 0); k++)
    for (let j = low[1]; j < (high[1] ?? 0); j++) out.set(from.subarray(at(old, j, k), at(old, j, k) + length * c), at(next, j, k));
  return out;
}

/** An array in a team's memory that grows: the memory frees nothing, so it takes some to spare. */
export class Room {
  at = 0;
  #floats = 0;

  constructor(private readonly team: KernelTeam) {}

  floats(count: number): Float32Array {
    if (count > this.#floats) {
      this.#floats = Math.ceil(1.3 * count);
      this.at = this.team.allocate(4 * this.#floats);
    }
    return this.team.floats(this.at, count);
  }
}

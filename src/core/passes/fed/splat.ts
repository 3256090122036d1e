import { type Level, indexOf } from '#core/grid';

/** Where along an axis a field lies in its voxel: in the middle, or on the lower face. */
export type Offset = readonly [number, number, number];
export const CELLS: Offset = [0.5, 0.5, 0.5];
export const FACES: readonly Offset[] = [
  [0, 0.5, 0.5],
  [0.5, 0, 0.5],
  [0.5, 0.5, 0],
];

/**
 * Sums of what particles give to the voxels (or faces) around them, in the order of the particles: weight (1 - d^2 / R^2)^2 within their radius. Only entries
 * that something reached take room, beside a slot number for each entry of the window.
 */
export class Splat {
  #slots = new Int32Array(0);
  #room = 0;
  count = 0;
  /** Entry of the field of each that was reached. */
  index = new Int32Array(0);
  weight = new Float32Array(0);
  /** Sum of weight x value. */
  sum = new Float32Array(0);

  /** Forgets what was there; `size`: entries of a field. */
  begin(size: number): void {
    if (this.#slots.length < size) this.#slots = new Int32Array(size);
    else for (let n = 0; n < this.count; n++) this.#slots[this.index[n] as number] = 0;
    this.count = 0;
  }

  /** A particle at a place, metres, that reaches `radius` metres; `share` of its weight. Closed and sleeping voxels take nothing. */
  add(
    level: Level,
    status: Uint8Array,
    h: number,
    offset: Offset,
    x: number,
    y: number,
    z: number,
    radius: number,
    share: number,
    value: number,
  ): void {
    const { ox, oy, oz, nx, ny, nz } = level.window;
    const r = radius / h;
    const [px, py, pz] = [x / h - offset[0] - ox, y / h - offset[1] - oy, z / h - offset[2] - oz];
    const [i0, i1] = [Math.max(0, Math.ceil(px - r)), Math.min(nx - 1, Math.floor(px + r))];
    const [j0, j1] = [Math.max(0, Math.ceil(py - r)), Math.min(ny - 1, Math.floor(py + r))];
    const [k0, k1] = [Math.max(0, Math.ceil(pz - r)), Math.min(nz - 1, Math.floor(pz + r))];
    const inverse = 1 / (r * r);
    for (let k = k0; k <= k1; k++) {
      const dz = (k - pz) * (k - pz);
      for (let j = j0; j <= j1; j++) {
        const dy = dz + (j - py) * (j - py);
        let at = indexOf(nx, ny, i0, j, k);
        for (let i = i0; i <= i1; i++, at++) {
          const t = 1 - (dy + (i - px) * (i - px)) * inverse;
          if (t <= 0 || status[at] !== 1) continue;
          const w = share * t * t;
          const slot = this.#slotOf(at);
          this.weight[slot] = (this.weight[slot] as number) + w;
          this.sum[slot] = (this.sum[slot] as number) + w * value;
        }
      }
    }
  }

  #slotOf(at: number): number {
    const known = this.#slots[at] as number;
    if (known > 0) return known - 1;
    const slot = this.count++;
    if (slot >= this.#room) this.#grow();
    this.#slots[at] = slot + 1;
    this.index[slot] = at;
    this.weight[slot] = 0;
    this.sum[slot] = 0;
    return slot;
  }

  #grow(): void {
    this.#room = Math.max(4096, 2 * this.#room);
    const grown = <T extends Int32Array | Float32Array>(into: T, from: T): T => {
      into.set(from);
      return into;
    };
    this.index = grown(new Int32Array(this.#room), this.index);
    this.weight = grown(new Float32Array(this.#room), this.weight);
    this.sum = grown(new Float32Array(this.#room), this.sum);
  }
}

import type { Vec3 } from '#core/math';

/** Of a voxel, from which it takes no more. */
const FULL = 0.999;

/**
 * Which shares of voxels in a box hold a particle, and how many lie in each voxel: where liquid is stirred some shares are empty and others hold two; a voxel
 * that has its number is full all the same.
 */
export class Shares {
  /** What each share holds, as a part of it. */
  readonly #parts: Float32Array;
  /** Voxels of volume in each voxel. */
  readonly #held: Float32Array;
  readonly #voxels: Vec3;

  constructor(
    /** Lowest voxel along each axis, and how many. */
    private readonly low: Vec3,
    size: Vec3,
    /** Shares along a voxel's edge. */
    readonly n: number,
  ) {
    this.#voxels = [Math.max(0, size[0]), Math.max(0, size[1]), Math.max(0, size[2])];
    const count = this.#voxels[0] * this.#voxels[1] * this.#voxels[2];
    this.#held = new Float32Array(count);
    this.#parts = new Float32Array(count * n ** 3);
  }

  #voxel(x: number, y: number, z: number): number {
    const [i, j, k] = [Math.floor(x) - this.low[0], Math.floor(y) - this.low[1], Math.floor(z) - this.low[2]];
    const [nx, ny, nz] = this.#voxels;
    return i < 0 || j < 0 || k < 0 || i >= nx || j >= ny || k >= nz ? -1 : (k * ny + j) * nx + i;
  }

  #share(voxel: number, x: number, y: number, z: number): number {
    const part = (v: number): number => Math.min(this.n - 1, Math.floor((v - Math.floor(v)) * this.n));
    return voxel * this.n ** 3 + (part(z) * this.n + part(y)) * this.n + part(x);
  }

  /** All of the voxel around a place. */
  fill(x: number, y: number, z: number): void {
    const voxel = this.#voxel(x, y, z);
    if (voxel >= 0) this.#held[voxel] = 1;
  }

  /** Whether nothing lies in the voxel around a place yet. */
  isEmpty(x: number, y: number, z: number): boolean {
    const voxel = this.#voxel(x, y, z);
    return voxel >= 0 && this.#held[voxel] === 0;
  }

  #add(x: number, y: number, z: number, part: number): void {
    const voxel = this.#voxel(x, y, z);
    if (voxel < 0) return;
    const share = this.#share(voxel, x, y, z);
    this.#parts[share] = (this.#parts[share] ?? 0) + part;
  }

  /** A particle of so many voxels at a place in world voxels. */
  take(x: number, y: number, z: number, volume = 1 / this.n ** 3): void {
    const voxel = this.#voxel(x, y, z);
    if (voxel < 0) return;
    this.#held[voxel] = (this.#held[voxel] ?? 0) + volume;
    this.#add(x, y, z, volume * this.n ** 3);
  }

  /** How much of the share around a place may still be filled, as a part of it; of a voxel that is stirred no more than the voxel lacks. */
  roomAt(x: number, y: number, z: number): number {
    const voxel = this.#voxel(x, y, z);
    if (voxel < 0) return 0;
    return Math.max(0, Math.min(1 - (this.#parts[this.#share(voxel, x, y, z)] ?? 0), (1 - (this.#held[voxel] ?? 0)) * this.n ** 3));
  }

  /** Of a particle of so many voxels: every share whose middle lies in its cube. */
  takeAll(x: number, y: number, z: number, volume: number): void {
    const voxel = this.#voxel(x, y, z);
    if (voxel >= 0) this.#held[voxel] = (this.#held[voxel] ?? 0) + volume;
    const { n } = this;
    const half = Math.cbrt(volume) / 2;
    const from = (v: number): number => Math.ceil((v - half) * n - 0.5);
    const to = (v: number): number => Math.ceil((v + half) * n - 0.5);
    for (let c = from(z); c < to(z); c++)
      for (let b = from(y); b < to(y); b++) for (let a = from(x); a < to(x); a++) this.#add((a + 0.5) / n, (b + 0.5) / n, (c + 0.5) / n, 1);
  }

  isTaken(x: number, y: number, z: number): boolean {
    const voxel = this.#voxel(x, y, z);
    return voxel < 0 || (this.#held[voxel] ?? 0) >= FULL || (this.#parts[this.#share(voxel, x, y, z)] ?? 0) > 0;
  }
}

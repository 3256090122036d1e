import { type KernelTeam, RECORD_WORDS, type TileGrid } from '#core/grid';
import type { PlainBounds } from './bounds';

/** Active tiles as grids, in file order (z fastest). Solid cells are left out: inactive, background. */
export class Collector {
  readonly #origins: Int32Array;
  readonly #records: Uint32Array;
  readonly #status: Uint8Array;
  readonly #count: number;
  readonly #sx: number;
  readonly #sp: number;

  constructor(
    private readonly team: KernelTeam,
    private readonly bounds: PlainBounds,
  ) {
    const level = bounds.hierarchy.finest;
    const { window: w, size } = bounds;
    this.#count = level.count;
    this.#sx = level.sx;
    this.#sp = level.sp;
    this.#records = team.pointers(level.records, level.count * RECORD_WORDS);
    this.#status = team.bytes(level.status, size);
    this.#origins = new Int32Array(level.count * 3);
    for (let t = 0; t < level.count; t++) {
      const r = t * RECORD_WORDS;
      this.#origins[3 * t] = (this.#records[r + 1] ?? 0) + w.ox;
      this.#origins[3 * t + 1] = (this.#records[r + 2] ?? 0) + w.oy;
      this.#origins[3 * t + 2] = (this.#records[r + 3] ?? 0) + w.oz;
    }
  }

  /** Where the voxels of a tile's row along z begin in a field. */
  #rowAt(tile: number, row: number): number {
    return (this.#records[tile * RECORD_WORDS] ?? 0) + (row & 7) * this.#sx + (row >> 3);
  }

  #field(pointer: number): Float32Array {
    return this.team.floats(pointer, this.bounds.size);
  }

  /** Voxels that differ from the background by more than the threshold. */
  scalar(name: string, pointer: number, background: number, threshold: number): TileGrid {
    const field = this.#field(pointer);
    const values = new Float32Array(this.#count * 512);
    if (background !== 0) values.fill(background);
    const masks = new Uint8Array(this.#count * 64);
    for (let t = 0; t < this.#count; t++) {
      for (let row = 0; row < 64; row++) {
        let at = this.#rowAt(t, row);
        let mask = 0;
        for (let z = 0; z < 8; z++, at += this.#sp) {
          if (this.#status[at] !== 1) continue;
          const v = field[at] ?? 0;
          if (Math.abs(v - background) <= threshold) continue;
          values[t * 512 + row * 8 + z] = v;
          mask |= 1 << z;
        }
        masks[t * 64 + row] = mask;
      }
    }
    return { name, components: 1, background: [background], origins: this.#origins, values, masks };
  }

  /** Mean of the two faces of each voxel, m/s. */
  velocity(faces: { readonly u: number; readonly v: number; readonly w: number }): TileGrid {
    const [u, v, q] = [this.#field(faces.u), this.#field(faces.v), this.#field(faces.w)];
    const values = new Float32Array(this.#count * 1536);
    const masks = new Uint8Array(this.#count * 64);
    const { wind } = this.bounds;
    const [wx, wy, wz] = wind;
    const [sx, sp] = [this.#sx, this.#sp];
    for (let t = 0; t < this.#count; t++) {
      for (let row = 0; row < 64; row++) {
        let at = this.#rowAt(t, row);
        let mask = 0;
        let o = (t * 512 + row * 8) * 3;
        for (let z = 0; z < 8; z++, at += sp, o += 3) {
          const fluid = this.#status[at] === 1;
          values[o] = fluid ? 0.5 * ((u[at] ?? 0) + (u[at + 1] ?? 0)) : wx;
          values[o + 1] = fluid ? 0.5 * ((v[at] ?? 0) + (v[at + sx] ?? 0)) : wy;
          values[o + 2] = fluid ? 0.5 * ((q[at] ?? 0) + (q[at + sp] ?? 0)) : wz;
          if (fluid) mask |= 1 << z;
        }
        masks[t * 64 + row] = mask;
      }
    }
    return { name: 'vel', components: 3, background: [...wind], origins: this.#origins, values, masks };
  }

  /** The mean of what rides on the density, which is kept as amounts: 0 to 1 each, whatever a correction of the transport made of it. */
  carried(name: string, density: number, pointers: readonly [number, number, number], least: number): TileGrid {
    const amount = this.#field(density);
    const parts = pointers.map((p) => this.#field(p));
    const values = new Float32Array(this.#count * 1536);
    const masks = new Uint8Array(this.#count * 64);
    for (let t = 0; t < this.#count; t++) {
      for (let row = 0; row < 64; row++) {
        let at = this.#rowAt(t, row);
        let mask = 0;
        let o = (t * 512 + row * 8) * 3;
        for (let z = 0; z < 8; z++, at += this.#sp, o += 3) {
          const d = amount[at] ?? 0;
          if (this.#status[at] !== 1 || d < least) continue;
          for (let c = 0; c < 3; c++) values[o + c] = Math.min(1, Math.max(0, (parts[c]?.[at] ?? 0) / d));
          mask |= 1 << z;
        }
        masks[t * 64 + row] = mask;
      }
    }
    return { name, components: 3, background: [0, 0, 0], origins: this.#origins, values, masks };
  }
}

import type { Distance, Form, Pose } from '#core/geometry';
import { type Level, type Window, indexOf } from '#core/grid';

const HALF_DIAGONAL = Math.sqrt(3) / 2;

/** Voxels (or faces) of one field that a source covers, in the present window. */
export interface Cover {
  readonly index: Int32Array;
  /** 0..1: how much of the voxel the source covers. */
  readonly cover: Float32Array;
  /** World positions, metres; x, y, z each. */
  readonly position: Float32Array;
}

export interface Covers {
  readonly cells: Cover;
  readonly faces: readonly [Cover, Cover, Cover];
}

/** The same in the whole limit box, whatever the window: worked out once for a source that stands still. */
interface Extent {
  /** World voxels; i, j, k each. */
  readonly voxel: Int32Array;
  readonly cover: Float32Array;
  readonly position: Float32Array;
}

export interface Extents {
  readonly cells: Extent;
  readonly faces: readonly [Extent, Extent, Extent];
}

/** Where a source is, and the skin that it emits from. */
interface Emitter {
  readonly form: Form;
  readonly pose: Pose;
  readonly shell: number | null;
}

/** What is gathered voxel by voxel. */
class Gathering {
  readonly #voxel: number[] = [];
  readonly #cover: number[] = [];
  readonly #position: number[] = [];

  add(i: number, j: number, k: number, part: number, x: number, y: number, z: number): void {
    this.#voxel.push(i, j, k);
    this.#cover.push(part);
    this.#position.push(x, y, z);
  }

  get done(): Extent {
    return { voxel: Int32Array.from(this.#voxel), cover: Float32Array.from(this.#cover), position: Float32Array.from(this.#position) };
  }
}

/** Voxels that balls cover: each writes those of its own neighbourhood, the nearest ball of a voxel counts. */
function extentOfBalls(
  { middles, radii }: { readonly middles: Float32Array; readonly radii: Float32Array },
  limit: Window,
  h: number,
  offset: readonly [number, number, number],
): Extent {
  const parts = new Map<number, number>();
  for (let n = 0; n < radii.length; n++) {
    const r = radii[n] ?? 0;
    const p = [middles[3 * n] ?? 0, middles[3 * n + 1] ?? 0, middles[3 * n + 2] ?? 0] as const;
    const low = (a: 0 | 1 | 2, o: number): number => Math.max(0, Math.ceil((p[a] - r) / h - 0.5 - offset[a]) - o);
    const high = (a: 0 | 1 | 2, o: number, size: number): number => Math.min(size - 1, Math.floor((p[a] + r) / h + 0.5 - offset[a]) - o);
    const [i1, j1, k1] = [high(0, limit.ox, limit.nx), high(1, limit.oy, limit.ny), high(2, limit.oz, limit.nz)];
    for (let k = low(2, limit.oz); k <= k1; k++) {
      for (let j = low(1, limit.oy); j <= j1; j++) {
        for (let i = low(0, limit.ox); i <= i1; i++) {
          const dx = (i + limit.ox + offset[0]) * h - p[0];
          const dy = (j + limit.oy + offset[1]) * h - p[1];
          const dz = (k + limit.oz + offset[2]) * h - p[2];
          const part = Math.min(1, 0.5 - (Math.sqrt(dx * dx + dy * dy + dz * dz) - r) / h);
          if (part <= 0) continue;
          const at = (k * limit.ny + j) * limit.nx + i;
          if (part > (parts.get(at) ?? 0)) parts.set(at, part);
        }
      }
    }
  }
  const found = new Gathering();
  for (const [at, part] of parts) {
    const row = Math.floor(at / limit.nx);
    const [i, j, k] = [(at % limit.nx) + limit.ox, (row % limit.ny) + limit.oy, Math.floor(row / limit.ny) + limit.oz];
    found.add(i, j, k, part, (i + offset[0]) * h, (j + offset[1]) * h, (k + offset[2]) * h);
  }
  return found.done;
}

/**
 * How much of a voxel lies inside: that of a plane at its eight eighths' distances. One for the whole voxel gives a ball (h / 2r)^2 too much: 2.2 % at
 * 3.3 voxels, of which a quarter is left so. A plane along the lattice gets the same from both.
 */
function partInside(distance: Distance, x: number, y: number, z: number, h: number): number {
  const d = distance(x, y, z);
  if (Math.abs(d) > HALF_DIAGONAL * h) return d < 0 ? 1 : 0;
  let sum = 0;
  for (let n = 0; n < 8; n++) {
    const e = distance(x + (n & 1 ? h : -h) / 4, y + (n & 2 ? h : -h) / 4, z + (n & 4 ? h : -h) / 4);
    sum += Math.min(1, Math.max(0, 0.5 - (2 * e) / h));
  }
  return sum / 8;
}

function extentOf({ form, pose, shell }: Emitter, limit: Window, h: number, offset: readonly [number, number, number]): Extent {
  if (form.balls && shell === null) return extentOfBalls(form.balls(pose), limit, h, offset);
  const solid = form.distance(pose);
  const skin = (shell ?? 0) / 2;
  const distance: Distance = shell === null ? solid : (x, y, z) => Math.abs(solid(x, y, z)) - skin;
  const bounds = form.bounds(pose);
  const low = (a: 0 | 1 | 2, o: number): number => Math.max(Math.floor((bounds.min[a] - skin) / h - 1), o);
  const high = (a: 0 | 1 | 2, o: number, n: number): number => Math.min(Math.ceil((bounds.max[a] + skin) / h + 1), o + n);
  const found = new Gathering();
  for (let k = low(2, limit.oz); k < high(2, limit.oz, limit.nz); k++) {
    for (let j = low(1, limit.oy); j < high(1, limit.oy, limit.ny); j++) {
      for (let i = low(0, limit.ox); i < high(0, limit.ox, limit.nx); i++) {
        const [x, y, z] = [(i + offset[0]) * h, (j + offset[1]) * h, (k + offset[2]) * h];
        const part = partInside(distance, x, y, z, h);
        if (part > 0) found.add(i, j, k, part, x, y, z);
      }
    }
  }
  return found.done;
}

/** What of an extent lies in unknown cells of the present window. */
function coverIn({ voxel, cover, position }: Extent, { window: w }: Level, status: Uint8Array): Cover {
  const index = new Int32Array(cover.length);
  const kept = new Int32Array(cover.length);
  let count = 0;
  for (let n = 0; n < cover.length; n++) {
    const [i, j, k] = [(voxel[3 * n] ?? 0) - w.ox, (voxel[3 * n + 1] ?? 0) - w.oy, (voxel[3 * n + 2] ?? 0) - w.oz];
    if (i < 0 || j < 0 || k < 0 || i >= w.nx || j >= w.ny || k >= w.nz) continue;
    const at = indexOf(w.nx, w.ny, i, j, k);
    if (status[at] !== 1) continue;
    index[count] = at;
    kept[count++] = n;
  }
  if (count === cover.length) return { index, cover, position };
  const out = { index: index.subarray(0, count), cover: new Float32Array(count), position: new Float32Array(3 * count) };
  for (let m = 0; m < count; m++) {
    const n = kept[m] ?? 0;
    out.cover[m] = cover[n] ?? 0;
    for (let a = 0; a < 3; a++) out.position[3 * m + a] = position[3 * n + a] ?? 0;
  }
  return out;
}

export const extentsOf = (emitter: Emitter, limit: Window, h: number): Extents => ({
  cells: extentOf(emitter, limit, h, [0.5, 0.5, 0.5]),
  faces: [
    extentOf(emitter, limit, h, [0, 0.5, 0.5]),
    extentOf(emitter, limit, h, [0.5, 0, 0.5]),
    extentOf(emitter, limit, h, [0.5, 0.5, 0]),
  ],
});

export const coversIn = ({ cells, faces }: Extents, level: Level, status: Uint8Array): Covers => ({
  cells: coverIn(cells, level, status),
  faces: [coverIn(faces[0], level, status), coverIn(faces[1], level, status), coverIn(faces[2], level, status)],
});

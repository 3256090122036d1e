import { type TileGrid, TileLookup } from '#core/grid';
import type { Vec3 } from '#core/math';
import { type StillCamera, basisOf, unit } from './camera';

export interface MarchOptions {
  readonly camera: StillCamera;
  readonly width: number;
  readonly height: number;
  /** Per metre where the density is 1. */
  readonly extinction: number;
  /** Light of flame 1 a metre. */
  readonly emission: number;
  /** Of a step, in voxels of the part that is crossed. */
  readonly step: number;
}

export interface VolumePart {
  readonly voxelSize: number;
  readonly density: TileGrid | null;
  readonly flame: TileGrid | null;
}

/** Light that smoke throws back, of that which meets it; and the colour of flame. Both linear. */
const ALBEDO = 0.75;
const FLAME = [1, 0.42, 0.1] as const;
/** What comes through is nothing any more. */
const OPAQUE = 1e-3;

interface Part {
  readonly size: number;
  readonly min: Vec3;
  readonly max: Vec3;
  readonly density: Field | null;
  readonly flame: Field | null;
}
interface Field {
  readonly lookup: TileLookup;
  readonly values: Float32Array;
}

export interface March {
  /** Of each pixel, from the upper left: red, green, blue (linear), and the part of the light from behind that comes through. */
  readonly pixels: Float32Array;
  readonly samples: number;
}

/**
 * Rays through a frame's volumes, absorption and emission only: transmittance falls by exp(-extinction x density x metres) a step (Beer-Lambert), which is exact
 * where the density does not change within it. Tiles that are not there are crossed in one. Source: Max, "Optical Models for Direct Volume Rendering" (1995).
 */
export function march(volumes: readonly VolumePart[], o: MarchOptions, eachRow: () => void = () => undefined): March {
  const parts = volumes.flatMap(prepare);
  const { width, height, camera } = o;
  const pixels = new Float32Array(4 * width * height);
  const { right, up, back, half } = basisOf(camera);
  const out = new Float64Array(4);
  let samples = 0;
  for (let y = 0; y < height; y++) {
    eachRow();
    const v = (1 - (2 * (y + 0.5)) / height) * half;
    for (let x = 0; x < width; x++) {
      const u = ((2 * (x + 0.5)) / width - 1) * half * camera.aspect;
      const d = unit([right[0] * u + up[0] * v - back[0], right[1] * u + up[1] * v - back[1], right[2] * u + up[2] * v - back[2]]);
      out[0] = 0;
      out[1] = 0;
      out[2] = 0;
      out[3] = 1;
      samples += ray(parts, camera.position, d, o, out);
      pixels.set(out, 4 * (y * width + x));
    }
  }
  return { pixels, samples };
}

function prepare({ voxelSize: size, density, flame }: VolumePart): Part[] {
  const fields = [density, flame].map((g) => g && { lookup: new TileLookup(g.origins), values: g.values });
  const min: [number, number, number] = [Infinity, Infinity, Infinity];
  const max: [number, number, number] = [-Infinity, -Infinity, -Infinity];
  for (const f of fields) {
    if (!f || f.lookup.index.length === 0) continue;
    for (const a of [0, 1, 2] as const) {
      min[a] = Math.min(min[a], f.lookup.low[a] * 8 * size);
      max[a] = Math.max(max[a], (f.lookup.low[a] + f.lookup.size[a]) * 8 * size);
    }
  }
  if (min[0] === Infinity) return [];
  // Half a voxel further: there the density still goes over into nothing.
  for (const a of [0, 1, 2] as const) {
    min[a] -= size / 2;
    max[a] += size / 2;
  }
  return [{ size, min, max, density: fields[0] ?? null, flame: fields[1] ?? null }];
}

/** One ray; returns the samples that it took. All parts in the order of their steps: light of one is seen through another. */
function ray(parts: readonly Part[], from: Vec3, d: Vec3, { extinction, emission, step }: MarchOptions, out: Float64Array): number {
  let near = Infinity;
  let far = -Infinity;
  let fine = Infinity;
  for (const p of parts) {
    const [n, f] = crossing(p, from, d);
    if (f <= n) continue;
    near = Math.min(near, n);
    far = Math.max(far, f);
    fine = Math.min(fine, p.size);
  }
  if (far <= near) return 0;
  const length = fine * step;
  let samples = 0;
  for (let t = near; t < far;) {
    const h = Math.min(length, far - t);
    const m = t + h / 2;
    const [x, y, z] = [from[0] + d[0] * m, from[1] + d[1] * m, from[2] + d[2] * m];
    let density = 0;
    let flame = 0;
    let skip = Infinity;
    for (const p of parts) {
      const away = emptyFor(p, x, y, z, d);
      skip = Math.min(skip, away);
      if (away > 0) continue;
      if (p.density) density += at(p.density, x / p.size, y / p.size, z / p.size);
      if (p.flame) flame += at(p.flame, x / p.size, y / p.size, z / p.size);
    }
    if (skip > h) {
      t += skip;
      continue;
    }
    samples++;
    const through = Math.exp(-extinction * Math.max(0, density) * h);
    const seen = out[3] as number;
    const thrown = seen * (1 - through) * ALBEDO;
    const lit = seen * Math.max(0, flame) * emission * h;
    for (const c of [0, 1, 2] as const) out[c] = (out[c] as number) + thrown + lit * FLAME[c];
    out[3] = seen * through;
    if (out[3] < OPAQUE) break;
    t += h;
  }
  return samples;
}

/** Metres along a ray within which nothing of a part comes; 0 where there may be something. A point has something when a tile is within half a voxel of it. */
function emptyFor(p: Part, x: number, y: number, z: number, d: Vec3): number {
  const edge = 8 * p.size;
  const [i, j, k] = [Math.floor(x / edge), Math.floor(y / edge), Math.floor(z / edge)];
  for (let a = -1; a <= 1; a++) {
    for (let b = -1; b <= 1; b++) {
      for (let c = -1; c <= 1; c++) {
        if ((p.density?.lookup.at(i + a, j + b, k + c) ?? -1) >= 0 || (p.flame?.lookup.at(i + a, j + b, k + c) ?? -1) >= 0) return 0;
      }
    }
  }
  // To where the ray leaves this tile: until there its neighbours are those that were looked at.
  let least = Infinity;
  for (const [v, w] of [
    [x, d[0]],
    [y, d[1]],
    [z, d[2]],
  ] as const) {
    const tile = Math.floor(v / edge);
    if (w > 1e-12) least = Math.min(least, ((tile + 1) * edge - v) / w);
    else if (w < -1e-12) least = Math.min(least, (tile * edge - v) / w);
  }
  return least + 1e-6 * edge;
}

function crossing({ min, max }: Part, from: Vec3, d: Vec3): readonly [number, number] {
  let [near, far] = [0, Infinity];
  for (const a of [0, 1, 2] as const) {
    const [p, q] = [(min[a] - from[a]) / d[a], (max[a] - from[a]) / d[a]];
    if (Number.isNaN(p) || Number.isNaN(q)) continue;
    near = Math.max(near, Math.min(p, q));
    far = Math.min(far, Math.max(p, q));
  }
  return [near, far];
}

/** Trilinear, in voxels; 0 where nothing is. */
function at({ lookup, values }: Field, px: number, py: number, pz: number): number {
  const [qx, qy, qz] = [px - 0.5, py - 0.5, pz - 0.5];
  const [i, j, k] = [Math.floor(qx), Math.floor(qy), Math.floor(qz)];
  const [fx, fy, fz] = [qx - i, qy - j, qz - k];
  let sum = 0;
  for (let c = 0; c < 8; c++) {
    const [x, y, z] = [i + (c & 1), j + ((c >> 1) & 1), k + (c >> 2)];
    const tile = lookup.at(x >> 3, y >> 3, z >> 3);
    if (tile < 0) continue;
    const w = (c & 1 ? fx : 1 - fx) * (c & 2 ? fy : 1 - fy) * (c & 4 ? fz : 1 - fz);
    sum += w * (values[tile * 512 + ((x & 7) << 6) + ((y & 7) << 3) + (z & 7)] as number);
  }
  return sum;
}

/** Lights as bytes of a picture, sRGB, over a background (linear grey). */
export function toBytes(pixels: Float32Array, background: number): Uint8Array<ArrayBuffer> {
  const out = new Uint8Array((pixels.length / 4) * 3);
  for (let n = 0; n < pixels.length / 4; n++) {
    const behind = (pixels[4 * n + 3] ?? 0) * background;
    for (let c = 0; c < 3; c++) {
      const v = Math.min(1, (pixels[4 * n + c] ?? 0) + behind);
      out[3 * n + c] = Math.round(255 * (v <= 0.0031308 ? 12.92 * v : 1.055 * v ** (1 / 2.4) - 0.055));
    }
  }
  return out;
}

import type { TileGrid, Window } from '#core/grid';
import { isTint } from '#core/look';
import { makeTint } from './tint';

/** Most voxels a side of a preview. */
export const PREVIEW_SIDE = 96;

/**
 * A dense 8-bit volume for looking at: x fastest, `size` voxels a side from `origin` (world voxels of the run), each `step` voxels wide.
 * Value = low + byte / 255 (high - low); one byte a voxel, or three where a vector is looked at as a colour.
 */
export interface Preview {
  readonly size: readonly [number, number, number];
  readonly origin: readonly [number, number, number];
  readonly step: number;
  readonly low: number;
  readonly high: number;
  readonly components: 1 | 3;
  readonly data: Uint8Array<ArrayBuffer>;
}

/** Voxels of a preview: 2 to the power of `shift` of the window's are one. */
function previewSize({ nx, ny, nz }: Window): { readonly shift: number; readonly size: [number, number, number] } {
  let shift = 0;
  while (Math.max(nx, ny, nz) >> shift > PREVIEW_SIDE) shift++;
  return { shift, size: [nx, ny, nz].map((n) => Math.ceil(n / (1 << shift))) as [number, number, number] };
}

/** Averages voxels into at most 96 a side. The range spans from the background to the extreme; of colours from 0 to 1. */
export function makePreview(grid: TileGrid, window: Window): Preview {
  const { shift, size } = previewSize(window);
  const step = 1 << shift;
  const place = { size, step, origin: [window.ox, window.oy, window.oz] } as const;
  if (isTint(grid.name)) return { ...place, low: 0, high: 1, components: 3, data: makeTint(grid, window, shift, size) };
  const background = grid.components === 1 ? (grid.background[0] ?? 0) : Math.hypot(...grid.background);
  const sums = new Float32Array(size[0] * size[1] * size[2]);
  const tiles = grid.origins.length / 3;
  const { values } = grid;
  const vector = grid.components === 3;
  for (let t = 0; t < tiles; t++) {
    const x0 = (grid.origins[3 * t] ?? 0) - window.ox;
    const y0 = (grid.origins[3 * t + 1] ?? 0) - window.oy;
    const z0 = (grid.origins[3 * t + 2] ?? 0) - window.oz;
    // A byte of the mask is a row of eight voxels along z.
    for (let row = 0; row < 64; row++) {
      const mask = grid.masks[t * 64 + row] ?? 0;
      if (mask === 0) continue;
      const i = (x0 + (row >> 3)) >> shift;
      const j = (y0 + (row & 7)) >> shift;
      const first = t * 512 + row * 8;
      for (let z = 0; z < 8; z++) {
        if ((mask & (1 << z)) === 0) continue;
        const at = (((z0 + z) >> shift) * size[1] + j) * size[0] + i;
        let value = 0;
        if (vector) {
          // (Math.hypot takes ten times as long as the root.)
          const o = 3 * (first + z);
          const [x, y, w] = [values[o] ?? 0, values[o + 1] ?? 0, values[o + 2] ?? 0];
          value = Math.sqrt(x * x + y * y + w * w);
        } else value = values[first + z] ?? 0;
        sums[at] = (sums[at] ?? 0) + value - background;
      }
    }
  }
  const scale = 1 / step ** 3;
  let low = 0;
  let high = 0;
  for (let n = 0; n < sums.length; n++) {
    const v = (sums[n] ?? 0) * scale;
    sums[n] = v;
    if (v < low) low = v;
    if (v > high) high = v;
  }
  const data = new Uint8Array(sums.length);
  const range = high - low || 1;
  // Most of it is nothing.
  const nothing = Math.round((-low / range) * 255);
  if (nothing !== 0) data.fill(nothing);
  for (let n = 0; n < sums.length; n++) {
    const v = sums[n] ?? 0;
    if (v !== 0) data[n] = Math.round(((v - low) / range) * 255);
  }
  return {
    ...place,
    components: 1,
    low: background + low,
    high: background + (high > low ? high : low + 1e-6),
    data,
  };
}

const HEADER_WORDS = 16;
const PREVIEW_MAGIC = 0x31_76_70_72; // "rpv1"

/** A preview as bytes: 16 words (magic, size, origin, step, low, high as float32, bytes a voxel (0: one), rest 0), then the voxels. */
export function encodePreview(p: Preview): Uint8Array<ArrayBuffer> {
  const out = new Uint8Array(HEADER_WORDS * 4 + p.data.length);
  const view = new DataView(out.buffer);
  [PREVIEW_MAGIC, ...p.size, ...p.origin, p.step].forEach((v, n) => {
    view.setInt32(4 * n, v, true);
  });
  view.setFloat32(32, p.low, true);
  view.setFloat32(36, p.high, true);
  view.setInt32(40, p.components, true);
  out.set(p.data, HEADER_WORDS * 4);
  return out;
}

/** null when the bytes are not a whole preview. */
export function decodePreview(bytes: Uint8Array<ArrayBuffer>): Preview | null {
  if (bytes.length < HEADER_WORDS * 4) return null;
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const word = (n: number): number => view.getInt32(4 * n, true);
  if (word(0) !== PREVIEW_MAGIC) return null;
  const size = [word(1), word(2), word(3)] as const;
  const data = bytes.subarray(HEADER_WORDS * 4);
  const components = word(10) === 3 ? 3 : 1;
  if (data.length !== size[0] * size[1] * size[2] * components) return null;
  return {
    size,
    origin: [word(4), word(5), word(6)],
    step: word(7),
    low: view.getFloat32(32, true),
    high: view.getFloat32(36, true),
    components,
    data,
  };
}

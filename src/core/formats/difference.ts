import type { Preview } from './preview';

/** A preview with what its voxels are in metres, and the value that stands where it holds nothing. */
export interface PlacedPreview {
  readonly preview: Preview;
  readonly voxelSize: number;
  readonly background: number;
}

export interface Difference {
  /** First minus second on the first one's grid; the range is symmetric about 0. */
  readonly preview: Preview;
  /** Sum of |first - second| over the sum of |first - background| and |second - background|, halved: 0 alike, 1 nothing in common. */
  readonly relative: number;
  /** Largest |first - second|. */
  readonly largest: number;
}

/** Value at a place in metres: trilinear between voxel centres, the background outside. */
function sampler({ preview, voxelSize, background }: PlacedPreview): (x: number, y: number, z: number) => number {
  const [nx, ny, nz] = preview.size;
  const h = preview.step * voxelSize;
  const [ox, oy, oz] = [preview.origin[0] * voxelSize, preview.origin[1] * voxelSize, preview.origin[2] * voxelSize];
  const scale = (preview.high - preview.low) / 255;
  const at = (i: number, j: number, k: number): number =>
    i < 0 || j < 0 || k < 0 || i >= nx || j >= ny || k >= nz
      ? background
      : preview.low + (preview.data[(k * ny + j) * nx + i] ?? 0) * scale;
  return (x, y, z) => {
    const [u, v, w] = [(x - ox) / h - 0.5, (y - oy) / h - 0.5, (z - oz) / h - 0.5];
    const [i, j, k] = [Math.floor(u), Math.floor(v), Math.floor(w)];
    if (i < -1 || j < -1 || k < -1 || i >= nx || j >= ny || k >= nz) return background;
    const [a, b, c] = [u - i, v - j, w - k];
    let sum = 0;
    for (let n = 0; n < 8; n++) {
      const part = (n & 1 ? a : 1 - a) * (n & 2 ? b : 1 - b) * (n & 4 ? c : 1 - c);
      if (part > 0) sum += part * at(i + (n & 1), j + ((n >> 1) & 1), k + (n >> 2));
    }
    return sum;
  };
}

/** How two frames differ, wherever their windows and voxel sizes lie. */
export function differenceOf(first: PlacedPreview, second: PlacedPreview): Difference {
  const { preview, voxelSize } = first;
  const [nx, ny, nz] = preview.size;
  const h = preview.step * voxelSize;
  const other = sampler(second);
  const own = (preview.high - preview.low) / 255;
  const values = new Float32Array(nx * ny * nz);
  let [apart, together, largest, n] = [0, 0, 0, 0];
  for (let k = 0; k < nz; k++) {
    for (let j = 0; j < ny; j++) {
      for (let i = 0; i < nx; i++) {
        const a = preview.low + (preview.data[n] ?? 0) * own;
        const b = other(
          preview.origin[0] * voxelSize + (i + 0.5) * h,
          preview.origin[1] * voxelSize + (j + 0.5) * h,
          preview.origin[2] * voxelSize + (k + 0.5) * h,
        );
        values[n++] = a - b;
        apart += Math.abs(a - b);
        together += Math.abs(a - first.background) + Math.abs(b - second.background);
        largest = Math.max(largest, Math.abs(a - b));
      }
    }
  }
  const range = largest || 1e-6;
  const data = new Uint8Array(values.length);
  for (let m = 0; m < values.length; m++) data[m] = Math.round((((values[m] ?? 0) / range + 1) / 2) * 255);
  return { preview: { ...preview, low: -range, high: range, data }, relative: together > 0 ? apart / together : 0, largest };
}

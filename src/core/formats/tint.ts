import type { TileGrid, Window } from '#core/grid';

/**
 * The mean vector of a preview's voxels as three bytes each, 0 to 1. Empty voxels beside take the mean of their neighbours': read between two voxels, a
 * colour must not darken towards where there is none.
 */
export function makeTint(grid: TileGrid, window: Window, shift: number, size: readonly [number, number, number]): Uint8Array<ArrayBuffer> {
  const count = size[0] * size[1] * size[2];
  const sums = new Float32Array(count * 3);
  const found = new Float32Array(count);
  const tiles = grid.origins.length / 3;
  for (let t = 0; t < tiles; t++) {
    const x0 = (grid.origins[3 * t] ?? 0) - window.ox;
    const y0 = (grid.origins[3 * t + 1] ?? 0) - window.oy;
    const z0 = (grid.origins[3 * t + 2] ?? 0) - window.oz;
    for (let row = 0; row < 64; row++) {
      const mask = grid.masks[t * 64 + row] ?? 0;
      if (mask === 0) continue;
      const i = (x0 + (row >> 3)) >> shift;
      const j = (y0 + (row & 7)) >> shift;
      for (let z = 0; z < 8; z++) {
        if ((mask & (1 << z)) === 0) continue;
        const at = (((z0 + z) >> shift) * size[1] + j) * size[0] + i;
        const o = (t * 512 + row * 8 + z) * 3;
        found[at] = (found[at] ?? 0) + 1;
        for (let c = 0; c < 3; c++) sums[3 * at + c] = (sums[3 * at + c] ?? 0) + (grid.values[o + c] ?? 0);
      }
    }
  }
  spread(sums, found, size);
  // Loops: Uint8Array.from with a mapping took half a second of a frame.
  const bytes = new Uint8Array(count * 3);
  for (let n = 0; n < count; n++) {
    const weight = found[n] ?? 0;
    if (weight === 0) continue;
    for (let c = 3 * n; c < 3 * n + 3; c++) bytes[c] = Math.round((255 * (sums[c] ?? 0)) / weight);
  }
  return bytes;
}

/** Fills empty voxels from the filled ones beside them, axis after axis: edges and corners are reached too. */
function spread(sums: Float32Array, found: Float32Array, size: readonly [number, number, number]): void {
  const [nx, ny, nz] = size;
  const strides = [1, nx, nx * ny] as const;
  for (const axis of [0, 1, 2] as const) {
    const stride = strides[axis];
    const before = found.slice();
    for (let k = 0, n = 0; k < nz; k++) {
      for (let j = 0; j < ny; j++) {
        for (let i = 0; i < nx; i++, n++) {
          if (before[n] !== 0) continue;
          const place = axis === 0 ? i : axis === 1 ? j : k;
          if (place > 0) take(n, n - stride);
          if (place + 1 < size[axis]) take(n, n + stride);
        }
      }
    }
    function take(n: number, from: number): void {
      const weight = before[from] ?? 0;
      if (weight === 0) return;
      found[n] = (found[n] ?? 0) + 1;
      for (let c = 0; c < 3; c++) sums[3 * n + c] = (sums[3 * n + c] ?? 0) + (sums[3 * from + c] ?? 0) / weight;
    }
  }
}

export interface ShadowInput {
  /** 8-bit densities, x fastest. */
  readonly data: Uint8Array;
  readonly size: readonly [number, number, number];
  /** Optical depth of one voxel at byte 255. */
  readonly depthPerVoxel: number;
  /** Unit vector towards the light. */
  readonly light: readonly [number, number, number];
}

export interface LightVolume {
  readonly size: readonly [number, number, number];
  /** 255 = all light arrives; square root encoded, so that deep shadow keeps its steps. */
  readonly data: Uint8Array<ArrayBuffer>;
}

/**
 * Transmittance from each voxel to the light, by one sweep away from the light: each voxel takes what arrives at the point one layer
 * nearer to the light (bilinear in that layer) and adds its own depth. Half resolution of the densities: shadow is soft.
 */
export function shadowVolume({ data, size, depthPerVoxel, light }: ShadowInput): LightVolume {
  const [nx, ny, nz] = size;
  const half = [Math.ceil(nx / 2), Math.ceil(ny / 2), Math.ceil(nz / 2)] as const;
  const dense = new Float32Array(half[0] * half[1] * half[2]);
  const index = (i: number, j: number, k: number): number => (k * half[1] + j) * half[0] + i;
  for (let k = 0; k < nz; k++) {
    for (let j = 0; j < ny; j++) {
      for (let i = 0; i < nx; i++) {
        const b = data[(k * ny + j) * nx + i] ?? 0;
        if (b !== 0) {
          const o = index(i >> 1, j >> 1, k >> 1);
          dense[o] = (dense[o] ?? 0) + b;
        }
      }
    }
  }
  // Sweep along the axis that the light is steepest on.
  const steep = ([0, 1, 2] as const).reduce((a, b) => (Math.abs(light[b]) > Math.abs(light[a]) ? b : a));
  const [a, b] = (
    [
      [1, 2],
      [0, 2],
      [0, 1],
    ] as const
  )[steep];
  const towards = light[steep] > 0 ? 1 : -1;
  const da = light[a] / Math.abs(light[steep]);
  const db = light[b] / Math.abs(light[steep]);
  const path = 2 / Math.abs(light[steep]);
  const scale = (depthPerVoxel / 255 / 8) * path;
  const depth = new Float32Array(dense.length);
  const strides = [1, half[0], half[0] * half[1]] as const;
  const [ss, sa, sb] = [strides[steep], strides[a], strides[b]];
  const at = (s: number, p: number, q: number): number => s * ss + p * sa + q * sb;
  for (let n = 0; n < half[steep]; n++) {
    const s = towards > 0 ? half[steep] - 1 - n : n;
    const nearer = s + towards;
    const outside = nearer < 0 || nearer >= half[steep];
    for (let q = 0; q < half[b]; q++) {
      for (let p = 0; p < half[a]; p++) {
        let arriving = 0;
        if (!outside) {
          const x = p + da;
          const y = q + db;
          const x0 = Math.floor(x);
          const y0 = Math.floor(y);
          for (let m = 0; m < 4; m++) {
            const px = x0 + (m & 1);
            const py = y0 + (m >> 1);
            if (px < 0 || py < 0 || px >= half[a] || py >= half[b]) continue;
            const weight = (m & 1 ? x - x0 : 1 - x + x0) * (m >> 1 ? y - y0 : 1 - y + y0);
            const o = at(nearer, px, py);
            arriving += weight * ((depth[o] ?? 0) + (dense[o] ?? 0) * scale);
          }
        }
        depth[at(s, p, q)] = arriving;
      }
    }
  }
  const out = new Uint8Array(depth.length);
  for (let n = 0; n < out.length; n++) out[n] = Math.round(Math.sqrt(Math.exp(-(depth[n] ?? 0))) * 255);
  return { size: half, data: out };
}

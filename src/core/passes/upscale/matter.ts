import type { Lattice } from './lattice';
import { smoothed } from './smooth';

/** Of the largest amount in a frame, what still counts as matter. */
const QUIET = 1e-3;

const leastOf = (amounts: readonly Float32Array[]): number[] =>
  amounts.map((a) => {
    let most = 0;
    for (const v of a) if (Math.abs(v) > most) most = Math.abs(v);
    return Math.max(1e-6, QUIET * most);
  });

/** Runs of points along x that hold more of an amount than counts as nothing, as boxes of fine voxels (six numbers each, both ends included). */
export function matterBoxes(amounts: readonly Float32Array[], { low, size }: Lattice, finePerBase: number): number[] {
  const [nx, ny, nz] = size;
  const least = leastOf(amounts);
  const boxes: number[] = [];
  const first = (v: number): number => Math.floor(v * finePerBase);
  const last = (v: number): number => Math.ceil(v * finePerBase) - 1;
  for (let k = 0; k < nz; k++) {
    for (let j = 0; j < ny; j++) {
      let start = -1;
      const row = (k * ny + j) * nx;
      for (let i = 0; i <= nx; i++) {
        const there = i < nx && amounts.some((a, m) => Math.abs(a[row + i] as number) > (least[m] as number));
        if (there && start < 0) start = i;
        if (there || start < 0) continue;
        const [x, y, z] = [low[0] + start, low[1] + j, low[2] + k];
        boxes.push(first(x), first(y), first(z), last(low[0] + i), last(y + 1), last(z + 1));
        start = -1;
      }
    }
  }
  return boxes;
}

/** 1 where matter is and a point around it, falling to 0 within two points more: elsewhere there is nothing that eddies could move. */
export function nearMatter(amounts: readonly Float32Array[], lattice: Lattice): Float32Array {
  const { size } = lattice;
  const [nx, ny, nz] = size;
  const out = new Float32Array(nx * ny * nz);
  const least = leastOf(amounts);
  for (let n = 0; n < out.length; n++) {
    let there = false;
    for (let m = 0; m < amounts.length; m++) there ||= Math.abs((amounts[m] as Float32Array)[n] as number) > (least[m] as number);
    if (there) out[n] = 1;
  }
  for (const stride of [1, nx, nx * ny]) {
    const before = out.slice();
    for (let n = stride; n < out.length - stride; n++) if (before[n - stride] === 1 || before[n + stride] === 1) out[n] = 1;
  }
  smoothed(out, lattice, 1, 2);
  return out;
}

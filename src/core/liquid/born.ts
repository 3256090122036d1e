import { type KernelTeam, indexOf } from '#core/grid';
import type { Born } from './emission';
import type { LiquidGrid } from './grid';

/**
 * What sources gave and what has no room where it was given pushes: the cells' divergence is its volume. Cells that were not full take it up first. Adds to the pressure's right hand side;
 * `scale`: m/s for a cell's volume in the substep.
 */
export function pushBorn(team: KernelTeam, grid: LiquidGrid, born: readonly Born[], scale: number): void {
  const cells = new Map<number, number>();
  const { window: w } = grid;
  for (const { places, each } of born) {
    for (let n = 0; n < places.length; n += 3) {
      // As depositing shares it out: over the eight cells around.
      const [x, y, z] = [(places[n] ?? 0) - w.ox - 0.5, (places[n + 1] ?? 0) - w.oy - 0.5, (places[n + 2] ?? 0) - w.oz - 0.5];
      const [i, j, k] = [Math.floor(x), Math.floor(y), Math.floor(z)];
      for (let c = 0; c < 8; c++) {
        const [a, b, d] = [c & 1, (c >> 1) & 1, c >> 2];
        const weight = (a ? x - i : 1 - x + i) * (b ? y - j : 1 - y + j) * (d ? z - k : 1 - z + k);
        const [p, q, r] = [i + a, j + b, k + d];
        if (p < 0 || q < 0 || r < 0 || p >= w.nx || q >= w.ny || r >= w.nz) continue;
        const cell = indexOf(w.nx, w.ny, p, q, r);
        cells.set(cell, (cells.get(cell) ?? 0) + weight * each);
      }
    }
  }
  if (cells.size === 0) return;
  const amount = team.floats(grid.fields.amount, grid.size);
  const b = team.floats(grid.fields.b, grid.size);
  const status = team.bytes(grid.level.status, grid.size);
  for (const [cell, volume] of cells) {
    const over = Math.max(0, Math.min(volume, (amount[cell] ?? 0) - 1));
    if (over > 0 && status[cell] === 1) b[cell] = (b[cell] ?? 0) + over * scale;
  }
}

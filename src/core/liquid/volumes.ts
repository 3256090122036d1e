import { type KernelTeam, RECORD_WORDS, type TileGrid } from '#core/grid';
import { FAR, type LiquidGrid } from './grid';

/** What a frame's grid can give: the signed distance to the surface (metres), and the velocity (m/s) in the liquid and as far around it as the distance goes. */
export type LiquidVolume = 'distance' | 'vel';

/** Volumes of the liquid as the grid holds it now. */
export function collectVolumes(team: KernelTeam, grid: LiquidGrid, names: readonly LiquidVolume[], voxelSize: number): TileGrid[] {
  const { window: w, slots, size, fields: f } = grid;
  const { sx, sp } = grid.level;
  const records = team.pointers(team.pointers(grid.context, 8)[5] ?? 0, slots * RECORD_WORDS);
  const phi = team.floats(f.phi, size);
  const cell = (base: number, n: number): number => base + (n & 7) * sp + ((n >> 3) & 7) * sx + (n >> 6);
  const near: number[] = [];
  for (let s = 0; s < slots; s++) {
    const base = records[s * RECORD_WORDS] ?? 0;
    for (let n = 0; n < 512; n++) {
      if ((phi[cell(base, n)] ?? FAR) >= FAR) continue;
      near.push(s);
      break;
    }
  }
  const origins = Int32Array.from(
    near.flatMap((s) => {
      const r = s * RECORD_WORDS;
      return [(records[r + 1] ?? 0) + w.ox, (records[r + 2] ?? 0) + w.oy, (records[r + 3] ?? 0) + w.oz];
    }),
  );
  const masks = new Uint8Array(near.length * 64);
  const eachNear = (visit: (voxel: number, at: number) => void): void => {
    near.forEach((s, t) => {
      const base = records[s * RECORD_WORDS] ?? 0;
      for (let n = 0; n < 512; n++) {
        const at = cell(base, n);
        if ((phi[at] ?? FAR) >= FAR) continue;
        masks[t * 64 + (n >> 3)] = (masks[t * 64 + (n >> 3)] ?? 0) | (1 << (n & 7));
        visit(t * 512 + n, at);
      }
    });
  };
  return names.map((name): TileGrid => {
    if (name === 'distance') {
      const values = new Float32Array(near.length * 512).fill(FAR * voxelSize);
      eachNear((voxel, at) => {
        values[voxel] = (phi[at] ?? 0) * voxelSize;
      });
      return { name, components: 1, background: [FAR * voxelSize], origins, values, masks };
    }
    const [u, v, q] = [team.floats(f.u, size), team.floats(f.v, size), team.floats(f.w, size)];
    const values = new Float32Array(near.length * 1536);
    eachNear((voxel, at) => {
      values[3 * voxel] = 0.5 * ((u[at] ?? 0) + (u[at + 1] ?? 0));
      values[3 * voxel + 1] = 0.5 * ((v[at] ?? 0) + (v[at + sx] ?? 0));
      values[3 * voxel + 2] = 0.5 * ((q[at] ?? 0) + (q[at + sp] ?? 0));
    });
    return { name, components: 3, background: [0, 0, 0], origins, values, masks };
  });
}

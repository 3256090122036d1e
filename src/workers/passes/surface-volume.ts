import type { TileGrid } from '#core/grid';
import { BAND, type Level } from '#core/surface';

/** A tile of the core has x fastest, one of a file z: where a voxel of it goes. */
const TURNED = Uint16Array.from({ length: 512 }, (_v, n) => ((n & 7) << 6) | (((n >> 3) & 7) << 3) | (n >> 6));

/**
 * The distance around a skin (metres, `distance`), or a fog that is 1 inside (`density`). What lies deep inside is there too: a level set that says outside there would be wrong.
 */
export function surfaceVolume(level: Level, voxelSize: number, kind: 'level' | 'fog'): TileGrid {
  const { band, slots } = level;
  const { team } = level.pool;
  const { origin, across, table } = band;
  const slotOf = team.words(table, across[0] * across[1] * across[2]);
  const values = level.values();
  const total = slots + band.inside;
  const out = new Float32Array(total * 512);
  const masks = new Uint8Array(total * 64);
  const origins = new Int32Array(3 * total);
  let t = 0;
  for (let n = 0; n < slotOf.length; n++) {
    const slot = slotOf[n] as number;
    if (slot === -1) continue;
    origins.set(
      [n % across[0], Math.floor(n / across[0]) % across[1], Math.floor(n / (across[0] * across[1]))].map(
        (v, a) => (v + (origin[a] ?? 0)) * 8,
      ),
      3 * t,
    );
    for (let v = 0; v < 512; v++) {
      const d = slot >= 0 ? (values[slot * 512 + v] as number) : -BAND;
      const to = TURNED[v] as number;
      out[t * 512 + to] = kind === 'level' ? d * voxelSize : Math.min(1, Math.max(0, 0.5 - d));
      const active = kind === 'level' ? d < BAND : d < 0.5;
      if (active) masks[t * 64 + (to >> 3)] = (masks[t * 64 + (to >> 3)] as number) | (1 << (to & 7));
    }
    t++;
  }
  return {
    name: kind === 'level' ? 'distance' : 'density',
    components: 1,
    background: [kind === 'level' ? BAND * voxelSize : 0],
    origins,
    values: out,
    masks,
  };
}

import { TILE, type TileGrid, TileLookup } from '#core/grid';

/** A moment between two frames: how much of the way, and the seconds between them. */
export interface Between {
  readonly share: number;
  readonly seconds: number;
  readonly voxelSize: number;
  /** Velocities of the result, of those that are read. */
  readonly speed: number;
}

export interface Retimed {
  readonly grids: readonly TileGrid[];
  readonly voxels: number;
  /** Relative L2 of the density of the two frames when both are moved to the moment: what of the result is a guess. 0 at a frame that is there. */
  readonly apart: number;
}

/** Reads a grid anywhere: trilinear between voxel middles, the background where no tile is. */
class Sampler {
  readonly #lookup: TileLookup;
  readonly values: Float32Array;

  constructor(readonly grid: TileGrid) {
    this.#lookup = new TileLookup(grid.origins);
    this.values = grid.values;
  }

  /** At a place in voxels, into `out` from 0 on. */
  at(x: number, y: number, z: number, out: Float64Array): void {
    const { components: c, background } = this.grid;
    const { values } = this;
    const [px, py, pz] = [x - 0.5, y - 0.5, z - 0.5];
    const [i, j, k] = [Math.floor(px), Math.floor(py), Math.floor(pz)];
    const [fx, fy, fz] = [px - i, py - j, pz - k];
    for (let m = 0; m < c; m++) out[m] = 0;
    for (let n = 0; n < 8; n++) {
      const [di, dj, dk] = [n & 1, (n >> 1) & 1, n >> 2];
      const w = (di ? fx : 1 - fx) * (dj ? fy : 1 - fy) * (dk ? fz : 1 - fz);
      if (w === 0) continue;
      const [vx, vy, vz] = [i + di, j + dj, k + dk];
      const t = this.#lookup.at(vx >> 3, vy >> 3, vz >> 3);
      const o = (t * 512 + ((vx & 7) << 6) + ((vy & 7) << 3) + (vz & 7)) * c;
      for (let m = 0; m < c; m++) out[m] = (out[m] as number) + w * ((t < 0 ? background[m] : values[o + m]) as number);
    }
  }
}

/** Tiles that one of the grids has, in the order of the first, then of the second. */
function tilesOf(a: readonly TileGrid[], b: readonly TileGrid[]): Int32Array {
  const seen = new Set<string>();
  const out: number[] = [];
  for (const { origins } of [...a, ...b]) {
    for (let t = 0; t < origins.length; t += 3) {
      const key = `${String(origins[t])} ${String(origins[t + 1])} ${String(origins[t + 2])}`;
      if (seen.has(key)) continue;
      seen.add(key);
      out.push(origins[t] ?? 0, origins[t + 1] ?? 0, origins[t + 2] ?? 0);
    }
  }
  return Int32Array.from(out);
}

/**
 * A moment between two frames: what is at a place is what both frames have where the velocity there (midpoint rule, of both frames by their share) comes from and goes
 * to, by their share. Straight mixing instead would show everything twice.
 */
export function retimed(a: readonly TileGrid[], next: readonly TileGrid[], channels: readonly string[], o: Between): Retimed {
  const b = o.share === 0 ? a : next;
  const named = (grids: readonly TileGrid[], name: string): TileGrid | undefined => grids.find((g) => g.name === name);
  const [va, vb] = [named(a, 'vel'), named(b, 'vel')];
  const origins = tilesOf(a, b);
  const tiles = origins.length / 3;
  const pairs = channels.flatMap((name) => {
    const [from, to] = [named(a, name) ?? named(b, name), named(b, name) ?? named(a, name)];
    if (!from || !to) return [];
    const { components, background } = from;
    const factor = name === 'vel' ? o.speed : 1;
    const values = new Float32Array(tiles * 512 * components);
    return [
      { from: new Sampler(from), to: new Sampler(to), components, background, values, masks: new Uint8Array(tiles * 64), factor, name },
    ];
  });
  const [sa, sb] = [va && new Sampler(va), vb && new Sampler(vb)];
  const [one, two] = [new Float64Array(3), new Float64Array(3)];
  const way = new Float64Array(3);
  const velocity = (x: number, y: number, z: number): void => {
    way.fill(0);
    sa?.at(x, y, z, one);
    sb?.at(x, y, z, two);
    for (let m = 0; m < 3; m++) way[m] = (1 - o.share) * (one[m] ?? 0) + o.share * (two[m] ?? 0);
  };
  /** Where the velocity has brought what is at a place, so many voxels a m/s on. */
  const goTo = (x: number, y: number, z: number, step: number, out: Float64Array, at: number): void => {
    velocity(x, y, z);
    const half = 0.5 * step;
    velocity(x + half * (way[0] as number), y + half * (way[1] as number), z + half * (way[2] as number));
    out[at] = x + step * (way[0] as number);
    out[at + 1] = y + step * (way[1] as number);
    out[at + 2] = z + step * (way[2] as number);
  };
  const back = (o.share * o.seconds) / o.voxelSize;
  // A frame that is there needs no neighbour.
  const on = o.share === 0 ? 0 : ((1 - o.share) * o.seconds) / o.voxelSize;
  let [off, norm, voxels] = [0, 0, 0];
  const place = new Float64Array(6);
  for (let t = 0; t < tiles; t++) {
    for (let n = 0; n < 512; n++) {
      const x = (origins[3 * t] ?? 0) + (n >> 6) + 0.5;
      const y = (origins[3 * t + 1] ?? 0) + ((n >> 3) & (TILE - 1)) + 0.5;
      const z = (origins[3 * t + 2] ?? 0) + (n & (TILE - 1)) + 0.5;
      goTo(x, y, z, -back, place, 0);
      goTo(x, y, z, on, place, 3);
      let seen = false;
      for (const p of pairs) {
        p.from.at(place[0] ?? 0, place[1] ?? 0, place[2] ?? 0, one);
        p.to.at(place[3] ?? 0, place[4] ?? 0, place[5] ?? 0, two);
        let active = false;
        for (let m = 0; m < p.components; m++) {
          const v = ((1 - o.share) * (one[m] ?? 0) + o.share * (two[m] ?? 0)) * p.factor;
          const nothing = (p.background[m] ?? 0) * p.factor;
          p.values[(t * 512 + n) * p.components + m] = v;
          active ||= Math.abs(v - nothing) > 1e-6;
        }
        if (active) p.masks[t * 64 + (n >> 3)] = (p.masks[t * 64 + (n >> 3)] ?? 0) | (1 << (n & 7));
        if (p.name === 'density') {
          off += ((one[0] ?? 0) - (two[0] ?? 0)) ** 2;
          norm += (0.5 * ((one[0] ?? 0) + (two[0] ?? 0))) ** 2;
          seen = active;
        }
      }
      if (seen) voxels++;
    }
  }
  return {
    grids: pairs.map(({ name, components, background, values, masks, factor }) => ({
      name,
      components,
      background: background.map((v) => v * factor),
      origins,
      values,
      masks,
    })),
    voxels,
    apart: norm > 0 ? Math.sqrt(off / norm) : 0,
  };
}

import { BAND, Level, type Pool, type SurfaceParticles, makeBand } from '#core/surface';

/** Particles in a lattice of a spacing, where `inside` says so. */
export function latticeParticles(
  spacing: number,
  half: readonly [number, number, number],
  inside: (x: number, y: number, z: number) => boolean,
  jitter: (n: number) => number = () => 0,
  velocity: (x: number, y: number, z: number) => readonly [number, number, number] = () => [0, 0, 0],
): SurfaceParticles {
  const places: number[] = [];
  const motions: number[] = [];
  const [nx, ny, nz] = half.map((h) => Math.ceil(h / spacing)) as [number, number, number];
  let n = 0;
  for (let k = -nz; k < nz; k++) {
    for (let j = -ny; j < ny; j++) {
      for (let i = -nx; i < nx; i++) {
        const [x, y, z] = [(i + 0.5 + jitter(n++)) * spacing, (j + 0.5 + jitter(n++)) * spacing, (k + 0.5 + jitter(n++)) * spacing];
        if (!inside(x, y, z)) continue;
        places.push(x, y, z, 0);
        motions.push(...velocity(x, y, z), 0);
      }
    }
  }
  return { count: places.length / 4, places: Float32Array.from(places), motions: Float32Array.from(motions), radii: null };
}

/** Volume and area of a closed mesh, by the sums over its triangles. */
export function measureMesh({ places, triangles }: { readonly places: Float32Array; readonly triangles: Uint32Array }): {
  readonly volume: number;
  readonly area: number;
} {
  let [volume, area] = [0, 0];
  for (let t = 0; t < triangles.length; t += 3) {
    const [a, b, c] = [0, 1, 2].map((n) => {
      const o = 3 * (triangles[t + n] ?? 0);
      return [places[o] ?? 0, places[o + 1] ?? 0, places[o + 2] ?? 0] as const;
    }) as [readonly [number, number, number], readonly [number, number, number], readonly [number, number, number]];
    const u = [b[0] - a[0], b[1] - a[1], b[2] - a[2]] as const;
    const v = [c[0] - a[0], c[1] - a[1], c[2] - a[2]] as const;
    const n = [u[1] * v[2] - u[2] * v[1], u[2] * v[0] - u[0] * v[2], u[0] * v[1] - u[1] * v[0]] as const;
    area += Math.hypot(...n) / 2;
    volume += (a[0] * n[0] + a[1] * n[1] + a[2] * n[2]) / 6;
  }
  return { volume, area };
}

/** Sides of a mesh that do not belong to exactly two triangles, one each way. */
export function faultySides(triangles: Uint32Array): number {
  const sides = new Map<number, number>();
  for (let t = 0; t < triangles.length; t += 3) {
    for (let n = 0; n < 3; n++) {
      const [a, b] = [triangles[t + n] ?? 0, triangles[t + ((n + 1) % 3)] ?? 0];
      const key = Math.min(a, b) * 0x4000000 + Math.max(a, b);
      sides.set(key, (sides.get(key) ?? 0) + (a < b ? 1 : 1000));
    }
  }
  return [...sides.values()].filter((v) => v !== 1001).length;
}

/** A level of a distance in voxels (negative inside), told at voxel middles, in a box of tiles around the origin. */
export function levelOf(pool: Pool, tiles: number, distance: (x: number, y: number, z: number) => number): Level {
  const origin = [-tiles, -tiles, -tiles] as const;
  const across = [2 * tiles, 2 * tiles, 2 * tiles] as const;
  const band = makeBand(pool, origin, across, new Uint8Array((2 * tiles) ** 3).fill(1));
  const field = pool.take(band.slots * 2048);
  const values = pool.team.floats(field, band.slots * 512);
  const record = pool.team.words(band.records, band.slots * 4);
  for (let s = 0; s < band.slots; s++) {
    for (let n = 0; n < 512; n++) {
      const at = [(n & 7) + 0.5, ((n >> 3) & 7) + 0.5, (n >> 6) + 0.5].map((v, a) => v + (record[4 * s + a] ?? 0)) as [
        number,
        number,
        number,
      ];
      values[s * 512 + n] = Math.max(-BAND, Math.min(BAND, distance(...at)));
    }
  }
  return new Level(pool, band, field);
}

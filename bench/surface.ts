import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { surfaceNets } from 'isosurface';
import { mulberry32 } from '#core/math';
import {
  type Filter,
  type Level,
  Pool,
  Reader,
  applyFilter,
  cellBuffers,
  cellSizeOf,
  distanceOf,
  polygonTable,
  polygonsOfLevel,
  sortIntoCells,
} from '#core/surface';
import { latticeParticles, withTeam } from '#testing';
import { surfaceReference } from './native';
import { type Section, row, shortest } from './section';

const S = 0.01;
const H = 0.8 * S;
const OUT = 'node_modules/.cache/bench';
const filter = (kind: Filter['kind'], strength: number): Filter => ({
  kind,
  strength,
  on: true,
  iterations: 1,
  spareThin: 0,
  spareWalls: 0,
});
const THREE = [filter('gaussian', 0.8), filter('median', 1), filter('curvature', 1)] as const;
const OPTIONS = {
  method: 'averaged',
  voxelSize: H,
  spacing: S,
  radius: 0.738 * S,
  each: false,
  reach: 3 * S,
  joining: 2 * S,
  fewest: 10,
} as const;

export const surface: Section = {
  id: 'surface',
  title: 'A million particles to a skin, 256 voxels across',
  async run({ quick, say }) {
    const chance = mulberry32(5);
    const half: readonly [number, number, number] = quick ? [0.3, 0.06, 0.3] : [1.02, 0.14, 1.02];
    const wave = (x: number, z: number): number => 0.02 * Math.sin(9 * x) * Math.cos(7 * z);
    const body = latticeParticles(
      S,
      half,
      (x, y, z) => y < half[1] - 0.04 + wave(x, z),
      () => 0.5 * (chance() - 0.5),
    );
    const rounds = quick ? 1 : 3;
    const timed = (threads: number) =>
      withTeam(threads, (team) => {
        const pool = new Pool(team);
        const parts = { sorting: Infinity, distance: Infinity, filters: Infinity, polygons: Infinity };
        let [tiles, triangles, bytes] = [0, 0, 0];
        let level: Level | null = null;
        let dense: { readonly values: Float32Array; readonly size: readonly [number, number, number] } | null = null;
        // The first rounds compile.
        for (let r = 0; r < rounds + 2; r++) {
          pool.reset();
          pool.mark();
          const lap = <T>(name: keyof typeof parts, body: () => T): T => {
            let out: T | undefined;
            const seconds = shortest(1, () => {
              out = body();
            });
            if (r >= 2 || quick) parts[name] = Math.min(parts[name], seconds);
            return out as T;
          };
          const cells = lap('sorting', () =>
            sortIntoCells(pool, body, { cellSize: cellSizeOf(3 * S), voxelSize: H, radius: OPTIONS.radius, volume: S ** 3 }),
          );
          const made = lap('distance', () => distanceOf(pool, cells, OPTIONS, null));
          lap('filters', () => {
            for (const f of THREE) applyFilter(made, f);
          });
          const mesh = lap('polygons', () => polygonsOfLevel(made, H));
          [tiles, triangles, bytes, level] = [made.slots, mesh.triangles.length / 3, pool.most, made];
          if (r === rounds + 1) dense = denseOf(level, half);
          pool.give(...cellBuffers(cells));
          made.free();
        }
        return { parts, tiles, triangles, bytes, dense };
      });
    const one = await timed(1);
    const two = await timed(2);
    const all = (p: typeof one.parts): number => p.sorting + p.distance + p.filters + p.polygons;
    const rows = (['sorting', 'distance', 'filters', 'polygons'] as const).map((name) =>
      row(`${name}, one thread`, 1000 * one.parts[name], 'ms'),
    );
    rows.push(
      row('all, one thread over two', all(one.parts) / all(two.parts), 'x', { least: 1.4 }),
      row('triangles', one.triangles, ''),
      row('memory of a voxel of the band', one.bytes / (512 * one.tiles), 'bytes', null, `${String(body.count)} particles with it`),
    );
    const { dense } = one;
    if (dense) {
      const [nx, ny, nz] = dense.size;
      const package_ = shortest(1, () => {
        surfaceNets([nx, ny, nz], (x, y, z) => dense.values[(z * ny + y) * nx + x] ?? 4);
      });
      rows.push(row('polygons, the npm package "isosurface" (surface nets) over ours', package_ / one.parts.polygons, 'x', { least: 15 }));
      mkdirSync(OUT, { recursive: true });
      const paths = ['particles', 'field', 'table'].map((n) => join(OUT, `surface-${n}.bin`)) as [string, string, string];
      const three = new Float32Array(3 * body.count);
      for (let n = 0; n < body.count; n++)
        for (let a = 0; a < 3; a++) three[3 * n + a] = (body.places[4 * n + a] as number) + (half[a as 0 | 1 | 2] + 8 * H);
      writeFileSync(paths[0], three);
      writeFileSync(paths[1], dense.values);
      writeFileSync(paths[2], polygonTable());
      const native = surfaceReference(say)?.(paths, body.count, [H, 3 * S], dense.size, quick ? 1 : 2);
      if (native)
        rows.push(
          row('triangles of plain C++', native.triangles, ''),
          row('polygons over plain C++ on a dense grid', one.parts.polygons / native.polygons, 'x', { most: 0.9 }),
          row('sorting and distance over plain C++', (one.parts.sorting + one.parts.distance) / native.distance, 'x', { most: 1.3 }),
        );
    }
    return rows;
  },
};

/** A level on a dense grid around the body, eight voxels to spare on each side. */
function denseOf(
  level: Level,
  half: readonly [number, number, number],
): { readonly values: Float32Array; readonly size: readonly [number, number, number] } {
  const reader = new Reader(level);
  const low = half.map((v) => Math.floor(-v / H) - 8) as [number, number, number];
  const size = half.map((v) => Math.ceil((2 * v) / H) + 16) as [number, number, number];
  const values = new Float32Array(size[0] * size[1] * size[2]);
  for (let k = 0, n = 0; k < size[2]; k++)
    for (let j = 0; j < size[1]; j++) for (let i = 0; i < size[0]; i++) values[n++] = reader.at(i + low[0], j + low[1], k + low[2]);
  return { values, size };
}

import { BAND } from './band';
import { type Cells, cellArguments } from './cells';
import type { Level } from './level';
import type { Pool } from './pool';
import { polygonTable } from './polygon-table';

/** Triangles with what their vertices have. */
export interface SurfaceMesh {
  readonly vertices: number;
  /** Metres, x y z each. */
  readonly places: Float32Array;
  /** Outwards, of length 1. */
  readonly normals: Float32Array;
  /** Three vertices each, counterclockwise seen from outside. */
  readonly triangles: Uint32Array;
  /** m/s, x y z each. */
  readonly velocities: Float32Array;
  /** One number a vertex, by name. */
  readonly columns: readonly { readonly name: string; readonly values: Float32Array }[];
}

export const EMPTY_MESH: SurfaceMesh = {
  vertices: 0,
  places: new Float32Array(0),
  normals: new Float32Array(0),
  triangles: new Uint32Array(0),
  velocities: new Float32Array(0),
  columns: [],
};

/** Made when a skin is asked for first: it takes a tenth of a second, and every worker of passes loads this file. */
let kept: Uint8Array | null = null;

/** Places, normals and triangles of a level's zero line. */
export function polygonsOfLevel(level: Level, voxelSize: number): Pick<SurfaceMesh, 'vertices' | 'places' | 'normals' | 'triangles'> {
  const { pool, band, field, slots } = level;
  const { team } = pool;
  if (slots === 0) return EMPTY_MESH;
  kept ??= polygonTable();
  const table = pool.take(kept.length);
  team.bytes(table, kept.length).set(kept);
  const [crossed, ranks, counts, bases] = [pool.take(slots * 512), pool.take(slots * 1024), pool.take(slots * 16), pool.take(slots * 8)];
  const scratch = pool.take(team.threads * (16384 + 256));
  team.launch('countPolygons', slots, band.around, field, BAND, table, crossed, ranks, counts, scratch);
  const count = team.words(counts, slots * 4);
  const base = team.words(bases, slots * 2);
  let [vertices, triangles] = [0, 0];
  for (let s = 0; s < slots; s++) {
    base[2 * s] = vertices;
    base[2 * s + 1] = triangles;
    vertices += count[4 * s] ?? 0;
    triangles += count[4 * s + 1] ?? 0;
  }
  const [places, normals, list] = [pool.take(12 * vertices + 16), pool.take(12 * vertices + 16), pool.take(12 * triangles + 16)];
  team.launch(
    'writePolygons',
    slots,
    band.records,
    band.around,
    field,
    BAND,
    table,
    crossed,
    ranks,
    counts,
    bases,
    voxelSize,
    places,
    normals,
    list,
    scratch,
  );
  const mesh = {
    vertices,
    places: team.floats(places, 3 * vertices).slice(),
    normals: team.floats(normals, 3 * vertices).slice(),
    triangles: Uint32Array.from(team.words(list, 3 * triangles)),
  };
  pool.give(table, crossed, ranks, counts, bases, scratch, places, normals, list);
  return mesh;
}

/** What the particles around each vertex have: velocity, and columns by their numbers before they were sorted. */
export function carried(
  pool: Pool,
  cells: Cells,
  places: Float32Array,
  columns: readonly { readonly name: string; readonly values: ArrayLike<number> }[],
): Pick<SurfaceMesh, 'velocities' | 'columns'> {
  const { team } = pool;
  const vertices = places.length / 3;
  const at = pool.take(places.byteLength + 16);
  team.floats(at, places.length).set(places);
  const taken = columns.map(({ values }) => {
    const pointer = pool.take(4 * values.length + 16);
    team.floats(pointer, values.length).set(values);
    return pointer;
  });
  const list = pool.take(4 * columns.length + 16);
  team.words(list, columns.length).set(taken);
  const [velocities, out] = [pool.take(places.byteLength + 16), pool.take(4 * vertices * columns.length + 16)];
  team.launch(
    'carryToVertices',
    Math.ceil(vertices / 256),
    at,
    vertices,
    1 / cells.size,
    ...cellArguments(cells),
    cells.cellStart,
    cells.places,
    cells.motions,
    cells.marks,
    list,
    columns.length,
    velocities,
    out,
  );
  const all = team.floats(out, vertices * columns.length);
  const made = {
    velocities: team.floats(velocities, 3 * vertices).slice(),
    columns: columns.map(({ name }, c) => ({
      name,
      values: Float32Array.from({ length: vertices }, (_v, n) => all[n * columns.length + c] ?? 0),
    })),
  };
  pool.give(at, ...taken, list, velocities, out);
  return made;
}

import type { Box3, Distance } from '#core/geometry';
import type { Clock, Walls } from '#core/grid';
import { RuddleError } from '#core/errors';
import { formatBytes, formatQuantity } from '#core/units';
import { carryFields } from './band';
import { type Cells, type SurfaceParticles, cellBuffers, sortIntoCells } from './cells';
import { openAt } from './cut';
import { type DistanceOptions, type Surroundings, cellSizeOf, distanceOf, surroundings } from './distance';
import { type Contact, type Pieces, contactOf, countPieces, meshVolume, roughnessOf } from './figures';
import { type Filter, applyFilter, keepVolume, markThin } from './filters';
import type { Level } from './level';
import type { Pool } from './pool';
import { EMPTY_MESH, type SurfaceMesh, carried, polygonsOfLevel } from './polygons';
import { type Meeting, WallField, boxDistance, cutAtWalls, reachIntoWalls, standsIn } from './walls';
import { type WaveOptions, addWaves } from './waves';

/** What a skin is made by: metres, voxels where said. */
export interface SurfaceOptions {
  readonly distance: DistanceOptions;
  readonly stack: readonly Filter[];
  /** Liquid of fewer voxels is thin. */
  readonly thin: number;
  readonly keepVolume: boolean;
  readonly walls: { readonly meeting: Meeting; /** Voxels, inside of walls. */ readonly depth: number };
  /** Whether a skin that an open wall of the limit box cuts is closed there. */
  readonly cut: 'closed' | 'open';
  /** Part that the frames beside have in the distance, each half of it; 0: none. */
  readonly steady: number;
  /** Pieces of less than so many particles are crumbs. */
  readonly crumb: number;
  readonly waves: WaveOptions | null;
}

/** What it stands in. */
export interface Surrounding {
  /** Metres from all solids, positive outside of them; null: there are none. */
  readonly solids: Distance | null;
  readonly limit: Box3;
  readonly walls: Walls;
}

export interface SurfaceInput {
  readonly particles: SurfaceParticles;
  /** Columns that vertices are given, of as many numbers as there are particles. */
  readonly columns: readonly { readonly name: string; readonly values: ArrayLike<number> }[];
  /** Particles of the frames beside, moved to this one by their velocities. */
  readonly beside: readonly SurfaceParticles[];
  readonly surrounding: Surrounding;
  /** Seconds of the computation, for waves. */
  readonly time: number;
}

/** After which filter how much of what is thin is still inside. */
export interface ThinKept {
  /** Particles in thin liquid. */
  readonly particles: number;
  /** Of them, inside before the stack, and after each of its filters. */
  readonly before: number;
  readonly after: readonly number[];
  /** Inside at the end, after walls and volume too. */
  readonly kept: number;
}

export interface SurfaceFigures {
  readonly particles: number;
  readonly outside: { readonly count: number; /** Metres. */ readonly farthest: number };
  /** m^3. */
  readonly volume: { readonly skin: number; readonly particles: number };
  /** Metres outwards, to keep the volume. */
  readonly shift: number;
  readonly thin: ThinKept;
  /** The filter that lost most of what is thin, tried without: how many would be inside; null: none lost much. */
  readonly eaten: { readonly filter: number; readonly without: number } | null;
  readonly roughness: number;
  readonly triangles: number;
  readonly vertices: number;
  readonly pieces: Pieces;
  readonly contact: Contact | null;
  /** Mean distance, in voxels, from the skin of the frames beside; null: they were not read. */
  readonly flicker: number | null;
  readonly voxels: number;
  readonly seconds: Readonly<Record<SurfaceStage, number>>;
  readonly memoryBytes: number;
}

export const SURFACE_STAGES = ['sorting', 'distance', 'filters', 'walls', 'polygons', 'figures'] as const;
export type SurfaceStage = (typeof SURFACE_STAGES)[number];

export interface Surface {
  readonly mesh: SurfaceMesh;
  readonly figures: SurfaceFigures;
  /** Numbers of the particles that are outside. */
  readonly outside: Uint32Array;
  /** The distance, to be freed by whoever asked for it. */
  readonly level: Level;
}

/** A filter that loses more than this part of what is thin is tried without. */
const EATS = 0.05;
/** Most voxels that the volume is kept by. */
const MOST_SHIFT = 1.5;
/** Spacings from a wall where the skin knows nothing of it. */
const CLEAR = 1.5;

/** Voxels of the thin mask and tiles cannot be made for ever finer sizes: what a frame takes, before it is begun. */
export function bytesOfSurface(particles: number, o: DistanceOptions): number {
  const area = 6 * Math.cbrt(particles * o.spacing ** 3) ** 2;
  const tiles = (4 * area) / (8 * o.voxelSize) ** 2;
  return 140 * particles + tiles * (5 * 2048 + 1800);
}

/** Throws `settings-invalid` when a skin of so many particles cannot be in so many bytes, with the voxel size that would. */
export function maySurface(particles: number, o: DistanceOptions, bytes: number): void {
  const needed = bytesOfSurface(particles, o);
  if (needed <= bytes) return;
  const fits = Number((1.1 * o.voxelSize * Math.sqrt(needed / bytes)).toPrecision(2));
  const message = `A skin of voxels of ${formatQuantity(o.voxelSize, 'metre')} would take about ${formatBytes(needed)}; ${formatBytes(bytes)} are there. ${formatQuantity(fits, 'metre')} fits.`;
  throw new RuddleError('settings-invalid', message, { issues: [{ path: 'voxelSize', message }] });
}

/** One frame's skin. */
export function makeSurface(pool: Pool, input: SurfaceInput, o: SurfaceOptions, clock: Clock): Surface {
  const seconds: Record<SurfaceStage, number> = { sorting: 0, distance: 0, filters: 0, walls: 0, polygons: 0, figures: 0 };
  let at = clock();
  const spent = (stage: SurfaceStage): void => {
    const now = clock();
    seconds[stage] += now - at;
    at = now;
  };
  const { particles, surrounding } = input;
  const d = o.distance;
  const h = d.voxelSize;
  pool.reset();
  pool.mark();
  const sort = (p: SurfaceParticles): Cells =>
    sortIntoCells(pool, p, { cellSize: cellSizeOf(d.reach), voxelSize: h, radius: d.radius, volume: d.spacing ** 3 });
  const cells = sort(particles);
  const around = surroundings(pool, cells, d);
  spent('sorting');
  const level = distanceOf(pool, cells, d, around);
  const flicker = steadied(pool, level, input.beside, o, sort);
  spent('distance');

  const solids = surrounding.solids;
  const closed = boxDistance(surrounding.limit, surrounding.walls, 'closed');
  const open = boxDistance(surrounding.limit, surrounding.walls, 'open');
  const met: Distance = (x, y, z) => Math.min(solids ? solids(x, y, z) : Infinity, closed(x, y, z));
  const walls = new WallField(met, h);
  const outer = new WallField(open, h);
  if (o.keepVolume || o.stack.some((f) => f.on && f.spareThin > 0)) markThin(level, skinOf(o));
  walls.putInto(level);
  const thin = thinOf(pool, cells, around, o.thin);
  const scale = d.reach / 1.5 / h;
  const inside = (l: Level): number => insideOf(l.sample(cells.places, cells.count, scale), thin);
  const filtered = throughStack(level, o.stack, inside);
  spent('filters');
  const eaten =
    filtered.worst === null
      ? null
      : { filter: filtered.worst, without: withoutFilter(pool, cells, o, around, input, sort, walls, filtered.worst, inside) };
  if (eaten) spent('figures');

  // Liquid cannot be in walls: of what reaches into them only what lies before them counts.
  const wanted = volumeOf(pool, cells);
  const depth = o.walls.meeting === 'inside' ? o.walls.depth : 0;
  const reaches = o.walls.meeting !== 'trimmed' && standsIn(level, walls);
  if (reaches) reachIntoWalls(level, walls, (CLEAR * d.spacing) / h, depth);
  standsIn(level, walls);
  const shift = o.keepVolume ? keepVolume(level, wanted, MOST_SHIFT) : 0;
  const uncut = level.sample(cells.places, cells.count, scale);
  if (standsIn(level, outer)) {
    reachIntoWalls(level, outer, (CLEAR * d.spacing) / h, 0);
    cutAtWalls(level, outer, 0);
  }
  cutAtWalls(level, walls, depth);
  spent('walls');

  const bare = polygonsOfLevel(level, h);
  let mesh: SurfaceMesh = bare.vertices === 0 ? EMPTY_MESH : { ...bare, ...carried(pool, cells, bare.places, input.columns) };
  const skin = meshVolume(mesh);
  // Before the waves: they would lift a lid off the wall that it is known by.
  if (o.cut === 'open') mesh = openAt(mesh, open, 0.02 * h);
  if (o.waves) mesh = addWaves(mesh, o.waves, input.time);
  spent('polygons');

  const values = beforeWalls(level.sample(cells.places, cells.count, scale), uncut, cells, pool, met, h);
  const marks = pool.team.words(cells.marks, 4 * cells.count);
  const out: number[] = [];
  let farthest = 0;
  for (let n = 0; n < cells.count; n++) {
    const v = values[n] as number;
    if (v <= 0) continue;
    out.push(marks[4 * n] as number);
    farthest = Math.max(farthest, v);
  }
  const figures: SurfaceFigures = {
    particles: cells.count,
    outside: { count: out.length, farthest: farthest * h },
    volume: { skin, particles: wanted * h ** 3 },
    shift: shift * h,
    thin: { particles: thin.length, before: filtered.before, after: filtered.after, kept: insideOf(values, thin) },
    eaten,
    roughness: roughnessOf(mesh, h),
    triangles: mesh.triangles.length / 3,
    vertices: mesh.vertices,
    pieces: countPieces(mesh, o.crumb * d.spacing ** 3),
    contact: contactOf(mesh, met, d.spacing + h),
    flicker,
    voxels: level.slots * 512,
    seconds,
    memoryBytes: pool.most,
  };
  pool.give(...cellBuffers(cells), around.shapes, around.thickness);
  spent('figures');
  return { mesh, figures: { ...figures, seconds: { ...seconds } }, outside: Uint32Array.from(out).sort(), level };
}

/** Voxels from a wall within which the skin and the wall are read from the same voxels. */
const AT_WALL = 0.6;

/** How deep each particle lies in the skin, voxels (outside: positive). What touches a wall is not lost by the wall: it lies in the skin as it was before it was cut there. */
function beforeWalls(
  values: Float32Array,
  uncut: Float32Array,
  { places, count, size }: Cells,
  pool: Pool,
  walls: Distance,
  h: number,
): Float32Array {
  const p = pool.team.floats(places, 4 * count);
  for (let n = 0; n < count; n++) {
    if ((values[n] as number) <= 0 || (uncut[n] as number) > 0) continue;
    const d = walls((p[4 * n] as number) * size, (p[4 * n + 1] as number) * size, (p[4 * n + 2] as number) * size);
    if (d < AT_WALL * h) values[n] = uncut[n] as number;
  }
  return values;
}

/** How thick the skin of liquid is that counts as thin, voxels: it lies a radius outside of the particles, they stand for half a spacing. */
const skinOf = ({ thin, distance: d }: SurfaceOptions): number => thin + Math.max(0, (2 * d.radius - d.spacing) / d.voxelSize);

/** Liquid of the particles, voxels. */
function volumeOf(pool: Pool, cells: Cells): number {
  const motions = pool.team.floats(cells.motions, 4 * cells.count);
  let sum = 0;
  for (let n = 0; n < cells.count; n++) sum += motions[4 * n + 3] as number;
  return sum;
}

/** Particles (in the order of the cells) where liquid is thinner than so many voxels. */
function thinOf(pool: Pool, cells: Cells, around: Surroundings, voxels: number): Uint32Array {
  const thickness = pool.team.floats(around.thickness, cells.count);
  const found: number[] = [];
  for (let n = 0; n < cells.count; n++) if ((thickness[n] as number) < voxels) found.push(n);
  return Uint32Array.from(found);
}

const insideOf = (values: Float32Array, thin: Uint32Array): number => {
  let count = 0;
  for (const n of thin) if ((values[n] as number) <= 0) count++;
  return count;
};

interface Filtered {
  readonly before: number;
  readonly after: readonly number[];
  readonly worst: number | null;
}

function throughStack(level: Level, stack: readonly Filter[], inside: (l: Level) => number): Filtered {
  const before = inside(level);
  const after: number[] = [];
  let worst: number | null = null;
  let most = EATS * before;
  stack.forEach((filter, n) => {
    const was = after[n - 1] ?? before;
    applyFilter(level, filter);
    const now = filter.on ? inside(level) : was;
    after.push(now);
    if (was - now > most) {
      most = was - now;
      worst = n;
    }
  });
  return { before, after, worst };
}

/** What of the thin parts would be inside after the stack without one of its filters. */
function withoutFilter(
  pool: Pool,
  cells: Cells,
  o: SurfaceOptions,
  around: Surroundings,
  input: SurfaceInput,
  sort: (p: SurfaceParticles) => Cells,
  walls: WallField,
  filter: number,
  inside: (l: Level) => number,
): number {
  const level = distanceOf(pool, cells, o.distance, around);
  steadied(pool, level, input.beside, o, sort);
  const stack = o.stack.map((f, n) => (n === filter ? { ...f, on: false } : f));
  if (stack.some((f) => f.on && f.spareThin > 0)) markThin(level, skinOf(o));
  walls.putInto(level);
  const { before, after } = throughStack(level, stack, inside);
  level.free();
  return after[after.length - 1] ?? before;
}

/** Blends in the skins of the frames beside. Returns how far they lie from it in the mean, voxels; null: there are none. */
function steadied(
  pool: Pool,
  level: Level,
  beside: readonly SurfaceParticles[],
  o: SurfaceOptions,
  sort: (p: SurfaceParticles) => Cells,
): number | null {
  if (beside.length === 0 || level.slots === 0) return null;
  const { team } = pool;
  const sum = level.room();
  const total = team.floats(sum, level.slots * 512);
  total.fill(0);
  const own = level.values();
  let [apart, seen] = [0, 0];
  for (const particles of beside) {
    const cells = sort(particles);
    const around = o.distance.method === 'kernels' ? surroundings(pool, cells, o.distance) : null;
    const other = distanceOf(pool, cells, o.distance, around);
    const [there = 0] = carryFields(pool, other.band, level.band, [{ pointer: other.field, otherwise: 'side' }]);
    const values = team.floats(there, own.length);
    for (let n = 0; n < own.length; n++) {
      const [v, mine] = [values[n] as number, own[n] as number];
      total[n] = (total[n] as number) + v;
      if (Math.abs(mine) >= 1) continue;
      apart += Math.abs(v - mine);
      seen++;
    }
    pool.give(there);
    other.free();
    pool.give(...cellBuffers(cells), ...(around ? [around.shapes, around.thickness] : []));
  }
  const part = o.steady / beside.length;
  for (let n = 0; n < own.length; n++) own[n] = (1 - o.steady) * (own[n] as number) + part * (total[n] as number);
  pool.give(sum);
  level.redistance();
  return seen > 0 ? apart / seen : 0;
}

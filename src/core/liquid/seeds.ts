import type { Motion, PlacedSource, SolverSeconds } from '#core/flow';
import { fractalNoise, hash3, type Vec3 } from '#core/math';
import type { Box3, Distance } from '#core/geometry';
import { RECORD_WORDS, TILE, type KernelTeam } from '#core/grid';
import { type Coarse, coarseOf } from './band';
import type { LiquidGrid } from './grid';
import type { LiquidMatter, LiquidOptions, LiquidSource } from './options';
import type { Particles } from './particles';
import { Shares } from './shares';
import { streamOf } from './stream';
import type { Sorter } from './sorter';

const HALF_DIAGONAL = Math.sqrt(3) / 2;
/** Voxels between a new particle and a wall, at least. */
export const CLEAR = 0.05;
/** Voxels that a stream moves between two looks at what it left empty: less than the share of one particle. */
const STRIDE = 0.5;
/** Longest that a stream's way is looked at in one substep, voxels. */
const MOST_STRIDES = 64;

/** Shortest time that a velocity is told over, seconds. */
const MOMENT = 1e-3;

/** What a source put in, or took away, voxels. */
export interface Given {
  readonly particles: number;
  readonly volume: number;
}

export interface Seeding {
  readonly team: KernelTeam;
  readonly options: LiquidOptions;
  readonly particles: Particles;
  readonly motion: Motion<LiquidSource, LiquidMatter>;
  readonly grid: LiquidGrid;
  readonly sorter: Sorter;
  /** Solids at a moment: positive where liquid may be, metres. */
  readonly open: Distance;
  /** Voxels that particles may have gone since they were sorted. */
  readonly travelled: number;
  /** What a velocity at the middle of the coming substep lacks to be that of its beginning, m/s: see the solver. */
  readonly early: Vec3;
  /** What it lacks to be that of the coming substep itself: what is held against gravity, m/s. */
  readonly pull: Vec3;
}

/** Calls back with the index of every particle that may lie in a box of world voxels. */
export function eachNear({ team, particles, sorter, grid, travelled }: Seeding, min: Vec3, max: Vec3, visit: (n: number) => void): void {
  if (sorter.tileStart === 0) {
    for (let n = 0; n < particles.count; n++) visit(n);
    return;
  }
  const { window: w } = grid;
  const starts = team.words(sorter.tileStart, grid.slots + 1);
  const records = team.pointers(team.pointers(grid.context, 8)[5] ?? 0, grid.slots * RECORD_WORDS);
  const sorted = starts[grid.slots] ?? 0;
  const by = travelled + 1;
  for (let s = 0; s < grid.slots; s++) {
    const r = s * RECORD_WORDS;
    const [x, y, z] = [(records[r + 1] ?? 0) + w.ox, (records[r + 2] ?? 0) + w.oy, (records[r + 3] ?? 0) + w.oz];
    if (x + TILE + by < min[0] || y + TILE + by < min[1] || z + TILE + by < min[2] || x - by > max[0] || y - by > max[1] || z - by > max[2])
      continue;
    for (let n = starts[s] ?? 0; n < (starts[s + 1] ?? 0); n++) visit(n);
  }
  for (let n = sorted; n < particles.count; n++) visit(n);
}

export function boxInVoxels({ min, max }: Box3, h: number): { readonly min: Vec3; readonly max: Vec3 } {
  const scaled = (v: Vec3): Vec3 => [v[0] / h, v[1] / h, v[2] / h];
  return { min: scaled(min), max: scaled(max) };
}

/** A source's distance at its surface only when it has a skin. */
export function surfaceOf(
  seeding: Pick<Seeding, 'motion'>,
  index: number,
  placed: PlacedSource<LiquidSource>,
): { readonly inside: Distance; readonly bounds: Box3 } {
  const form = seeding.motion.sourceForm(index);
  const solid = form.distance(placed.pose);
  const skin = (placed.source.shell ?? 0) / 2;
  const b = form.bounds(placed.pose);
  const grow = (v: Vec3, by: number): Vec3 => [v[0] + by, v[1] + by, v[2] + by];
  return {
    inside: placed.source.shell === null ? solid : (x, y, z) => Math.abs(solid(x, y, z)) - skin,
    bounds: { min: grow(b.min, -skin), max: grow(b.max, skin) },
  };
}

/** Velocity of what a source gives at a place, m/s. */
export type Speed = (x: number, y: number, z: number) => Vec3;

export function speedOf({ motion }: Seeding, index: number, source: LiquidSource, time: SolverSeconds, dt: number): Speed {
  const form = motion.sourceForm(index);
  // A body that is there before anything moved has the velocity of its next moment.
  const span = Math.max(dt, MOMENT);
  const moved =
    source.inherits !== 0 && motion.travels(index)
      ? form.velocity(motion.source(index, time).pose, motion.source(index, time + span).pose, span)
      : null;
  const { noise } = source;
  return (x, y, z) => {
    const own = moved?.(x, y, z) ?? [0, 0, 0];
    const varied =
      noise && noise.amount > 0
        ? 1 + noise.amount * fractalNoise(x / noise.size, y / noise.size, z / noise.size, time / noise.change, noise.seed, noise.octaves)
        : 1;
    return [0, 1, 2].map((a) => (source.velocity[a] ?? 0) * varied + source.inherits * (own[a] ?? 0)) as unknown as Vec3;
  };
}

/** Looks along a share's edge at how much of it is covered. */
const LOOKS = 4;
/** Smallest part of a share that gets a particle. */
const LEAST_PART = 1 / 128;

/**
 * How much of a share lies within a shape and not in what was given `before` (null: nothing), by their distances, and the middle of that. `middle` in world voxels,
 * its edge 1 / n of one.
 */
function coveredPart(
  inside: Distance,
  before: Distance | null,
  middle: Vec3,
  n: number,
  h: number,
): { readonly part: number; readonly at: Vec3 } {
  const sub = h / n / LOOKS;
  let [sum, x, y, z] = [0, 0, 0, 0];
  for (let c = 0; c < LOOKS ** 3; c++) {
    const place = [c % LOOKS, Math.floor(c / LOOKS) % LOOKS, Math.floor(c / LOOKS / LOOKS)].map(
      (look, a) => (middle[a] ?? 0) + ((look + 0.5) / LOOKS - 0.5) / n,
    ) as unknown as Vec3;
    const [px, py, pz] = [place[0] * h, place[1] * h, place[2] * h];
    const part = (d: number): number => Math.max(0, Math.min(1, 0.5 - d / sub));
    const own = inside(px, py, pz);
    // Together less what there is: bodies that overlap are counted once, and those side by side add up.
    const there = before ? before(px, py, pz) : Infinity;
    const covered = part(Math.min(own, there)) - part(there);
    sum += covered;
    x += covered * place[0];
    y += covered * place[1];
    z += covered * place[2];
  }
  return { part: sum / LOOKS ** 3, at: sum > 0 ? [x / sum, y / sum, z / sum] : middle };
}

/** Adds particles: world voxels and m/s, three each, and voxels of volume. */
export function addParticles(
  { particles, team }: Seeding,
  places: readonly number[],
  motions: readonly number[],
  volumes: readonly number[],
  viscosity: number,
  source: number,
): void {
  const first = particles.count;
  particles.reserve(first + volumes.length);
  particles.count += volumes.length;
  const p = particles.placeFloats;
  const m = particles.motionFloats;
  const marks = particles.markFloats;
  const words = particles.markWords;
  volumes.forEach((volume, k) => {
    const o = 4 * (first + k);
    for (let a = 0; a < 3; a++) {
      p[o + a] = places[3 * k + a] ?? 0;
      m[o + a] = motions[3 * k + a] ?? 0;
    }
    p[o + 3] = 0;
    m[o + 3] = volume;
    marks[o] = viscosity;
    words[o + 1] = particles.born++;
    words[o + 2] = source;
    words[o + 3] = 0;
  });
  if (particles.affine !== 0) team.floats(particles.affine + first * 48, volumes.length * 12).fill(0);
}

/**
 * Puts particles into the shares of voxels in a shape that hold none. `exact`: into what a body covers of a share, as much as that, so that a level comes out where it
 * was asked for and bodies side by side add up; a stream fills the shares whose middles it covers. `back`: metres that the shape is moved by for the test, for streams whose substep leaves
 * gaps behind. Shares that are given one are taken from then on, whoever gave it: bodies that overlap are counted once.
 */
function fillShape(
  seeding: Seeding,
  { inside, bounds }: { readonly inside: Distance; readonly bounds: Box3 },
  shares: Shares,
  by: Vec3,
  speed: Speed,
  viscosity: number,
  source: number,
  salt: number,
  /** Of what lies deep; null: it is as fine as the rest. */
  coarse: Coarse | null,
  exact: boolean,
  /** Bodies that were given at this very moment; null: none. */
  before: Distance | null,
): Given {
  const { options, open, early } = seeding;
  const h = options.voxelSize;
  const { jitter, seed } = options.particles;
  const { min, max } = options.bounds.limit;
  const low = [0, 1, 2].map((a) =>
    Math.floor((Math.max(bounds.min[a] ?? 0, (min[a] ?? 0) - (by[a] ?? 0)) + (by[a] ?? 0)) / h),
  ) as unknown as Vec3;
  const high = [0, 1, 2].map((a) =>
    Math.ceil((Math.min(bounds.max[a] ?? 0, (max[a] ?? 0) - (by[a] ?? 0)) + (by[a] ?? 0)) / h),
  ) as unknown as Vec3;
  const outOfLimit = (x: number, y: number, z: number): boolean =>
    x * h < min[0] || y * h < min[1] || z * h < min[2] || x * h > max[0] || y * h > max[1] || z * h > max[2];
  const covers: Distance = (x, y, z) =>
    Math.max(
      inside(x - by[0], y - by[1], z - by[2]),
      // Walls and the limit box cut.
      -open(x, y, z),
      min[0] - x,
      min[1] - y,
      min[2] - z,
      x - max[0],
      y - max[1],
      z - max[2],
    );
  let [given, voxels] = [0, 0];
  const places: number[] = [];
  const motions: number[] = [];
  const volumes: number[] = [];
  const flush = (): void => {
    addParticles(seeding, places, motions, volumes, viscosity, source);
    for (const list of [places, motions, volumes]) list.length = 0;
  };
  for (let k = low[2]; k < high[2]; k++) {
    for (let j = low[1]; j < high[1]; j++) {
      for (let i = low[0]; i < high[0]; i++) {
        const [cx, cy, cz] = [(i + 0.5) * h, (j + 0.5) * h, (k + 0.5) * h];
        const middle = inside(cx - by[0], cy - by[1], cz - by[2]);
        if (middle > HALF_DIAGONAL * h) continue;
        const room = open(cx, cy, cz);
        if (room < -HALF_DIAGONAL * h) continue;
        const there = before ? before(cx, cy, cz) : Infinity;
        if (there < -HALF_DIAGONAL * h) continue;
        const alone = there > HALF_DIAGONAL * h;
        const whole = middle < -HALF_DIAGONAL * h;
        const clear = room > (HALF_DIAGONAL + CLEAR) * h;
        const deep =
          coarse !== null &&
          alone &&
          Math.min(-middle, room) > (coarse.band + HALF_DIAGONAL) * h &&
          shares.isEmpty(i + 0.5, j + 0.5, k + 0.5);
        const n = deep ? options.particles.inside : shares.n;
        for (let c = 0; c < n ** 3; c++) {
          const [a, b, d] = [c % n, Math.floor(c / n) % n, Math.floor(c / n / n)];
          const [sx, sy, sz] = [i + (a + 0.5) / n, j + (b + 0.5) / n, k + (d + 0.5) / n];
          let part = 1;
          let middle: Vec3 = [sx, sy, sz];
          if (exact && !deep) {
            const room = shares.roomAt(sx, sy, sz);
            if (room < LEAST_PART) continue;
            if (!whole || !clear || !alone || outOfLimit(i, j, k) || outOfLimit(i + 1, j + 1, k + 1)) {
              const d = covers(sx * h, sy * h, sz * h);
              if (d > (HALF_DIAGONAL * h) / n) continue;
              if (!alone || d > (-HALF_DIAGONAL * h) / n) ({ part, at: middle } = coveredPart(covers, before, middle, n, h));
            }
            part = Math.min(part, room);
            if (part < LEAST_PART) continue;
          } else {
            if (!deep && shares.isTaken(sx, sy, sz)) continue;
            if (!whole && inside(sx * h - by[0], sy * h - by[1], sz * h - by[2]) > 0) continue;
          }
          const [gx, gy, gz] = [i * n + a, j * n + b, k * n + d];
          const spread = (axis: number): number => ((hash3(gx, gy, gz, seed + 7919 * salt + axis) / 4294967296 - 0.5) * jitter * part) / n;
          let [x, y, z] = [middle[0] + spread(1), middle[1] + spread(2), middle[2] + spread(3)];
          if ((!clear && open(x * h, y * h, z * h) < CLEAR * h) || (exact && outOfLimit(x, y, z))) {
            if (!clear && open(middle[0] * h, middle[1] * h, middle[2] * h) < CLEAR * h) continue;
            [x, y, z] = middle;
          }
          if (outOfLimit(x, y, z)) continue;
          if (deep) shares.fill(sx, sy, sz);
          else shares.take(sx, sy, sz, part / n ** 3);
          const v = speed(x * h, y * h, z * h);
          places.push(x, y, z);
          motions.push(v[0] - early[0], v[1] - early[1], v[2] - early[2]);
          volumes.push(part / n ** 3);
          voxels += part / n ** 3;
          given++;
          if (places.length >= 3 * 65536) flush();
        }
      }
    }
  }
  flush();
  return { particles: given, volume: voxels };
}

/** Where a source is at a moment: negative inside, metres. */
export const insideOf = (seeding: Pick<Seeding, 'motion'>, index: number, time: number): Distance =>
  surfaceOf(seeding, index, seeding.motion.source(index, time)).inside;

/**
 * Fills a source's shape once, or keeps it full for [time, time + dt]: what falls or is carried out of it decides how much comes. `salt`: another number, other places in the shares. `before`: bodies that were given at this very
 * moment.
 */
export function giveLiquid(seeding: Seeding, index: number, time: number, dt: number, salt: number, before: Distance | null = null): Given {
  const { options, particles } = seeding;
  const h = options.voxelSize;
  const placed = seeding.motion.source(index, time);
  const { source } = placed;
  const shape = surfaceOf(seeding, index, placed);
  const n = options.particles.along;
  const viscosity = source.viscosity ?? options.matter.viscosity;
  const speed = speedOf(seeding, index, source, time, dt);
  const keeps = source.act === 'keeps';
  const middle = ([0, 1, 2] as const).map((a) => (shape.bounds.min[a] + shape.bounds.max[a]) / 2) as unknown as Vec3;
  const mean = speed(...middle);
  const way = keeps ? (Math.hypot(...mean) * dt) / h : 0;
  const strides = Math.min(MOST_STRIDES, Math.max(1, Math.ceil(way / STRIDE)));
  const reach: Vec3 = keeps ? [mean[0] * dt, mean[1] * dt, mean[2] * dt] : [0, 0, 0];
  const { min, max } = boxInVoxels(shape.bounds, h);
  // No more than the limit box has: a shape may be far larger.
  const limit = boxInVoxels(options.bounds.limit, h);
  const low = ([0, 1, 2] as const).map((a) =>
    Math.floor(Math.max(min[a] + Math.min(0, reach[a] / h), limit.min[a]) - 1),
  ) as unknown as Vec3;
  const high = ([0, 1, 2] as const).map((a) =>
    Math.ceil(Math.min(max[a] + Math.max(0, reach[a] / h), limit.max[a]) + 1),
  ) as unknown as Vec3;
  const shares = new Shares(low, [high[0] - low[0], high[1] - low[1], high[2] - low[2]], n);
  const coarse = coarseOf(options);
  // All of a body at once: arrays that grow leave their old ones behind.
  if (!keeps) particles.reserve(particles.count + roomFor(source, low, high, n, coarse), true);
  const places = particles.placeFloats;
  const motions = particles.motionFloats;
  eachNear(seeding, low, high, (p) => {
    const [x, y, z] = [places[4 * p] ?? 0, places[4 * p + 1] ?? 0, places[4 * p + 2] ?? 0];
    const volume = motions[4 * p + 3] ?? 0;
    if (coarse && volume >= coarse.least) shares.takeAll(x, y, z, volume);
    else shares.take(x, y, z, volume);
  });
  let total = { particles: 0, volume: 0 };
  // What left the shape within the substep first: where it is at its end.
  for (let s = strides - 1; s >= 0; s--) {
    const by: Vec3 = strides === 1 ? [0, 0, 0] : [(reach[0] * s) / strides, (reach[1] * s) / strides, (reach[2] * s) / strides];
    const more = fillShape(seeding, shape, shares, by, speed, viscosity, index, salt + 31 * s, keeps ? null : coarse, !keeps, before);
    total = { particles: total.particles + more.particles, volume: total.volume + more.volume };
  }
  return total;
}

/** Part of its box that a shape fills. */
const FILLS: Readonly<Record<LiquidSource['shape']['kind'], number>> = { box: 1, ball: 0.6, cylinder: 0.85, mesh: 1 };

function roomFor({ shape }: LiquidSource, low: Vec3, high: Vec3, n: number, coarse: Coarse | null): number {
  const within = (by: number): number => ([0, 1, 2] as const).reduce<number>((v, a) => v * Math.max(0, high[a] - low[a] - 2 * by), 1);
  // A box around has a voxel to spare; what a wall stands beside is merged only later.
  const deep = coarse === null ? 0 : within(coarse.band + 2);
  return Math.ceil(FILLS[shape.kind] * ((within(0) - deep) * n ** 3 + (coarse === null ? 0 : deep / coarse.volume)));
}

/** Takes away what lies in a drain's shape. */
export function drainLiquid(seeding: Seeding, index: number, time: number): Given {
  const { options, particles } = seeding;
  const h = options.voxelSize;
  const placed = seeding.motion.source(index, time);
  const { inside, bounds } = surfaceOf(seeding, index, placed);
  const { min, max } = boxInVoxels(bounds, h);
  const places = particles.placeFloats;
  const motions = particles.motionFloats;
  let taken = 0;
  let volume = 0;
  eachNear(seeding, min, max, (n) => {
    const o = 4 * n;
    const own = motions[o + 3] ?? 0;
    if (own <= 0 || inside((places[o] ?? 0) * h, (places[o + 1] ?? 0) * h, (places[o + 2] ?? 0) * h) > 0) return;
    motions[o + 3] = 0;
    taken++;
    volume += own;
  });
  return { particles: taken, volume };
}

/** Fastest that a source gives liquid, m/s. */
export function sourceSpeed(motion: Motion<LiquidSource, LiquidMatter>, index: number, time: number, dt: number): number {
  const { source, pose } = motion.source(index, time);
  if (source.act !== 'emits' && source.act !== 'keeps') return 0;
  const form = motion.sourceForm(index);
  const own = motion.travels(index) ? form.travel(pose, motion.source(index, time + dt).pose) / dt : 0;
  const speed = source.act === 'emits' ? streamOf(pose.shape, source).speed : Math.hypot(...source.velocity);
  return speed * (1 + (source.noise?.amount ?? 0)) + Math.abs(source.inherits) * own;
}

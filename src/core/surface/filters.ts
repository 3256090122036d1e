import { BAND, carryFields } from './band';
import type { Level } from './level';

export const FILTER_KINDS = ['gaussian', 'median', 'curvature', 'offset', 'erode', 'dilate', 'close', 'open'] as const;
export type FilterKind = (typeof FILTER_KINDS)[number];

/** One entry of a stack. */
export interface Filter {
  readonly kind: FilterKind;
  readonly on: boolean;
  /** Gaussian: its width in voxels; median: the part that is taken over; curvature: part of the largest stable step; the others: voxels. */
  readonly strength: number;
  readonly iterations: number;
  /** How much of what is thin, or near a solid, is left as it is, 0 to 1. */
  readonly spareThin: number;
  readonly spareWalls: number;
}

/** Thin parts and walls as fields of their level: 1 where they are, 0 where not. */
export const MASKS = { thin: 'thin', walls: 'near-walls' } as const;

/** Iterations of the curvature's motion between two measurings of the distance. */
const FLOW_STEPS = 4;

/**
 * Where liquid is thinner than `voxels`: what is lost when the surface is moved in by half of it and out again. 1 where at least a quarter of a voxel is, and kept with
 * the level; where a tile comes later, nothing is thin.
 */
export function markThin(level: Level, voxels: number): void {
  const opened = level.copy();
  opened.offset(-voxels / 2);
  opened.offset(voxels / 2);
  const { team } = level.pool;
  const mask = level.room();
  const out = team.floats(mask, level.slots * 512);
  const own = level.values();
  const [there = 0] = carryFields(level.pool, opened.band, level.band, [{ pointer: opened.field, otherwise: 'side' }]);
  const after = team.floats(there, level.slots * 512);
  for (let n = 0; n < out.length; n++) {
    const before = own[n] as number;
    out[n] = before >= 3 ? 0 : Math.min(1, Math.max(0, 2 * ((after[n] as number) - before) - 0.5));
  }
  level.pool.give(there);
  opened.free();
  level.keep(MASKS.thin, mask, 0);
}

/** Weights of a Gaussian, 0 to 4 voxels away. */
export function gaussianWeights(width: number): number[] {
  const weights = Array.from({ length: 5 }, (_v, n) => Math.exp(-(n ** 2) / (2 * width * width)));
  const sum = 2 * weights.reduce((a, b) => a + b, 0) - (weights[0] ?? 0);
  return weights.map((w) => w / sum);
}

/** One filter, all its iterations. The level is a distance again afterwards. */
export function applyFilter(level: Level, filter: Filter): void {
  if (!filter.on || filter.strength === 0 || level.slots === 0) return;
  const { strength, iterations } = filter;
  switch (filter.kind) {
    case 'gaussian':
    case 'median':
    case 'curvature':
      for (let n = 0; n < iterations; n += FLOW_STEPS) {
        smooth(level, filter, Math.min(FLOW_STEPS, iterations - n));
        level.redistance();
      }
      return;
    case 'offset':
    case 'erode':
    case 'dilate':
    case 'close':
    case 'open':
      sparing(level, filter, (own) => {
        for (let n = 0; n < iterations; n++) move(own, filter.kind, strength);
      });
  }
}

function move(level: Level, kind: FilterKind, voxels: number): void {
  const first = kind === 'erode' || kind === 'open' ? -voxels : voxels;
  level.offset(first);
  if (kind === 'open' || kind === 'close') level.offset(-first);
}

/** Whether a filter leaves anything as it is; and how much, as a mask (1: filtered). */
function maskOf(level: Level, { spareThin, spareWalls }: Pick<Filter, 'spareThin' | 'spareWalls'>): number {
  const thin = spareThin > 0 ? level.beside(MASKS.thin) : 0;
  const walls = spareWalls > 0 ? level.beside(MASKS.walls) : 0;
  if (thin === 0 && walls === 0) return 0;
  const { team } = level.pool;
  const mask = level.room();
  const out = team.floats(mask, level.slots * 512);
  out.fill(1);
  for (const [pointer, spare] of [
    [thin, spareThin],
    [walls, spareWalls],
  ] as const) {
    if (pointer === 0) continue;
    const values = team.floats(pointer, level.slots * 512);
    for (let n = 0; n < out.length; n++) out[n] = (out[n] as number) * (1 - spare * (values[n] as number));
  }
  return mask;
}

function smooth(level: Level, filter: Filter, iterations: number): void {
  const { pool, slots, band } = level;
  const { team } = pool;
  const [out, scratch] = [level.room(), pool.take(team.threads * 32768)];
  const weights = pool.take(64);
  if (filter.kind === 'gaussian') team.floats(weights, 5).set(gaussianWeights(filter.strength));
  const mask = maskOf(level, filter);
  let [from, to] = [level.field, out];
  for (let n = 0; n < iterations; n++) {
    if (filter.kind === 'gaussian') team.launch('gaussianTiles', slots, band.around, from, to, BAND, weights, scratch);
    else if (filter.kind === 'median') team.launch('medianTiles', slots, band.around, from, to, BAND, filter.strength, scratch);
    else team.launch('curvatureTiles', slots, band.around, from, to, BAND, filter.strength / 6, scratch);
    if (mask !== 0) team.launch('blendTiles', slots, from, to, mask, to);
    [from, to] = [to, from];
  }
  level.field = from;
  pool.give(to, scratch, weights, mask);
}

/** Moves the surface, and leaves what is to be spared of it. A part of it may vanish with its tiles: it is moved as a copy, and both are blended wherever either is. */
function sparing(level: Level, filter: Filter, change: (level: Level) => void): void {
  const mask = maskOf(level, filter);
  if (mask === 0) {
    change(level);
    return;
  }
  const moved = level.copy();
  change(moved);
  level.keep('mask', mask, 1);
  level.blend(moved, 'mask');
  level.drop('mask');
  moved.free();
  level.redistance();
}

/** The mask of what is not thin, kept with the level while its volume is made. */
const MOVED = 'moved';

/**
 * Moves the surface so that it holds so many voxels; what is thin (where that was marked) stays. Returns by how many voxels it was moved outwards; at most `most`. Films that
 * are moved in with the rest are gone first: a third of the thin particles of a splash.
 */
export function keepVolume(level: Level, voxels: number, most: number): number {
  if (level.slots === 0 || voxels <= 0) return 0;
  const mask = maskOf(level, { spareThin: 1, spareWalls: 0 });
  const name = mask === 0 ? null : MOVED;
  if (mask !== 0) level.keep(MOVED, mask, 1);
  const shift = shiftFor(level, voxels, most, name);
  if (Math.abs(shift) > 1e-6) {
    if (name === null) level.offset(shift);
    else {
      const moved = level.copy();
      moved.offset(shift);
      level.blend(moved, name);
      moved.free();
      level.redistance();
    }
  }
  if (name !== null) level.drop(name);
  return shift;
}

function shiftFor(level: Level, voxels: number, most: number, mask: string | null): number {
  let [low, high] = [-most, most];
  if (level.volume(low, mask) >= voxels) return low;
  if (level.volume(high, mask) <= voxels) return high;
  let at = 0;
  for (let n = 0; n < 24; n++) {
    const volume = level.volume(at, mask);
    if (Math.abs(volume - voxels) < 1e-5 * voxels) break;
    if (volume < voxels) low = at;
    else high = at;
    // By the area, which is what a voxel's shift adds; within what is known.
    const area = (level.volume(at + 0.05, mask) - level.volume(at - 0.05, mask)) / 0.1;
    const next = at + (voxels - volume) / Math.max(area, 1e-9);
    at = next > low && next < high ? next : (low + high) / 2;
  }
  return at;
}

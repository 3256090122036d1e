import { type Distance, rigidVelocity, shapeBounds, shapeDistance, shapeTravel } from '#core/geometry';
import { type KernelTeam, type Level, indexOf } from '#core/grid';
import { type Vec3, fractalNoise } from '#core/math';
import type { GasFields } from './fields';
import type { Motion } from './moving';
import type { GasOptions, GasSource } from './options';

/** Voxels (or faces) of one field that a source covers, in the present window. */
interface Cover {
  readonly index: Int32Array;
  /** 0..1: how much of the voxel the source covers. */
  readonly cover: Float32Array;
  /** World positions, metres; x, y, z each. */
  readonly position: Float32Array;
}

export interface PreparedSource {
  readonly source: GasSource;
  /** Whether its shape moves. */
  readonly travels: boolean;
  /** It as it is at a moment. */
  readonly at: (time: number) => GasSource;
  /** Seconds in which it emits. */
  readonly from: number;
  readonly to: number;
  /** Of a source whose shape does not move, in the present window. */
  covers: Covers | null;
}

interface Covers {
  readonly cells: Cover;
  readonly faces: readonly [Cover, Cover, Cover];
}

/** Noise is looked at this many times a substep, so that a fast pattern leaves no bands. */
const SUBSAMPLES = 2;
/** A moving source emits at so many places a substep at most, a voxel apart: it leaves no gaps. */
const PLACES_MOST = 16;

export function prepareSources(options: GasOptions, motion: Motion): PreparedSource[] {
  const { framesPerSecond: fps, firstFrame } = options;
  return options.sources.map((source, n) => ({
    source,
    travels: Object.keys(source.moves).some((path) => path.startsWith('shape.')),
    at: (time) => motion.source(n, time),
    // The state at frame f is reached by the step that ends at (f - first) / fps.
    from: source.from === null ? -Infinity : (source.from - 1 - firstFrame) / fps,
    to: source.to === null ? Infinity : (source.to - firstFrame) / fps,
    covers: null,
  }));
}

/** World voxels that a source can touch during [time, time + dt]: [min, max). */
export function sourceVoxels(
  s: PreparedSource,
  time: number,
  dt: number,
  h: number,
): { min: [number, number, number]; max: [number, number, number] } {
  const boxes = s.travels ? [time, time + dt / 2, time + dt].map((t) => shapeBounds(s.at(t).shape)) : [shapeBounds(s.source.shape)];
  const skin = (s.source.shell ?? 0) / 2;
  const low = (a: 0 | 1 | 2): number => Math.floor((Math.min(...boxes.map((b) => b.min[a])) - skin) / h - 1);
  const high = (a: 0 | 1 | 2): number => Math.ceil((Math.max(...boxes.map((b) => b.max[a])) + skin) / h + 1);
  return { min: [low(0), low(1), low(2)], max: [high(0), high(1), high(2)] };
}

export const emitsDuring = (s: PreparedSource, time: number, dt: number): boolean => time + dt > s.from && time < s.to;

/** Fastest that active sources set or push their gas to, m/s: their own motion, as far as it is passed on, included. */
export function sourceSpeed(sources: readonly PreparedSource[], time: number, dt: number): number {
  let fastest = 0;
  for (const s of sources) {
    if (!emitsDuring(s, time, dt)) continue;
    const now = s.at(time + dt / 2);
    const own = s.travels && now.mode !== 'add' ? Math.abs(now.inherits) * (shapeTravel(s.at(time).shape, s.at(time + dt).shape) / dt) : 0;
    const speed = now.velocity ? Math.max(...now.velocity.map(Math.abs)) : 0;
    fastest = Math.max(fastest, own + (now.mode === 'add' ? speed * dt : speed));
  }
  return fastest;
}

type Emitter = Pick<GasSource, 'shape' | 'shell'>;

function coverOf({ shape, shell }: Emitter, level: Level, status: Uint8Array, h: number, offset: readonly [number, number, number]): Cover {
  const w = level.window;
  const solid = shapeDistance(shape);
  const skin = (shell ?? 0) / 2;
  const distance: Distance = shell === null ? solid : (x, y, z) => Math.abs(solid(x, y, z)) - skin;
  const bounds = shapeBounds(shape);
  const low = (a: 0 | 1 | 2, o: number): number => Math.max(Math.floor((bounds.min[a] - skin) / h - 1), o);
  const high = (a: 0 | 1 | 2, o: number, n: number): number => Math.min(Math.ceil((bounds.max[a] + skin) / h + 1), o + n);
  const index: number[] = [];
  const cover: number[] = [];
  const position: number[] = [];
  for (let k = low(2, w.oz); k < high(2, w.oz, w.nz); k++) {
    for (let j = low(1, w.oy); j < high(1, w.oy, w.ny); j++) {
      for (let i = low(0, w.ox); i < high(0, w.ox, w.nx); i++) {
        const [x, y, z] = [(i + offset[0]) * h, (j + offset[1]) * h, (k + offset[2]) * h];
        const part = Math.min(1, Math.max(0, 0.5 - distance(x, y, z) / h));
        if (part <= 0) continue;
        const at = indexOf(w.nx, w.ny, i - w.ox, j - w.oy, k - w.oz);
        if (status[at] !== 1) continue;
        index.push(at);
        cover.push(part);
        position.push(x, y, z);
      }
    }
  }
  return { index: Int32Array.from(index), cover: Float32Array.from(cover), position: Float32Array.from(position) };
}

const coversOf = (shape: Emitter, level: Level, status: Uint8Array, h: number): Covers => ({
  cells: coverOf(shape, level, status, h, [0.5, 0.5, 0.5]),
  faces: [
    coverOf(shape, level, status, h, [0, 0.5, 0.5]),
    coverOf(shape, level, status, h, [0.5, 0, 0.5]),
    coverOf(shape, level, status, h, [0.5, 0.5, 0]),
  ],
});

/** Forgets the voxels of the last window. */
export function forgetCovers(sources: readonly PreparedSource[]): void {
  for (const s of sources) s.covers = null;
}

/** How much of the emission noise lets through at a place, averaged over the substep. */
function emission(s: GasSource, x: number, y: number, z: number, time: number, dt: number): number {
  const n = s.noise;
  if (!n || n.amount === 0) return 1;
  let sum = 0;
  for (let m = 0; m < SUBSAMPLES; m++) {
    const t = time + ((m + 0.5) / SUBSAMPLES) * dt;
    const value = fractalNoise(x / n.size, y / n.size, z / n.size, t / n.change, n.seed, n.octaves);
    sum += Math.min(1, Math.max(0, 0.5 + 0.9 * value));
  }
  return 1 - n.amount + (2 * n.amount * sum) / SUBSAMPLES;
}

/** New value of a field where a source covers `part` of a voxel; `active` seconds of the substep. */
function emit(s: GasSource, old: number, amount: number, base: number, part: number, active: number): number {
  switch (s.mode) {
    case 'set':
      return old + (base + amount - old) * part;
    case 'add':
      return old + amount * active * part;
    case 'blend':
      return old + (base + amount - old) * part * -Math.expm1(-active / s.blendTime);
  }
}

/** Applies every source that emits during [time, time + dt]. Returns the density it brought, in density x voxels. */
export function applySources(
  team: KernelTeam,
  level: Level,
  fields: GasFields,
  sources: readonly PreparedSource[],
  options: GasOptions,
  time: number,
  dt: number,
): number {
  const size = (level.window.nz + 2) * level.sp;
  const status = team.bytes(level.status, size);
  const h = options.voxelSize;
  let brought = 0;
  for (const s of sources) {
    if (!emitsDuring(s, time, dt)) continue;
    const begin = Math.max(time, s.from);
    const active = Math.min(time + dt, s.to) - begin;
    if (!s.travels) {
      s.covers ??= coversOf(s.source, level, status, h);
      brought += applyAt(team, fields, size, s.at(begin + active / 2), s.covers, null, options, begin, active);
      continue;
    }
    const travel = shapeTravel(s.at(begin).shape, s.at(begin + active).shape);
    const places = Math.min(PLACES_MOST, Math.max(1, Math.ceil(travel / h)));
    for (let n = 0; n < places; n++) {
      const [from, part] = [begin + (active * n) / places, active / places];
      const now = s.at(from + part / 2);
      const own = now.inherits === 0 ? null : rigidVelocity(s.at(from).shape, s.at(from + part).shape, part);
      brought += applyAt(team, fields, size, now, coversOf(now, level, status, h), own, options, from, part);
    }
  }
  return brought;
}

/** One source at one place, for `active` seconds. `own`: velocity of its material. */
function applyAt(
  team: KernelTeam,
  fields: GasFields,
  size: number,
  source: GasSource,
  { cells, faces }: Covers,
  own: ((x: number, y: number, z: number) => Vec3) | null,
  options: GasOptions,
  time: number,
  active: number,
): number {
  const density = team.floats(fields.density, size);
  const temperature = team.floats(fields.temperature, size);
  const fuel = fields.fuel === 0 ? null : team.floats(fields.fuel, size);
  const { ambient } = options.matter;
  let brought = 0;
  for (let n = 0; n < cells.index.length; n++) {
    const at = cells.index[n] ?? 0;
    const part = cells.cover[n] ?? 0;
    const [x, y, z] = [cells.position[3 * n] ?? 0, cells.position[3 * n + 1] ?? 0, cells.position[3 * n + 2] ?? 0];
    const factor = emission(source, x, y, z, time, active);
    if (source.density !== null) {
      const old = density[at] ?? 0;
      density[at] = emit(source, old, source.density * factor, 0, part, active);
      brought += (density[at] ?? 0) - old;
    }
    if (fuel && source.fuel !== null) fuel[at] = emit(source, fuel[at] ?? 0, source.fuel * factor, 0, part, active);
    if (source.heat !== null) temperature[at] = emit(source, temperature[at] ?? 0, source.heat * factor, ambient, part, active);
  }
  const { velocity } = source;
  // Added each second, a velocity is a push; the source's own motion is not one.
  const carried = source.mode === 'add' ? null : own;
  if (!velocity && !carried) return brought;
  [fields.u, fields.v, fields.w].forEach((pointer, n) => {
    const axis = n as 0 | 1 | 2;
    const field = team.floats(pointer, size);
    const { index, cover, position } = faces[axis];
    for (let m = 0; m < index.length; m++) {
      const at = index[m] ?? 0;
      const [x, y, z] = [position[3 * m] ?? 0, position[3 * m + 1] ?? 0, position[3 * m + 2] ?? 0];
      const amount = (velocity?.[axis] ?? 0) + (carried ? source.inherits * carried(x, y, z)[axis] : 0);
      field[at] = emit(source, field[at] ?? 0, amount, 0, cover[m] ?? 0, active);
    }
  });
  return brought;
}

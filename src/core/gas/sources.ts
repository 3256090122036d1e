import { type Distance, shapeBounds, shapeDistance } from '#core/geometry';
import { type KernelTeam, type Level, indexOf } from '#core/grid';
import { fractalNoise } from '#core/math';
import type { GasFields } from './fields';
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
  readonly distance: Distance;
  /** Seconds in which it emits. */
  readonly from: number;
  readonly to: number;
  covers: { readonly cells: Cover; readonly faces: readonly [Cover, Cover, Cover] } | null;
}

/** Noise is looked at this many times a substep, so that a fast pattern leaves no bands. */
const SUBSAMPLES = 2;

export function prepareSources(options: GasOptions): PreparedSource[] {
  const { framesPerSecond: fps, firstFrame } = options;
  return options.sources.map((source) => ({
    source,
    distance: shapeDistance(source.shape),
    // The state at frame f is reached by the step that ends at (f - first) / fps.
    from: source.from === null ? -Infinity : (source.from - 1 - firstFrame) / fps,
    to: source.to === null ? Infinity : (source.to - firstFrame) / fps,
    covers: null,
  }));
}

/** World voxels that a source can touch: [min, max). */
export function sourceVoxels(source: GasSource, h: number): { min: [number, number, number]; max: [number, number, number] } {
  const b = shapeBounds(source.shape);
  const low = (v: number): number => Math.floor(v / h - 1);
  const high = (v: number): number => Math.ceil(v / h + 1);
  return {
    min: [low(b.min[0]), low(b.min[1]), low(b.min[2])],
    max: [high(b.max[0]), high(b.max[1]), high(b.max[2])],
  };
}

export const emitsDuring = (s: PreparedSource, time: number, dt: number): boolean => time + dt > s.from && time < s.to;

/** Fastest that active sources set or push their gas to, m/s, and their largest acceleration. */
export function sourceSpeed(sources: readonly PreparedSource[], time: number, dt: number): number {
  let fastest = 0;
  for (const s of sources) {
    if (!s.source.velocity || !emitsDuring(s, time, dt)) continue;
    const speed = Math.max(...s.source.velocity.map(Math.abs));
    fastest = Math.max(fastest, s.source.mode === 'add' ? speed * dt : speed);
  }
  return fastest;
}

function coverOf(s: PreparedSource, level: Level, status: Uint8Array, h: number, offset: readonly [number, number, number]): Cover {
  const w = level.window;
  const { min, max } = sourceVoxels(s.source, h);
  const index: number[] = [];
  const cover: number[] = [];
  const position: number[] = [];
  for (let k = Math.max(min[2], w.oz); k < Math.min(max[2], w.oz + w.nz); k++) {
    for (let j = Math.max(min[1], w.oy); j < Math.min(max[1], w.oy + w.ny); j++) {
      for (let i = Math.max(min[0], w.ox); i < Math.min(max[0], w.ox + w.nx); i++) {
        const [x, y, z] = [(i + offset[0]) * h, (j + offset[1]) * h, (k + offset[2]) * h];
        const part = Math.min(1, Math.max(0, 0.5 - s.distance(x, y, z) / h));
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
    s.covers ??= {
      cells: coverOf(s, level, status, h, [0.5, 0.5, 0.5]),
      faces: [
        coverOf(s, level, status, h, [0, 0.5, 0.5]),
        coverOf(s, level, status, h, [0.5, 0, 0.5]),
        coverOf(s, level, status, h, [0.5, 0.5, 0]),
      ],
    };
    const active = Math.min(time + dt, s.to) - Math.max(time, s.from);
    const { cells, faces } = s.covers;
    const density = team.floats(fields.density, size);
    const temperature = team.floats(fields.temperature, size);
    for (let n = 0; n < cells.index.length; n++) {
      const at = cells.index[n] ?? 0;
      const part = cells.cover[n] ?? 0;
      const [x, y, z] = [cells.position[3 * n] ?? 0, cells.position[3 * n + 1] ?? 0, cells.position[3 * n + 2] ?? 0];
      const factor = emission(s.source, x, y, z, time, dt);
      if (s.source.density !== null) {
        const old = density[at] ?? 0;
        density[at] = emit(s.source, old, s.source.density * factor, 0, part, active);
        brought += (density[at] ?? 0) - old;
      }
      if (s.source.heat !== null) {
        const ambient = options.matter.ambient;
        temperature[at] = emit(s.source, temperature[at] ?? 0, s.source.heat * factor, ambient, part, active);
      }
    }
    const velocity = s.source.velocity;
    if (!velocity) continue;
    [fields.u, fields.v, fields.w].forEach((pointer, axis) => {
      const field = team.floats(pointer, size);
      const { index, cover } = faces[axis as 0 | 1 | 2];
      const amount = velocity[axis as 0 | 1 | 2];
      for (let n = 0; n < index.length; n++) {
        const at = index[n] ?? 0;
        field[at] = emit(s.source, field[at] ?? 0, amount, 0, cover[n] ?? 0, active);
      }
    });
  }
  return brought;
}

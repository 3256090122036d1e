import type { Distance, Form, Pose } from '#core/geometry';
import { type KernelTeam, type Level, indexOf } from '#core/grid';
import { type Vec3, fractalNoise } from '#core/math';
import type { GasFields } from './fields';
import type { Motion, PlacedSource } from './moving';
import type { GasOptions, GasSource, Stir, Turbulence } from './options';
import { noisesOf, turbulenceAt } from './turbulence';

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
  readonly at: (time: number) => PlacedSource;
  readonly form: Form;
  /** Seconds in which it emits. */
  readonly from: number;
  readonly to: number;
  /** Of a source whose shape does not move, in the present window. */
  covers: Covers | null;
  readonly stirred: readonly [Float32Array, Float32Array] | null;
  /** What is left of contact, 0 to 1, by world voxel; null: it leaves no trail. */
  readonly trail: Map<number, number> | null;
}

/** A trail that is weaker than this has ended. */
const TRAIL_ENDS = 0.01;
/** 17 bits a coordinate: world voxels +-65536, exact in a double. */
const SPAN = 2 ** 17;
const voxelKey = (x: number, y: number, z: number): number => ((x + SPAN / 2) * SPAN + (y + SPAN / 2)) * SPAN + (z + SPAN / 2);
const voxelOfKey = (key: number): [number, number, number] => [
  Math.floor(key / (SPAN * SPAN)) - SPAN / 2,
  (Math.floor(key / SPAN) % SPAN) - SPAN / 2,
  (key % SPAN) - SPAN / 2,
];

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
    travels: motion.travels(n),
    at: (time) => motion.source(n, time),
    form: motion.sourceForm(n),
    // The state at frame f is reached by the step that ends at (f - first) / fps.
    from: source.from === null ? -Infinity : (source.from - 1 - firstFrame) / fps,
    to: source.to === null ? Infinity : (source.to - firstFrame) / fps,
    covers: null,
    stirred: source.stir && noisesOf(asTurbulence(source.stir)),
    trail: source.contact && source.contact.trail !== null ? new Map<number, number>() : null,
  }));
}

/** A stirring as the turbulence that it is made of. */
const asTurbulence = ({ speed, ...stir }: Stir): Turbulence => ({ strength: speed, ...stir });

/** World voxels that a source can touch during [time, time + dt]: [min, max). */
export function sourceVoxels(
  s: PreparedSource,
  time: number,
  dt: number,
  h: number,
): { min: [number, number, number]; max: [number, number, number] } {
  const moments = s.travels ? [time, time + dt / 2, time + dt] : [time];
  const boxes = moments.map((t) => s.form.bounds(s.at(t).pose));
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
    const now = s.at(time + dt / 2).source;
    const own = s.travels && now.mode !== 'add' ? Math.abs(now.inherits) * (s.form.travel(s.at(time).pose, s.at(time + dt).pose) / dt) : 0;
    // A peak of curl noise is about three times its root mean square.
    const speed = (now.velocity ? Math.max(...now.velocity.map(Math.abs)) : 0) + 3 * (now.stir?.speed ?? 0);
    fastest = Math.max(fastest, own + (now.mode === 'add' ? speed * dt : speed));
  }
  return fastest;
}

/** Where a source is, and the skin that it emits from. */
interface Emitter {
  readonly form: Form;
  readonly pose: Pose;
  readonly shell: number | null;
}

/** Voxels that balls cover: each writes those of its own neighbourhood, the nearest ball of a voxel counts. */
function coverOfBalls(
  { middles, radii }: { readonly middles: Float32Array; readonly radii: Float32Array },
  level: Level,
  status: Uint8Array,
  h: number,
  offset: readonly [number, number, number],
): Cover {
  const w = level.window;
  const parts = new Map<number, number>();
  for (let n = 0; n < radii.length; n++) {
    const r = radii[n] ?? 0;
    const p = [middles[3 * n] ?? 0, middles[3 * n + 1] ?? 0, middles[3 * n + 2] ?? 0] as const;
    const low = (a: 0 | 1 | 2, o: number): number => Math.max(o, Math.ceil((p[a] - r) / h - 0.5 - offset[a]));
    const high = (a: 0 | 1 | 2, o: number, size: number): number => Math.min(o + size - 1, Math.floor((p[a] + r) / h + 0.5 - offset[a]));
    const [i1, j1, k1] = [high(0, w.ox, w.nx), high(1, w.oy, w.ny), high(2, w.oz, w.nz)];
    for (let k = low(2, w.oz); k <= k1; k++) {
      for (let j = low(1, w.oy); j <= j1; j++) {
        for (let i = low(0, w.ox); i <= i1; i++) {
          const [dx, dy, dz] = [(i + offset[0]) * h - p[0], (j + offset[1]) * h - p[1], (k + offset[2]) * h - p[2]];
          const part = Math.min(1, 0.5 - (Math.sqrt(dx * dx + dy * dy + dz * dz) - r) / h);
          if (part <= 0) continue;
          const at = indexOf(w.nx, w.ny, i - w.ox, j - w.oy, k - w.oz);
          if (status[at] === 1 && part > (parts.get(at) ?? 0)) parts.set(at, part);
        }
      }
    }
  }
  const index = Int32Array.from(parts.keys());
  const position = new Float32Array(index.length * 3);
  index.forEach((at, n) => {
    const rest = at - 4;
    const i = rest % level.sx;
    const row = Math.floor(rest / level.sx);
    const place = [i + w.ox, (row % (w.ny + 2)) - 1 + w.oy, Math.floor(row / (w.ny + 2)) - 1 + w.oz];
    place.forEach((v, a) => (position[3 * n + a] = (v + (offset[a] ?? 0)) * h));
  });
  return { index, cover: Float32Array.from(parts.values()), position };
}

function coverOf(
  { form, pose, shell }: Emitter,
  level: Level,
  status: Uint8Array,
  h: number,
  offset: readonly [number, number, number],
): Cover {
  if (form.balls && shell === null) return coverOfBalls(form.balls(pose), level, status, h, offset);
  const w = level.window;
  const solid = form.distance(pose);
  const skin = (shell ?? 0) / 2;
  const distance: Distance = shell === null ? solid : (x, y, z) => Math.abs(solid(x, y, z)) - skin;
  const bounds = form.bounds(pose);
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

const coversOf = (emitter: Emitter, level: Level, status: Uint8Array, h: number): Covers => ({
  cells: coverOf(emitter, level, status, h, [0.5, 0.5, 0.5]),
  faces: [
    coverOf(emitter, level, status, h, [0, 0.5, 0.5]),
    coverOf(emitter, level, status, h, [0.5, 0, 0.5]),
    coverOf(emitter, level, status, h, [0.5, 0.5, 0]),
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
  solids: (time: number) => Distance,
): number {
  const size = (level.window.nz + 2) * level.sp;
  const status = team.bytes(level.status, size);
  const h = options.voxelSize;
  let brought = 0;
  for (const s of sources) {
    if (!emitsDuring(s, time, dt)) continue;
    const begin = Math.max(time, s.from);
    const active = Math.min(time + dt, s.to) - begin;
    const near = s.source.contact ? nearness(solids(begin + active), s.source.contact.reach) : null;
    const more: Extra = { near, stirred: s.stirred, wind: options.forces.wind };
    if (s.trail) brought += emitTrail(s, team, level, fields, size, status, options, begin, active, near);
    if (!s.travels) {
      const { source, pose } = s.at(begin + active / 2);
      s.covers ??= coversOf({ form: s.form, pose, shell: source.shell }, level, status, h);
      brought += applyAt(team, level, fields, size, source, s.covers, null, options, begin, active, more);
      if (s.trail && near) touch(s.trail, s.covers.cells, near, h);
      continue;
    }
    const travel = s.form.travel(s.at(begin).pose, s.at(begin + active).pose);
    const places = Math.min(PLACES_MOST, Math.max(1, Math.ceil(travel / h)));
    for (let n = 0; n < places; n++) {
      const [from, part] = [begin + (active * n) / places, active / places];
      const { source, pose } = s.at(from + part / 2);
      const own = source.inherits === 0 ? null : s.form.velocity(s.at(from).pose, s.at(from + part).pose, part);
      const covers = coversOf({ form: s.form, pose, shell: source.shell }, level, status, h);
      brought += applyAt(team, level, fields, size, source, covers, own, options, from, part, more);
      if (s.trail && near) touch(s.trail, covers.cells, near, h);
    }
  }
  return brought;
}

/** What decides besides about what a source gives. */
interface Extra {
  /** Emission near solids, 0 to 1; null: everywhere. */
  readonly near: ((x: number, y: number, z: number) => number) | null;
  readonly stirred: readonly [Float32Array, Float32Array] | null;
  readonly wind: Vec3;
}

/** 1 at the surface of a solid (and inside), 0 at the reach. */
const nearness =
  (solids: Distance, reach: number) =>
  (x: number, y: number, z: number): number => {
    const t = Math.min(1, Math.max(0, 1 - solids(x, y, z) / reach));
    return t * t * (3 - 2 * t);
  };

/** Marks the voxels that are touched now. */
function touch(trail: Map<number, number>, cells: Cover, near: (x: number, y: number, z: number) => number, h: number): void {
  for (let n = 0; n < cells.index.length; n++) {
    const [x, y, z] = [cells.position[3 * n] ?? 0, cells.position[3 * n + 1] ?? 0, cells.position[3 * n + 2] ?? 0];
    const mark = (cells.cover[n] ?? 0) * near(x, y, z);
    if (mark < TRAIL_ENDS) continue;
    const key = voxelKey(Math.floor(x / h), Math.floor(y / h), Math.floor(z / h));
    if (mark > (trail.get(key) ?? 0)) trail.set(key, mark);
  }
}

/** Emits where contact has been, and lets it fade. Returns the density that it brought. */
function emitTrail(
  s: PreparedSource,
  team: KernelTeam,
  level: Level,
  fields: GasFields,
  size: number,
  status: Uint8Array,
  options: GasOptions,
  time: number,
  active: number,
  near: ((x: number, y: number, z: number) => number) | null,
): number {
  const { trail } = s;
  const seconds = s.source.contact?.trail ?? null;
  if (!trail || seconds === null) return 0;
  const w = level.window;
  const h = options.voxelSize;
  const { source, pose } = s.at(time + active / 2);
  const inside = s.form.distance(pose);
  const density = team.floats(fields.density, size);
  const temperature = team.floats(fields.temperature, size);
  const keep = Math.exp(-active / seconds);
  let brought = 0;
  for (const [key, mark] of trail) {
    const left = mark * keep;
    if (left < TRAIL_ENDS) {
      trail.delete(key);
      continue;
    }
    trail.set(key, left);
    const [x, y, z] = voxelOfKey(key);
    const [i, j, k] = [x - w.ox, y - w.oy, z - w.oz];
    if (i < 0 || j < 0 || k < 0 || i >= w.nx || j >= w.ny || k >= w.nz) continue;
    const at = indexOf(w.nx, w.ny, i, j, k);
    if (status[at] !== 1) continue;
    const [px, py, pz] = [(x + 0.5) * h, (y + 0.5) * h, (z + 0.5) * h];
    // What is in touch now emits by itself.
    const now = near && inside(px, py, pz) < 0 ? near(px, py, pz) : 0;
    if (left <= now) continue;
    const factor = emission(source, px, py, pz, time, active) * (left - now);
    if (source.density !== null) {
      const old = density[at] ?? 0;
      // Held amounts only fill up: a trail that fades must not take away what is there.
      const next = emit(source, old, source.density * factor, 0, 1, active);
      density[at] = source.mode === 'add' ? next : Math.max(old, next);
      brought += (density[at] ?? 0) - old;
    }
    if (source.heat !== null && source.mode === 'add')
      temperature[at] = emit(source, temperature[at] ?? 0, source.heat * factor, 0, 1, active);
  }
  return brought;
}

/** One source at one place, for `active` seconds. `own`: velocity of its material. */
function applyAt(
  team: KernelTeam,
  level: Level,
  fields: GasFields,
  size: number,
  source: GasSource,
  { cells, faces }: Covers,
  own: ((x: number, y: number, z: number) => Vec3) | null,
  options: GasOptions,
  time: number,
  active: number,
  { near, stirred, wind }: Extra,
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
    const factor = emission(source, x, y, z, time, active) * (near ? near(x, y, z) : 1);
    if (factor === 0 && near) continue;
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
  const { stir, byDensity } = source;
  if (!velocity && !carried && !stir) return brought;
  const steps = [1, level.sx, level.sp] as const;
  const turbulence = stir && asTurbulence(stir);
  [fields.u, fields.v, fields.w].forEach((pointer, n) => {
    const axis = n as 0 | 1 | 2;
    const field = team.floats(pointer, size);
    const { index, cover, position } = faces[axis];
    for (let m = 0; m < index.length; m++) {
      const at = index[m] ?? 0;
      const [x, y, z] = [position[3 * m] ?? 0, position[3 * m + 1] ?? 0, position[3 * m + 2] ?? 0];
      let amount = (velocity?.[axis] ?? 0) + (carried ? source.inherits * carried(x, y, z)[axis] : 0);
      if (turbulence && stirred) amount += turbulenceAt(stirred, turbulence, [x, y, z], wind, time + active / 2)[axis];
      let part = cover[m] ?? 0;
      if (near) part *= near(x, y, z);
      if (byDensity) part *= Math.min(1, 0.5 * ((density[at] ?? 0) + (density[at - steps[axis]] ?? 0)));
      if (part > 0) field[at] = emit(source, field[at] ?? 0, amount, 0, part, active);
    }
  });
  return brought;
}

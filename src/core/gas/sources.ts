import {
  type Covers,
  type Motion,
  type PlacedSource,
  type Turbulence,
  actingOf,
  actsDuring,
  coversIn,
  extentsOf,
  noisesOf,
  turbulenceAt,
} from '#core/flow';
import { type Distance, type Picture, throughPicture } from '#core/geometry';
import type { Vec3 } from '#core/math';
import { Dyeing, type Factor, emit, keptOf, nearness, product } from './emission';
import { type GasOptions, type Stir, type GasSource, type GasMatter } from './options';
import type { PreparedSource, Emitting } from './prepared';
import type { Amounts } from './report';
import { emitTrail, touch } from './trail';

/** A moving source emits at so many places a substep at most, a voxel apart: it leaves no gaps. */
const PLACES_MOST = 16;

export function prepareSources(
  options: GasOptions,
  motion: Motion<GasSource, GasMatter>,
  pictures: (hash: string) => Picture,
): PreparedSource[] {
  return options.sources.map((source, n) => ({
    source,
    travels: motion.travels(n),
    at: (time) => motion.source(n, time),
    form: motion.sourceForm(n),
    picture: source.mask && pictures(source.mask.picture),
    ...actingOf(source, options),
    extents: null,
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

/** Fastest that active sources set or push their gas to, m/s: their own motion, as far as it is passed on, included. */
export function sourceSpeed(sources: readonly PreparedSource[], time: number, dt: number): number {
  let fastest = 0;
  for (const s of sources) {
    if (!actsDuring(s, time, dt)) continue;
    const now = s.at(time + dt / 2).source;
    const own = s.travels && now.mode !== 'add' ? Math.abs(now.inherits) * (s.form.travel(s.at(time).pose, s.at(time + dt).pose) / dt) : 0;
    // A peak of curl noise is about three times its root mean square.
    const speed = (now.velocity ? Math.max(...now.velocity.map(Math.abs)) : 0) + 3 * (now.stir?.speed ?? 0);
    fastest = Math.max(fastest, own + (now.mode === 'add' ? speed * dt : speed));
  }
  return fastest;
}

/** Forgets the voxels of the last window. */
export function forgetCovers(sources: readonly PreparedSource[]): void {
  for (const s of sources) s.covers = null;
}

/** Applies every source that emits during [time, time + dt]. Returns what they brought, x voxels. */
export function applySources(
  emitting: Emitting,
  sources: readonly PreparedSource[],
  time: number,
  dt: number,
  solids: (time: number) => Distance,
): Amounts {
  const { team, level, limit, options, size } = emitting;
  const status = team.bytes(level.status, size);
  const h = options.voxelSize;
  const brought = { mass: 0, heat: 0 };
  const bring = (more: Amounts): void => {
    brought.mass += more.mass;
    brought.heat += more.heat;
  };
  for (const s of sources) {
    if (!actsDuring(s, time, dt)) continue;
    const begin = Math.max(time, s.from);
    const active = Math.min(time + dt, s.to) - begin;
    const near = s.source.contact ? nearness(solids(begin + active), s.source.contact.reach) : null;
    if (s.trail) bring(emitTrail(emitting, s, s.trail, begin, active, near));
    const travel = s.travels ? s.form.travel(s.at(begin).pose, s.at(begin + active).pose) : 0;
    const places = Math.min(PLACES_MOST, Math.max(1, Math.ceil(travel / h)));
    for (let n = 0; n < places; n++) {
      const [from, part] = [begin + (active * n) / places, active / places];
      const placed = s.at(from + part / 2);
      const { source, pose } = placed;
      const moves = s.travels && source.inherits !== 0;
      const own = moves ? s.form.velocity(s.at(from).pose, s.at(from + part).pose, part) : null;
      const extents = s.extents ?? extentsOf({ form: s.form, pose, shell: source.shell }, limit, h);
      const covers = s.covers ?? coversIn(extents, level, status);
      if (!s.travels) [s.extents, s.covers] = [extents, covers];
      const mask = source.mask && s.picture && throughPicture(source.mask, s.picture, pose.shape, s.form.bounds(pose));
      bring(applyAt(emitting, s, placed, covers, own, from, part, product([near, mask])));
      if (s.trail && near) touch(s.trail, covers.cells, near, h);
    }
  }
  return brought;
}

/** One source at one place, for `active` seconds. `own`: velocity of its material; `where`: how much it emits at a place. */
function applyAt(
  { team, level, fields, options, size, noise, drift }: Emitting,
  { form, stirred }: PreparedSource,
  { source, pose }: PlacedSource<GasSource>,
  { cells, faces }: Covers,
  own: ((x: number, y: number, z: number) => Vec3) | null,
  time: number,
  active: number,
  where: Factor | null,
): Amounts {
  const density = team.floats(fields.density, size);
  const temperature = team.floats(fields.temperature, size);
  const fuel = fields.fuel === 0 ? null : team.floats(fields.fuel, size);
  const dyeing = new Dyeing(team, fields, size, source, form, pose);
  const { ambient } = options.matter;
  const brought = { mass: 0, heat: 0 };
  const through = noise.at(cells.position, source, time, active);
  for (let n = 0; n < cells.index.length; n++) {
    const at = cells.index[n] ?? 0;
    const part = cells.cover[n] ?? 0;
    const [x, y, z] = [cells.position[3 * n] ?? 0, cells.position[3 * n + 1] ?? 0, cells.position[3 * n + 2] ?? 0];
    const factor = (through?.[n] ?? 1) * (where ? where(x, y, z) : 1);
    if (factor === 0 && where) continue;
    if (source.density !== null) {
      const old = density[at] ?? 0;
      const next = emit(source, old, source.density * factor, 0, part, active);
      density[at] = next;
      dyeing.apply(at, old, next, keptOf(source, old, next, source.density * factor, part, active), x, y, z);
      brought.mass += (density[at] ?? 0) - old;
    }
    if (fuel && source.fuel !== null) fuel[at] = emit(source, fuel[at] ?? 0, source.fuel * factor, 0, part, active);
    if (source.heat !== null) {
      const old = temperature[at] ?? 0;
      temperature[at] = emit(source, old, source.heat * factor, ambient, part, active);
      brought.heat += (temperature[at] ?? 0) - old;
    }
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
      if (turbulence && stirred) amount += turbulenceAt(stirred, turbulence, [x, y, z], drift, time + active / 2)[axis];
      let part = cover[m] ?? 0;
      if (where) part *= where(x, y, z);
      if (byDensity) part *= Math.min(1, 0.5 * ((density[at] ?? 0) + (density[at - steps[axis]] ?? 0)));
      if (part > 0) field[at] = emit(source, field[at] ?? 0, amount, 0, part, active);
    }
  });
  return brought;
}

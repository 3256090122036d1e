import { type Cover } from '#core/flow';
import { indexOf } from '#core/grid';
import { Dyeing, type Factor, emission, emit } from './emission';
import type { PreparedSource, Emitting } from './prepared';
import type { Amounts } from './report';

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

/** Marks the voxels that are touched now. */
export function touch(trail: Map<number, number>, cells: Cover, near: Factor, h: number): void {
  for (let n = 0; n < cells.index.length; n++) {
    const [x, y, z] = [cells.position[3 * n] ?? 0, cells.position[3 * n + 1] ?? 0, cells.position[3 * n + 2] ?? 0];
    const mark = (cells.cover[n] ?? 0) * near(x, y, z);
    if (mark < TRAIL_ENDS) continue;
    const key = voxelKey(Math.floor(x / h), Math.floor(y / h), Math.floor(z / h));
    if (mark > (trail.get(key) ?? 0)) trail.set(key, mark);
  }
}

/** Emits where contact has been, and lets it fade. Returns what it brought. */
export function emitTrail(
  { team, level, fields, options, size }: Emitting,
  s: PreparedSource,
  trail: Map<number, number>,
  time: number,
  active: number,
  near: Factor | null,
): Amounts {
  const seconds = s.source.contact?.trail ?? null;
  const brought = { mass: 0, heat: 0 };
  if (seconds === null) return brought;
  const w = level.window;
  const h = options.voxelSize;
  const { source, pose } = s.at(time + active / 2);
  const inside = s.form.distance(pose);
  const status = team.bytes(level.status, size);
  const density = team.floats(fields.density, size);
  const temperature = team.floats(fields.temperature, size);
  const dyeing = new Dyeing(team, fields, size, source, s.form, pose);
  const keep = Math.exp(-active / seconds);
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
      const given = emit(source, old, source.density * factor, 0, 1, active);
      const next = source.mode === 'add' ? given : Math.max(old, given);
      density[at] = next;
      dyeing.apply(at, old, next, Math.min(old, next), px, py, pz);
      brought.mass += (density[at] ?? 0) - old;
    }
    if (source.heat !== null && source.mode === 'add') {
      const old = temperature[at] ?? 0;
      temperature[at] = emit(source, old, source.heat * factor, 0, 1, active);
      brought.heat += (temperature[at] ?? 0) - old;
    }
  }
  return brought;
}

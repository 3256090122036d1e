import type { Distance, Form, Pose } from '#core/geometry';
import type { KernelTeam } from '#core/grid';
import { fractalNoise } from '#core/math';
import { carriedFields, dyeOf } from './carried';
import type { GasFields } from './fields';
import type { GasSource } from './options';

/** Noise is looked at this many times a substep, so that a fast pattern leaves no bands. */
export const SUBSAMPLES = 2;

/** A factor on what is emitted at a place, 0 to 1. */
export type Factor = (x: number, y: number, z: number) => number;

/** How much of the emission noise lets through at a place, averaged over the substep. */
export function emission(s: GasSource, x: number, y: number, z: number, time: number, dt: number): number {
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

/**
 * A voxel that a source covers in part holds its amount in that part; the rest is what the voxel had outside of it. That cannot be told apart, so: no less
 * than the source's share, nothing given where there is more but not more than the source itself has, and what is beyond that comes closer by the share.
 * However often it is applied, still gas beside a source keeps the source's own amount.
 */
function held(old: number, base: number, amount: number, part: number): number {
  const [now, sign] = [old - base, amount < 0 ? -1 : 1];
  const [has, wanted] = [now * sign, amount * sign];
  if (has < wanted * part) return base + amount * part;
  return has <= wanted ? old : old + (base + amount - old) * part;
}

/** New value of a field where a source covers `part` of a voxel; `active` seconds of the substep. */
export function emit(s: GasSource, old: number, amount: number, base: number, part: number, active: number): number {
  switch (s.mode) {
    case 'set':
      return held(old, base, amount, part);
    case 'add':
      return old + amount * active * part;
    case 'blend':
      return old + (base + amount - old) * part * -Math.expm1(-active / s.blendTime);
  }
}

/** 1 at the surface of a solid (and inside), 0 at the reach. */
export const nearness =
  (solids: Distance, reach: number): Factor =>
  (x, y, z) => {
    const t = Math.min(1, Math.max(0, 1 - solids(x, y, z) / reach));
    return t * t * (3 - 2 * t);
  };

/** All of them together; null: none is anything but 1. */
export function product(factors: readonly (Factor | null)[]): Factor | null {
  const some = factors.filter((f) => f !== null);
  if (some.length < 2) return some[0] ?? null;
  return (x, y, z) => some.reduce((p, f) => p * f(x, y, z), 1);
}

/**
 * What rides on the density at the voxels of one source: amounts follow every change of the density, so that mixing, draining and adding need no rules of
 * their own.
 */
export class Dyeing {
  readonly #fields: readonly Float32Array[];
  readonly #value: Float64Array;
  readonly #dye: ReturnType<typeof dyeOf>;

  constructor(team: KernelTeam, fields: GasFields, size: number, source: GasSource, form: Form, pose: Pose) {
    this.#fields = carriedFields(fields)
      .flat()
      .map((field) => team.floats(field, size));
    this.#value = new Float64Array(this.#fields.length);
    this.#dye = this.#fields.length === 0 ? null : dyeOf(fields, source.colour, pose.shape, form.bounds(pose));
  }

  /** The density of a voxel has become `now`: `kept` of what was there is still in it, the rest is the source's. */
  apply(at: number, was: number, now: number, kept: number, x: number, y: number, z: number): void {
    if (!this.#dye) return;
    this.#dye(x, y, z, this.#value);
    const share = was > 0 ? kept / was : 0;
    const given = now - kept;
    for (let n = 0; n < this.#fields.length; n++) {
      const field = this.#fields[n] as Float32Array;
      field[at] = (field[at] ?? 0) * share + given * (this.#value[n] ?? 0);
    }
  }
}

/** How much of what a voxel held is still in it after a source that covers `part` of it gave its `amount`. */
export function keptOf(s: GasSource, old: number, now: number, amount: number, part: number, active: number): number {
  switch (s.mode) {
    case 'set':
      return Math.min(now, Math.max(0, now - amount * part));
    case 'add':
      // Added or drained: all of it, or what was left.
      return Math.min(old, now);
    case 'blend':
      return old * (1 + part * Math.expm1(-active / s.blendTime));
  }
}

import type { SolverSeconds } from '#core/flow';
import { type Box3, type Distance, type Shape, isAnimated, sameShape } from '#core/geometry';
import { type Vec3, hash3 } from '#core/math';
import { type Fibres, fibresAlong, fibresWithin } from './fibres';
import type { LiquidSource } from './options';
import { CLEAR, type Given, type Seeding, type Speed, addParticles, boxInVoxels, eachNear, speedOf, surfaceOf } from './seeds';
import { type Stream, streamOf } from './stream';

/** Why a source gives less than it was asked for. */
export type Held = 'wall' | 'outside' | 'full' | 'many';

/** What a source was asked for since the start and has given, voxels; what is missing is carried over. */
export interface Account {
  asked: number;
  given: number;
  /** Where in their turns its fibres are, 0 to 1. */
  turn: number;
  /** What held it up last; null: nothing is missing. */
  held: Held | null;
}

/** Most particles that a source gives in a substep: what is more waits. */
const MOST_BIRTHS = 2e6;
/** What is missing is given as fast as what is asked for, beside it. */
const CATCHING_UP = 1;

/** An emitting source at a moment. */
interface Mouth {
  readonly source: LiquidSource;
  readonly stream: Stream;
  readonly inside: Distance;
  readonly bounds: Box3;
  readonly middle: Vec3;
  readonly fibres: Fibres;
  readonly ring: Ring;
  /** Along its direction, m/s. */
  readonly speed: number;
  /** Of the liquid that comes out, m/s. */
  readonly velocity: Speed;
}

/** What a source gave in a substep, and where: world voxels, x y z each, of `each` voxels. */
export interface Born extends Given {
  readonly places: Float64Array;
  readonly each: number;
}

const NOTHING: Born = { particles: 0, volume: 0, places: new Float64Array(0), each: 0 };

/** Fibres of shapes that only move, or stand, are found once. */
export class Emitters {
  readonly #known = new Map<number, { readonly shape: Shape; readonly direction: Vec3 | null; readonly fibres: Fibres }>();

  constructor(readonly accounts: Account[]) {}

  #fibres(index: number, { shape, direction }: Stream, animated: boolean, make: () => Fibres): Fibres {
    const known = this.#known.get(index);
    const same = known && !animated && sameShape(known.shape, { ...shape, centre: known.shape.centre });
    if (known && same && String(known.direction) === String(direction)) return known.fibres;
    const fibres = make();
    this.#known.set(index, { shape, direction, fibres });
    return fibres;
  }

  /** A source as it emits at a moment; null: it has neither a velocity nor a rate. */
  #mouth(seeding: Seeding, index: number, time: SolverSeconds, dt: number): Mouth | null {
    const { options, motion } = seeding;
    // Where it is at the beginning, and what it asks for in the middle: of a number that moves evenly that is exact.
    const { pose } = motion.source(index, time);
    const { source } = motion.source(index, time + dt / 2);
    const spacing = options.voxelSize / options.particles.along;
    const found = (stream: Stream, which: number): { inside: Distance; bounds: Box3; fibres: Fibres } => {
      const { inside, bounds } = surfaceOf(seeding, index, { source, pose: { ...pose, shape: stream.shape } });
      const { direction } = stream;
      const fibres = this.#fibres(2 * index + which, stream, isAnimated(stream.shape), () =>
        direction === null ? fibresWithin(inside, bounds, spacing) : fibresAlong(inside, bounds, direction, spacing),
      );
      return { inside, bounds, fibres };
    };
    let stream = streamOf(pose.shape, source);
    if (stream.direction && (pose.shape.kind === 'mesh' || source.shell !== null)) {
      const own = found({ ...stream, shape: pose.shape }, 0).fibres;
      stream = streamOf(pose.shape, source, own.total * own.spacing ** 2);
    }
    if (!(stream.rate > 0)) return null;
    const { inside, bounds, fibres } = found(stream, 1);
    const middle = ([0, 1, 2] as const).map((a) => (bounds.min[a] + bounds.max[a]) / 2) as unknown as Vec3;
    const ring = openFibres(fibres, middle, (x, y, z) => heldAt(seeding, x, y, z));
    // All of the rate through what is open of the mouth.
    const speed = ring.total > 0 ? (stream.speed * fibres.total) / ring.total : 0;
    const own = speedOf(seeding, index, { ...source, velocity: [0, 0, 0] }, time, dt);
    const noise = speedOf(seeding, index, { ...source, velocity: [1, 0, 0], inherits: 0 }, time, dt);
    const { direction } = stream;
    // Outward so that every part of the inside has the same divergence: that of the rate over the volume.
    const spread = stream.rate / Math.max(1e-30, 3 * fibres.total * fibres.spacing ** 3);
    const velocity: Speed = (x, y, z) => {
      const [along, carried] = [noise(x, y, z)[0], own(x, y, z)];
      const [a, b, c] = direction ?? [x - middle[0], y - middle[1], z - middle[2]];
      const by = along * (direction ? speed : spread);
      return [carried[0] + by * a, carried[1] + by * b, carried[2] + by * c];
    };
    return { source, stream, inside, bounds, middle, fibres, ring, speed, velocity };
  }

  /**
   * What a source gives during [time, time + dt]: its rate, to one particle, whatever lies in its shape. What has no room there pushes (step.ts). `full`: the liquid
   * has no surface left to make room.
   */
  give(seeding: Seeding, index: number, time: SolverSeconds, dt: number, salt: number, full: boolean): Born {
    const { options } = seeding;
    const account = (this.accounts[index] ??= { asked: 0, given: 0, turn: 0, held: null });
    const mouth = this.#mouth(seeding, index, time, dt);
    if (!mouth) return NOTHING;
    hold(seeding, mouth);
    const h = options.voxelSize;
    const n = options.particles.along;
    const each = 1 / n ** 3;
    const { ring, fibres, middle, velocity, source, speed, stream } = mouth;
    const asked = (stream.rate * dt) / h ** 3;
    const owed = account.asked - account.given;
    account.asked += asked;
    if (full || ring.total === 0) {
      account.held = full ? 'full' : ring.why;
      return NOTHING;
    }
    const due = Math.min(owed + asked, asked * (1 + CATCHING_UP) + each);
    const count = Math.min(MOST_BIRTHS, Math.floor(due / each + 1e-6));
    const { direction } = stream;
    const { jitter, seed } = options.particles;
    const places: number[] = [];
    const motions: number[] = [];
    const start = account.turn * ring.total;
    for (let k = 1; k <= count; k++) {
      const f = ring.at(start + k);
      const begins = ([0, 1, 2] as const).map((a) => middle[a] + (fibres.places[3 * f + a] ?? 0)) as unknown as Vec3;
      const stir = (jitter * (fibres.covers[f] ?? 1) * h) / n;
      const on = direction ? speed * dt * (1 - Math.max(0, Math.min(1, (k * each - owed) / asked))) : 0;
      let at = ([0, 1, 2] as const).map(
        (a) => begins[a] + (direction?.[a] ?? 0) * on + (hash3(f, k, salt, seed + 1 + a) / 4294967296 - 0.5) * stir,
      ) as unknown as Vec3;
      if (heldAt(seeding, ...at) !== null) at = begins;
      const v = velocity(...at);
      for (const a of [0, 1, 2] as const) {
        places.push(at[a] / h);
        motions.push(v[a] - seeding.pull[a]);
      }
    }
    account.given += count * each;
    account.turn = ((start + count) / ring.total) % 1;
    const missing = account.asked - account.given;
    account.held = missing < 1.5 * each ? null : count === MOST_BIRTHS ? 'many' : account.held;
    addParticles(seeding, places, motions, new Array<number>(count).fill(each), viscosityOf(seeding, source), index);
    return { particles: count, volume: count * each, places: Float64Array.from(places), each };
  }

  /** What lies in the mouth of a source moves as it says: in `motions`, velocities of the particles at a moment. */
  holdAt(seeding: Seeding, index: number, time: SolverSeconds, dt: number, motions: Float32Array): void {
    const mouth = this.#mouth(seeding, index, time, dt);
    if (mouth) eachHeld(seeding, mouth, [0, 0, 0], motions, () => undefined);
  }
}

const viscosityOf = ({ options }: Seeding, source: LiquidSource): number => source.viscosity ?? options.matter.viscosity;

/** Why nothing can begin at a place; null: it can. */
function heldAt({ options, open }: Seeding, x: number, y: number, z: number): Held | null {
  const { min, max } = options.bounds.limit;
  if (x < min[0] || y < min[1] || z < min[2] || x > max[0] || y > max[1] || z > max[2]) return 'outside';
  return open(x, y, z) < CLEAR * options.voxelSize ? 'wall' : null;
}

/** What lies in the mouth gets its velocity for the coming substep. */
function hold(seeding: Seeding, mouth: Mouth): void {
  const { particles, team } = seeding;
  const affine = particles.affine === 0 ? null : team.floats(particles.affine, particles.count * 12);
  eachHeld(seeding, mouth, seeding.pull, particles.motionFloats, (p) => affine?.fill(0, 12 * p, 12 * p + 12));
}

/** `lacks`: what a velocity lacks to be that of the moment, m/s. */
function eachHeld(
  seeding: Seeding,
  { inside, bounds, velocity }: Mouth,
  lacks: Vec3,
  motions: Float32Array,
  visit: (particle: number) => void,
): void {
  const h = seeding.options.voxelSize;
  const { min, max } = boxInVoxels(bounds, h);
  const places = seeding.particles.placeFloats;
  eachNear(seeding, min, max, (p) => {
    const [x, y, z] = [(places[4 * p] ?? 0) * h, (places[4 * p + 1] ?? 0) * h, (places[4 * p + 2] ?? 0) * h];
    if (inside(x, y, z) > 0) return;
    const v = velocity(x, y, z);
    for (const a of [0, 1, 2] as const) motions[4 * p + a] = v[a] - lacks[a];
    visit(p);
  });
}

interface Ring {
  readonly total: number;
  readonly why: Held;
  /** The fibre at a place of the ring, from 0 up, any number of times around. */
  readonly at: (place: number) => number;
}

/** The fibres that are open, each as long on a ring as it covers. */
function openFibres({ places, covers }: Fibres, middle: Vec3, held: (x: number, y: number, z: number) => Held | null): Ring {
  const index: number[] = [];
  const ends: number[] = [];
  let [total, why]: [number, Held] = [0, 'wall'];
  for (let f = 0; f < covers.length; f++) {
    const by = held(middle[0] + (places[3 * f] ?? 0), middle[1] + (places[3 * f + 1] ?? 0), middle[2] + (places[3 * f + 2] ?? 0));
    if (by !== null) {
      why = by;
      continue;
    }
    total += covers[f] ?? 0;
    index.push(f);
    ends.push(total);
  }
  const at = (place: number): number => {
    const on = place - Math.floor(place / total) * total;
    let [low, high] = [0, ends.length - 1];
    while (low < high) {
      const m = (low + high) >> 1;
      if ((ends[m] ?? 0) > on) high = m;
      else low = m + 1;
    }
    return index[low] ?? 0;
  };
  return { total, why, at };
}

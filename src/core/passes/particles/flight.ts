import { type Form, type FormMaker, formOf, pinned, poseOf } from '#core/geometry';
import type { KernelTeam } from '#core/grid';
import { hash3, mulberry32 } from '#core/math';
import { atMoment } from '#core/moves';
import type { Birthplace, ParticlesBody } from './body';
import { Cloud } from './cloud';
import { measureOf, seed } from './seeds';
import { VelocityField, type VelocityPart } from './velocity';

/** m/s^2. */
const GRAVITY = 9.81;
/** Voxels that the fastest gas may cross in a substep. */
const CFL = 2;
const MOST_SUBSTEPS = 16;
/** Particles of an item of the kernel. */
const BUNCH = 1024;

export interface Counts {
  readonly born: number;
  readonly gone: number;
  readonly substeps: number;
}

/**
 * A run of carried particles, frame after frame. Seeds come from the frame's number and the seed alone: nothing of chance is kept from one to the next,
 * and the same input gives the same bits with any number of threads.
 */
export class Flight {
  readonly cloud: Cloud;
  #before: VelocityField;
  #after: VelocityField;
  #nextId = 0;
  readonly #forms: readonly Form[];
  readonly #measures = new Map<number, ReturnType<typeof measureOf>>();

  constructor(
    private readonly body: ParticlesBody,
    private readonly team: KernelTeam,
    maker: FormMaker,
    /** What `state` gave after the frame before the next one. */
    from: Uint8Array | null = null,
  ) {
    this.cloud = new Cloud(team);
    this.#before = new VelocityField(team);
    this.#after = new VelocityField(team);
    this.#nextId = (from && this.cloud.load(from)) ?? 0;
    this.#forms = body.places.map((p) => formOf(p.shape, maker, 0.05, 0.2));
  }

  state(): Uint8Array<ArrayBuffer> {
    return this.cloud.save(this.#nextId);
  }

  /** The first frame: one frame's births, where they are born. */
  begin(frame: number, gas: readonly VelocityPart[]): Counts {
    this.#after.load(gas);
    const born = this.#emit(frame);
    const { cloud } = this;
    // Born this very moment: the kernel gives them the velocity of the gas.
    for (let n = 0; n < cloud.count; n++) cloud.places[4 * n + 3] = -1e-9;
    this.#carry(this.#after, 1e-9, 1);
    for (let n = 0; n < cloud.count; n++) cloud.places[4 * n + 3] = 0;
    return { born, gone: 0, substeps: 0 };
  }

  /** What the next frame begins with, when it does not follow from one that was computed here. */
  goOn(before: readonly VelocityPart[]): void {
    this.#after.load(before);
  }

  /** From the frame before to `frame`. */
  step(frame: number, gas: readonly VelocityPart[]): Counts {
    [this.#before, this.#after] = [this.#after, this.#before];
    this.#after.load(gas);
    const { frameSeconds } = this.body;
    const born = this.#emit(frame);
    const [a, b] = [this.#before, this.#after];
    const crossed = (Math.max(a.fastest, b.fastest) * frameSeconds) / Math.min(a.finest, b.finest);
    const substeps = Math.max(1, Math.min(MOST_SUBSTEPS, Math.ceil(crossed / CFL)));
    this.#carry(a, frameSeconds, substeps);
    return { born, gone: this.cloud.bury(), substeps };
  }

  #carry(before: VelocityField, seconds: number, substeps: number): void {
    const { cloud, team } = this;
    const { drag, weight } = this.body.settings;
    const after = this.#after;
    const [x, y, z] = after.background;
    const bunches = Math.ceil(cloud.count / BUNCH);
    const pull = drag === null ? 0 : -weight * GRAVITY;
    const fields = [before.records, before.parts, after.records, after.parts, x, y, z];
    team.launch('flyParticles', bunches, cloud.placesAt, cloud.motionsAt, cloud.count, ...fields, seconds, substeps, drag ?? -1, pull);
  }

  /** Those that are born between the frame before and this one; their ages say how long before it, negative. Returns how many. */
  #emit(frame: number): number {
    const { settings, places, frameSeconds, firstFrame, framesPerSecond } = this.body;
    const { cloud } = this;
    const before = cloud.count;
    // Halfway: where a moving source is in the middle of the step.
    const moment = { time: (frame - 0.5 - firstFrame) / framesPerSecond, firstFrame, framesPerSecond };
    const open = places
      .map((place, n) => ({ place, n, now: moved(place, moment, this.body) }))
      .filter(({ now }) => (now.density ?? 0) !== 0 || (now.heat ?? 0) !== 0 || (now.fuel ?? 0) !== 0);
    const measured = open.map((o) => {
      const form = this.#forms[o.n] as Form;
      const pose = poseOf(o.now.shape, moment.time, firstFrame, framesPerSecond);
      const distance = form.distance(pose);
      const box = form.bounds(pose);
      const still = Object.keys(o.place.moves).length === 0 && o.place.shape.kind !== 'mesh';
      const known = still ? this.#measures.get(o.n) : undefined;
      const measure = known ?? measureOf(distance, box);
      if (still) this.#measures.set(o.n, measure);
      return { ...o, distance, box, measure, size: settings.birth === 'volume' ? measure.volume : measure.area };
    });
    const all = measured.reduce((sum, m) => sum + m.size, 0);
    const wanted = settings.perSecond * frameSeconds;
    cloud.reserve(before + Math.ceil(wanted));
    for (const m of measured) {
      const random = mulberry32(hash3(frame, m.n, settings.seed, 0x5eed));
      seed(m.distance, m.box, settings.birth, m.measure, (wanted * m.size) / all, random, (x, y, z) => {
        // Never 0: those below are born on the way.
        const age = -Math.max(1e-6, random() * frameSeconds);
        const limit = settings.life * (1 + settings.lifeSpread * (2 * random() - 1));
        cloud.reserve(cloud.count + 1);
        const n = cloud.count++;
        cloud.places.set([x, y, z, age], 4 * n);
        cloud.motions.set([0, 0, 0, limit], 4 * n);
        cloud.ids[n] = this.#nextId++;
      });
    }
    return cloud.count - before;
  }
}

function moved(place: Birthplace, moment: Parameters<typeof atMoment>[2], { followed }: ParticlesBody): Birthplace {
  if (Object.keys(place.moves).length === 0) return place;
  const now = atMoment(place, place.moves, moment, followed);
  return { ...now, shape: pinned(place.shape, now.shape, place.turnsAbout) };
}

import type { KernelTeam } from '#core/grid';
import { GRAVITY } from '#core/units';
import { Cloud } from './cloud';
import { VelocityField, type VelocityPart } from './velocity';

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

/** How particles fly once they are born. */
export interface FlightBody {
  /** Per second; null: they go exactly with the gas. */
  readonly drag: number | null;
  /** Part of gravity that pulls them. */
  readonly weight: number;
  /** Seconds of the computation in a step. */
  readonly frameSeconds: number;
}

/** Where and when particles are born. */
export interface Births {
  /** Adds those that are born between the frame before and this one: their ages say how long before it, negative; their velocities are the kernel's. */
  bear(frame: number, cloud: Cloud): void;
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

  constructor(
    private readonly body: FlightBody,
    private readonly births: Births,
    private readonly team: KernelTeam,
    /** What `state` gave after the frame before the next one. */
    from: Uint8Array | null = null,
  ) {
    this.cloud = new Cloud(team);
    this.#before = new VelocityField(team);
    this.#after = new VelocityField(team);
    this.#nextId = (from && this.cloud.load(from)) ?? 0;
  }

  state(): Uint8Array<ArrayBuffer> {
    return this.cloud.save(this.#nextId);
  }

  /** The first frame: one frame's births, where they are born. */
  begin(frame: number, gas: readonly VelocityPart[]): Counts {
    this.#after.load(gas);
    const born = this.#bear(frame);
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
    const born = this.#bear(frame);
    const [a, b] = [this.#before, this.#after];
    const crossed = (Math.max(a.fastest, b.fastest) * frameSeconds) / Math.min(a.finest, b.finest);
    const substeps = Math.max(1, Math.min(MOST_SUBSTEPS, Math.ceil(crossed / CFL)));
    this.#carry(a, frameSeconds, substeps);
    return { born, gone: this.cloud.bury(), substeps };
  }

  #carry(before: VelocityField, seconds: number, substeps: number): void {
    const { cloud, team } = this;
    const { drag, weight } = this.body;
    const after = this.#after;
    const [x, y, z] = after.background;
    const bunches = Math.ceil(cloud.count / BUNCH);
    const pull = drag === null ? 0 : -weight * GRAVITY;
    const fields = [before.records, before.parts, after.records, after.parts, x, y, z];
    team.launch('flyParticles', bunches, cloud.placesAt, cloud.motionsAt, cloud.count, ...fields, seconds, substeps, drag ?? -1, pull);
  }

  /** Numbers those that are born in the order of their birth. Returns how many. */
  #bear(frame: number): number {
    const { cloud } = this;
    const before = cloud.count;
    this.births.bear(frame, cloud);
    for (let n = before; n < cloud.count; n++) cloud.ids[n] = this.#nextId++;
    return cloud.count - before;
  }
}

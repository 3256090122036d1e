import { RuddleError } from '#core/errors';
import type { KernelTeam } from '#core/grid';
import { formatBytes, formatCount } from '#core/units';

/** Bytes of one particle: place, motion, marks, and the three rows of its affine velocity. */
const VECTOR = 16;
const AFFINE = 48;

/** Bytes that each takes, its twin and its key included. */
export const bytesEachParticle = (isAffine: boolean): number => 2 * (3 * VECTOR + (isAffine ? AFFINE : 0)) + 8;

/**
 * Particles as they lie in memory, see src/kernels/assembly/liquid-sort.ts. Every array is there twice: sorting writes the other one. Nothing of an arena is
 * given back, so that growing doubles: what was outgrown stays behind.
 */
export class Particles {
  count = 0;
  capacity = 0;
  places = 0;
  motions = 0;
  marks = 0;
  /** 0: they have none. */
  affine = 0;
  #other = { places: 0, motions: 0, marks: 0, affine: 0 };
  keys = 0;
  order = 0;
  /** Ids given so far. */
  born = 0;

  constructor(
    private readonly team: KernelTeam,
    private readonly isAffine: boolean,
  ) {}

  get other(): { readonly places: number; readonly motions: number; readonly marks: number; readonly affine: number } {
    return this.#other;
  }

  get bytes(): number {
    return this.capacity * bytesEachParticle(this.isAffine);
  }

  /** Room for so many; `known`: no more of them will come soon. */
  reserve(wanted: number, known = false): void {
    if (wanted <= this.capacity) return;
    const { team } = this;
    const capacity = Math.ceil(Math.max(known ? wanted : wanted * 1.1, known ? 0 : this.capacity * 1.5, 16384));
    const [neededBytes, availableBytes] = [capacity * bytesEachParticle(this.isAffine), team.available()];
    if (neededBytes > availableBytes) {
      const text = `${formatCount(wanted)} particles do not fit into memory: ${formatBytes(neededBytes)} are needed, ${formatBytes(availableBytes)} are left.`;
      throw new RuddleError('arena-too-small', text, { neededBytes, availableBytes, frame: null });
    }
    const grown = (pointer: number, each: number): number => {
      const next = team.allocate(capacity * each);
      if (pointer !== 0) team.bytes(next, this.count * each).set(team.bytes(pointer, this.count * each));
      return next;
    };
    this.places = grown(this.places, VECTOR);
    this.motions = grown(this.motions, VECTOR);
    this.marks = grown(this.marks, VECTOR);
    if (this.isAffine) this.affine = grown(this.affine, AFFINE);
    this.#other = {
      places: team.allocate(capacity * VECTOR),
      motions: team.allocate(capacity * VECTOR),
      marks: team.allocate(capacity * VECTOR),
      affine: this.isAffine ? team.allocate(capacity * AFFINE) : 0,
    };
    this.keys = team.allocate(capacity * 4);
    this.order = team.allocate(capacity * 4);
    this.capacity = capacity;
  }

  swap(): void {
    const { places, motions, marks, affine } = this;
    Object.assign(this, this.#other);
    this.#other = { places, motions, marks, affine };
  }

  get placeFloats(): Float32Array {
    return this.team.floats(this.places, this.count * 4);
  }
  get motionFloats(): Float32Array {
    return this.team.floats(this.motions, this.count * 4);
  }
  get markFloats(): Float32Array {
    return this.team.floats(this.marks, this.count * 4);
  }
  get markWords(): Int32Array {
    return this.team.words(this.marks, this.count * 4);
  }
}

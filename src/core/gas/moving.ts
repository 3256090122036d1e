import { type Shape, pinned, rigidVelocity, sameShape, shapeBounds, shapeDistance, shapeTravel } from '#core/geometry';
import type { MovingSolid } from '#core/grid';
import { type Moment, atMoment } from '#core/moves';
import type { GasOptions, GasSolid, GasSource } from './options';

/** Of what keys and expressions move, the state at a moment. */
export class Motion {
  readonly #sources: readonly GasSource[];
  readonly #still: readonly Shape[];
  readonly #moving: readonly GasSolid[];

  constructor(private readonly options: GasOptions) {
    this.#sources = options.sources;
    const moves = (s: GasSolid): boolean => Object.keys(s.moves).length > 0;
    this.#still = options.solids.filter((s) => !moves(s)).map((s) => s.shape);
    this.#moving = options.solids.filter(moves);
  }

  get stillSolids(): readonly Shape[] {
    return this.#still;
  }

  get hasMovingSolids(): boolean {
    return this.#moving.length > 0;
  }

  #moment(time: number): Moment {
    return { time, firstFrame: this.options.firstFrame, framesPerSecond: this.options.framesPerSecond };
  }

  #shape(item: GasSolid, time: number): Shape {
    const moved = atMoment(item, item.moves, this.#moment(time), this.options.followed);
    return pinned(item.shape, moved.shape, item.turnsAbout);
  }

  source(index: number, time: number): GasSource {
    const source = this.#sources[index] as GasSource;
    if (Object.keys(source.moves).length === 0) return source;
    const moved = atMoment(source, source.moves, this.#moment(time), this.options.followed);
    return { ...moved, shape: pinned(source.shape, moved.shape, source.turnsAbout) };
  }

  /** Moving solids at the end of [time, time + dt], with the velocity that takes them there. */
  solids(time: number, dt: number): MovingSolid[] {
    return this.#moving.map((solid) => {
      const from = this.#shape(solid, time);
      const to = this.#shape(solid, time + dt);
      return {
        distance: shapeDistance(to),
        bounds: shapeBounds(to),
        velocity: arriving(from, to, dt),
      };
    });
  }

  /** Fastest point of any moving solid during [time, time + dt], m/s: of the corners of its box. */
  solidSpeed(time: number, dt: number): number {
    return Math.max(0, ...this.#moving.map((s) => shapeTravel(this.#shape(s, time), this.#shape(s, time + dt)) / dt));
  }

  matter(time: number): GasOptions['matter'] {
    const { matter, followed } = this.options;
    return Object.keys(matter.moves).length === 0 ? matter : atMoment(matter, matter.moves, this.#moment(time), followed);
  }

  forces(time: number): GasOptions['forces'] {
    const { forces, followed } = this.options;
    return Object.keys(forces.moves).length === 0 ? forces : atMoment(forces, forces.moves, this.#moment(time), followed);
  }
}

/** Velocity that has brought a shape's material to a point of its present placement. */
function arriving(from: Shape, to: Shape, dt: number): MovingSolid['velocity'] {
  if (sameShape(from, to)) return () => [0, 0, 0];
  const back = rigidVelocity(to, from, dt);
  return (x, y, z) => {
    const v = back(x, y, z);
    return [-v[0], -v[1], -v[2]];
  };
}
